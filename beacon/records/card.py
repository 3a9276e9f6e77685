"""The card for the cab: one side, readable at arm's length."""

import json
from zoneinfo import ZoneInfo

from django.utils import timezone

from beacon.bench.models import Job
from beacon.plant.models import Channel
from beacon.records.certificate import parts_of
from beacon.records.models import Record
from beacon.records.printing import pdf
from wary.drawings import RateTable
from wary.job.closing import STATES
from wary.job.file import read
from wary.methods import all_methods
from wary.methods.method import Seen
from wary.methods.within import drawn

LATEST = 12
"""So many of the latest records of a channel are looked through for its chart."""


def card(channel: Channel) -> bytes:
    """The card of a channel as PDF."""
    return pdf("card", about_card(channel))


def _figures(channel: Channel) -> list[tuple[str, str]]:
    """The channel's own figures, large on the card: gate, setting, speed, target."""
    titles = channel.system.machine.titles()
    return [(titles.get(key, key), str(channel.figures[key])) for key in titles if key in channel.figures]


def _chart(channel: Channel) -> RateTable | None:
    """The table of the latest closed job that drew one."""
    for record in Record.objects.filter(job__channel=channel).order_by("-number")[:LATEST]:
        for _, part in parts_of(json.loads(record.content)):
            given = read({"method": part["method"], "inputs": part["inputs"]}).given
            found = drawn(all_methods()[part["method"]], given, Seen())
            if isinstance(found, RateTable) and found.rows:
                return found
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
        "state": STATES["not-valid" if half else system.recorded_state],
        "valid": not half and system.state not in ("not-valid", "fault", "out-of-service"),
        "last": last.astimezone(zone).strftime("%-d %B %Y") if last else "",
        "due": system.due.strftime("%-d %B %Y") if system.due else "",
        "made": timezone.now().astimezone(zone).strftime("%-d %B %Y"),
    }
