"""The card for the cab: one side, readable at arm's length."""

from zoneinfo import ZoneInfo

from django.conf import settings
from django.template.loader import render_to_string
from django.utils import timezone
from weasyprint import HTML

from beacon.bench.models import Job
from beacon.plant.models import Channel
from wary.job.closing import STATES


def card(channel: Channel) -> bytes:
    """The card of a channel as PDF."""
    page = render_to_string("records/card.html", about_card(channel))
    return bytes(HTML(string=page, base_url=str(settings.ROOT)).write_pdf(pdf_variant="pdf/ua-1"))


def about_card(channel: Channel) -> dict[str, object]:
    """What a card says, by the names that its template uses."""
    system = channel.system
    zone = ZoneInfo(system.site.time_zone)
    closed = Job.objects.filter(channel=channel, closed_at__isnull=False, practice=False).order_by("-closed_at")
    last = closed.values_list("closed_at", flat=True).first()
    half = Job.objects.filter(channel=channel, closed_at=None, not_valid=True, practice=False).exists()
    return {
        "system": system,
        "channel": channel.name if system.channels.count() > 1 else "",
        "lines": system.machine.card,
        "state": STATES["not-valid" if half else system.recorded_state],
        "valid": not half and system.state not in ("not-valid", "fault", "out-of-service"),
        "last": last.astimezone(zone).strftime("%-d %B %Y") if last else "",
        "due": system.due.strftime("%-d %B %Y") if system.due else "",
        "made": timezone.now().astimezone(zone).strftime("%-d %B %Y"),
    }
