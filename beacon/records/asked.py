"""What the endpoints of records ask for: a record that somebody may see, a channel that they may work on, a file to take away."""

from uuid import UUID

from django.http import Http404, HttpRequest, HttpResponse

from beacon.people.access import person
from beacon.people.models import Person
from beacon.plant.access import own_systems
from beacon.plant.models import Channel
from beacon.records.log import visible
from beacon.records.models import Record


def record_of(user: Person, record_id: UUID) -> Record:
    """A record that this person may see. Raises Http404 otherwise."""
    found = visible(user).select_related("job__channel__system__site").filter(id=record_id).first()
    if found is None:
        raise Http404
    return found


def channel_of(request: HttpRequest, channel_id: UUID) -> Channel:
    """A channel that whoever asks may work on. Raises Http404 otherwise."""
    systems = own_systems(person(request))
    found = Channel.objects.filter(id=channel_id, system__in=systems).select_related("system__profile").first()
    if found is None:
        raise Http404
    return found


def as_file(content: bytes, kind: str, name: str, how: str = "attachment") -> HttpResponse:
    """An answer that is a file, to keep or to be shown."""
    return HttpResponse(content, content_type=kind, headers={"Content-Disposition": f'{how}; filename="{name}"'})
