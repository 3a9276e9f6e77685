"""A record that somebody may see, and a channel that they may work on."""

from uuid import UUID

from django.db.models import QuerySet
from django.http import Http404, HttpRequest

from beacon.people.access import person, works_in
from beacon.people.models import Organisation, Person
from beacon.plant.access import own_systems, sites
from beacon.plant.models import Channel
from beacon.records.models import Record


def visible(user: Person) -> QuerySet[Record]:
    """The records of the sites that this person may see."""
    return Record.objects.filter(job__channel__system__site__in=sites(user))


def visible_in(of: Organisation, user: Person) -> QuerySet[Record]:
    """The records of one organisation that this person may see: who works there all, a reader those of the sites given."""
    # Not one condition with that of the sites: the database would think that hardly any record answers to both, and
    # read all of them before it puts them in order.
    records = Record.objects.filter(organisation=of)
    if works_in(user).filter(pk=of.pk).exists():
        return records
    return records.filter(
        job__channel__system__site__in=list(sites(user).filter(organisation=of).values_list("pk", flat=True))
    )


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
