"""The card for the cab: one side, readable at arm's length."""

from typing import Any
from zoneinfo import ZoneInfo

from django.utils import timezone

from beacon.bench.models import Job
from beacon.plant.models import Channel
from beacon.printing.pdf import pdf
from beacon.records.models import Record
from beacon.records.wording import paper_in
from wary.job.closing import state_in_words

LATEST = 12
"""So many of the latest records of a channel are looked through for its chart."""


def card(channel: Channel) -> bytes:
    """The card of a channel as PDF."""
    return pdf("card", about_card(channel))


def _figures(channel: Channel) -> list[tuple[str, str]]:
    """The channel's own figures, large on the card: gate, setting, speed, target."""
    titles = channel.system.machine.titles()
    return [(titles.get(key, key), str(channel.figures[key])) for key in titles if key in channel.figures]


def _chart(channel: Channel) -> dict[str, Any] | None:
    """The table of the latest closed job that drew one."""
    records = Record.objects.filter(job__channel=channel).select_related("job__channel__system__site")
    for record in records.order_by("-number")[:LATEST]:
        _, paper = paper_in(record)
        if paper["chart"]:
            return dict(paper["chart"])
    return None


def about_card(channel: Channel) -> dict[str, object]:
    """What a card says, by the names that its template uses."""
    system = channel.system
    zone = ZoneInfo(system.site.time_zone)
    closed = Job.objects.filter(channel=channel, closed_at__isnull=False, practice=False).order_by("-closed_at")
    last = closed.values_list("closed_at", flat=True).first()
    half = Job.objects.filter(channel=channel, closed_at=None, not_valid=True, practice=False).exists()
    return {
        "system": system,
        "channel": channel.name if system.machine.channel_plates or system.channels.count() > 1 else "",
        "lines": system.machine.card,
        "figures": _figures(channel),
        "chart": _chart(channel) if channel.figures else None,
        "state": state_in_words("not-valid" if half else system.recorded_state, system.last),
        "valid": not half and system.state not in ("not-valid", "fault", "out-of-service"),
        "last": last.astimezone(zone).strftime("%-d %B %Y") if last else "",
        "due": system.due.strftime("%-d %B %Y") if system.due else "",
        "made": timezone.now().astimezone(zone).strftime("%-d %B %Y"),
    }
