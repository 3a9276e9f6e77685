"""Webhooks, after the Standard Webhooks specification: what happens is told, signed, and tried again for a day.

What is to be told is kept in the transaction of what it tells of. It is sent in the background, each time the same
text under the same id, so that a receiver that has it already can leave it.
"""

import base64
import json
import secrets
import socket
import uuid
from collections.abc import Iterable
from datetime import datetime, timedelta
from typing import Any
from urllib.parse import urlsplit

import httpx
from django.db import transaction
from django.http import Http404
from django.utils import timezone
from procrastinate.contrib.django import app
from standardwebhooks.webhooks import Webhook as Signing

from beacon.metrics import HOOKS
from beacon.outside import may_be_asked
from beacon.people.models import Organisation, Person
from beacon.problems import Problem
from beacon.programs.models import Message, Topic, Webhook

MOST = 10
"""So many webhooks an organisation has at once."""
WAITS = [timedelta(seconds=one) for one in (5, 30, 120, 600, 1800, 3600, 7200, 14400, 21600, 28800)]
"""How long it waits after each try that failed: a good day in all."""
TIMEOUT = httpx.Timeout(10.0, connect=5.0)
MOST_READ = 4096
"""So much of an answer is read at most, in bytes: what a receiver says is of no further use."""
KEPT_FOR = timedelta(days=30)
SEND = "send a message"
"""The task that sends one, by its name."""


class NotSent(Exception):
    """Why something could not be sent, in words."""


def make(lead: Person, here: Organisation, url: str, topics: list[Topic]) -> Webhook:
    """A new webhook. Raises Problem 422 for an address that nothing is sent to."""
    if here.webhooks.filter(ended_at=None).count() >= MOST:
        raise Problem(422, "There are many already", "End one that is not used any more.")
    wrong = not_allowed(url)
    if wrong:
        raise Problem(422, "Nothing is sent there", errors=[{"path": "url", "text": wrong}])
    secret = "whsec_" + base64.b64encode(secrets.token_bytes(32)).decode()
    return Webhook.objects.create(organisation=here, url=url, topics=[one.value for one in topics], secret=secret, made_by=lead)  # fmt: skip


def not_allowed(url: str) -> str:
    """Why an address is none that a webhook may have; empty where it may."""
    parts = urlsplit(url)
    try:
        port = parts.port
    except ValueError:
        port = -1
    if parts.scheme not in ("http", "https") or not parts.hostname or port == -1 or parts.username or parts.fragment:
        return "expected an address such as https://maintenance.example/told"
    return ""


def addresses(host: str, port: int) -> list[str]:
    """The addresses behind a name that something may be sent to. Raises NotSent where there is none."""
    try:
        found = [str(one[4][0]) for one in socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)]
    except OSError:
        raise NotSent(f"{host} is not known") from None
    allowed = [one for one in dict.fromkeys(found) if may_be_asked(one)]
    if not allowed:
        raise NotSent(f"{host} is at an address to which nothing may be sent")
    return allowed


def tell(here: Organisation, topic: Topic, about: str, data: dict[str, Any], at: datetime | None = None) -> None:
    """Tells every webhook of an organisation that listens for it, once what it follows from is kept."""
    hooks = here.webhooks.filter(ended_at=None, topics__contains=[topic.value])
    at = at or timezone.now()
    for hook in hooks:
        text = json.dumps({"type": topic.value, "timestamp": at.isoformat(), "data": data}, ensure_ascii=False)
        send_soon(Message.objects.create(webhook=hook, topic=topic, text=text, about=about[:120]))


def send_soon(message: Message, after: timedelta = timedelta(0)) -> None:
    """Puts a message in line to be sent."""
    when = timezone.now() + after if after else None
    app.configure_task(SEND, queue="messages", schedule_at=when).defer(message=str(message.pk), tried=message.tries)


def try_once(message_id: uuid.UUID, tried: int) -> None:
    """Sends a message, and notes what became of it; where it is not taken, it is put in line again."""
    message = Message.objects.select_related("webhook").filter(pk=message_id).first()
    # Sent by another meanwhile, or its webhook ended.
    if message is None or message.taken_at or message.tries != tried or message.webhook.ended_at:
        return
    said, taken = "", False
    try:
        said, taken = _sent(message)
    except (NotSent, httpx.HTTPError, httpx.InvalidURL, ValueError) as wrong:
        said = str(wrong) or type(wrong).__name__
    _noted(message_id, tried, said, taken)


@transaction.atomic
def _noted(message_id: uuid.UUID, tried: int, said: str, taken: bool) -> None:
    message = Message.objects.select_for_update(of=("self",)).get(pk=message_id)
    if message.tries != tried or message.taken_at:
        return
    now = timezone.now()
    message.tries, message.tried_at, message.said = tried + 1, now, said[:200]
    message.next_at = None
    if taken:
        message.taken_at = now
    elif tried < len(WAITS):
        message.next_at = now + WAITS[tried]
        send_soon(message, WAITS[tried])
    else:
        message.given_up_at = now
    HOOKS.labels("taken" if taken else "given up" if message.given_up_at else "to be tried again").inc()
    message.save(update_fields=["tries", "tried_at", "said", "next_at", "taken_at", "given_up_at"])


def _sent(message: Message) -> tuple[str, bool]:
    """What the receiver said, and whether it took it. It is asked at the very address that was looked at."""
    parts = urlsplit(message.webhook.url)
    assert parts.hostname
    port = parts.port or (443 if parts.scheme == "https" else 80)
    address = addresses(parts.hostname, port)[0]
    now = timezone.now()
    headers = {
        "Host": parts.netloc,
        "Content-Type": "application/json",
        "User-Agent": "Wary Beacon",
        "webhook-id": str(message.pk),
        "webhook-timestamp": str(int(now.timestamp())),
        "webhook-signature": Signing(message.webhook.secret).sign(str(message.pk), now, message.text),
    }
    place = httpx.URL(message.webhook.url).copy_with(host=address, port=port)
    client = httpx.Client(timeout=TIMEOUT, follow_redirects=False, trust_env=False)
    with client, client.stream("POST", place, content=message.text.encode(), headers=headers, extensions={"sni_hostname": parts.hostname}) as answer:  # fmt: skip
        # Its first bytes are read so that the connection ends in order; the rest is left.
        next(answer.iter_raw(MOST_READ), b"")
        return f"{answer.status_code} {answer.reason_phrase}".strip(), answer.is_success


@transaction.atomic
def again(here: Organisation, message_id: uuid.UUID) -> Message:
    """Sends a message again, now. Raises Http404 for another organisation's, or one whose webhook ended."""
    found = Message.objects.select_for_update(of=("self",)).select_related("webhook")
    message = found.filter(pk=message_id, webhook__organisation=here, webhook__ended_at=None).first()
    if message is None:
        raise Http404
    message.taken_at = message.given_up_at = message.next_at = None
    message.tries = 0
    message.save(update_fields=["taken_at", "given_up_at", "next_at", "tries"])
    send_soon(message)
    return message


def forget(messages: Iterable[Message] | None = None) -> int:
    """Lets go of what was told long ago."""
    return Message.objects.filter(at__lt=timezone.now() - KEPT_FOR).delete()[0]
