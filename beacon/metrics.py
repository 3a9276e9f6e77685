"""What whoever runs the server sees of it: one line a request, and metrics in the Prometheus text format."""

import logging
import os
import time
from collections.abc import Callable
from ipaddress import ip_address, ip_network
from typing import Any

from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse
from prometheus_client import (
    CONTENT_TYPE_LATEST,
    REGISTRY,
    CollectorRegistry,
    Counter,
    Gauge,
    Histogram,
    generate_latest,
)
from prometheus_client.multiprocess import MultiProcessCollector

LOG = logging.getLogger("beacon.requests")
REQUESTS = Counter("beacon_requests_total", "Requests by endpoint and status", ["endpoint", "method", "status"])
SECONDS = Histogram("beacon_request_seconds", "Seconds to the answer, by endpoint", ["endpoint"])
ENTRIES = Counter("beacon_entries_kept_total", "Entries that were kept")
DIFFERENCES = Counter("beacon_core_differences_total", "Jobs that a device judged otherwise than the server")
SLOW = Counter("beacon_core_slow_total", "Devices that could not begin their core from the snapshot")
HOOKS = Counter(
    "beacon_webhook_tries_total", "Messages of webhooks that were tried, by what became of them", ["outcome"]
)
STREAMS = Gauge("beacon_open_streams", "Streams that are open", multiprocess_mode="livesum")

FORWARDED = ("HTTP_X_FORWARDED_FOR", "HTTP_X_FORWARDED_PROTO", "HTTP_X_FORWARDED_HOST")
NETWORKS = [ip_network(one, strict=False) for one in settings.PROXIES]


def _is_proxy(address: str) -> bool:
    try:
        return any(ip_address(address) in network for network in NETWORKS)
    except ValueError:
        return False


def behind_proxies(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Believes what is said of where a request comes from only where a proxy that is named says it."""

    def respond(request: HttpRequest) -> HttpResponse:
        meta = request.META
        if not _is_proxy(meta.get("REMOTE_ADDR", "")):
            for header in FORWARDED:
                meta.pop(header, None)
            return get_response(request)
        # The last address that is no proxy of ours is the one that a proxy of ours saw.
        ways = [one.strip() for one in meta.get("HTTP_X_FORWARDED_FOR", "").split(",") if one.strip()]
        meta["REMOTE_ADDR"] = next((one for one in reversed(ways) if not _is_proxy(one)), meta["REMOTE_ADDR"])
        return get_response(request)

    return respond


def endpoint_of(request: HttpRequest) -> str:
    """An endpoint as it is written, without what identifies anything."""
    match = request.resolver_match
    return f"/{match.route}" if match and match.route and not match.route.startswith("^") else "page"


def one_line_each(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Logs a request in one line: person, method, endpoint, status, milliseconds; no figures, no secrets, no ids."""

    def respond(request: HttpRequest) -> HttpResponse:
        began = time.monotonic()
        response = get_response(request)
        seconds = time.monotonic() - began
        endpoint = endpoint_of(request)
        user: Any = getattr(request, "_cached_user", None)
        if settings.REQUEST_LOG:
            who = user.username if user is not None and user.is_authenticated else "-"
            LOG.info("%s %s %s %d %.0f ms", who, request.method, endpoint, response.status_code, seconds * 1000)
        if settings.METRICS:
            REQUESTS.labels(endpoint, request.method, response.status_code).inc()
            SECONDS.labels(endpoint).observe(seconds)
        return response

    return respond


def metrics(request: HttpRequest) -> HttpResponse:
    """The metrics of all processes of this server; not there unless they are switched on."""
    if not settings.METRICS:
        raise Http404
    registry: CollectorRegistry = REGISTRY
    if os.environ.get("PROMETHEUS_MULTIPROC_DIR"):
        registry = CollectorRegistry()
        MultiProcessCollector(registry)  # type: ignore[no-untyped-call]
    return HttpResponse(generate_latest(registry), content_type=CONTENT_TYPE_LATEST)
