"""An organisation closed by one of its leads: nobody works there any more, nothing is told, and its archive was taken.

What was sealed stays sealed, in the database and its chain; whoever runs the server can open it again.
"""

from datetime import timedelta
from typing import Any

from django.db import transaction
from django.utils import timezone

from beacon.archive.models import Closing
from beacon.loads.models import Watch
from beacon.people.access import is_lead, locked, nobodys_program
from beacon.people.models import Membership, Organisation, Person
from beacon.planner.models import Feed
from beacon.problems import Problem

FRESH = timedelta(days=1)
"""An archive of no longer ago is wanted before an organisation is closed."""


@transaction.atomic
def close(user: Person, here: Organisation, name: str, why: str) -> Closing:
    """Closes an organisation. Raises Problem where its name is not typed, no archive was taken, or jobs are open."""
    here = locked(here)
    if not is_lead(user, here):
        raise Problem(409, "Not closed", "You are no lead of it any more.")
    if name.strip() != here.name:
        raise Problem(422, "Not closed", errors=[{"path": "name", "text": f"Type its name as it is: {here.name}"}])
    taken = here.archives.filter(finished_at__gt=timezone.now() - FRESH, gone=False)
    if not taken.exists():
        raise Problem(409, "Take an archive first", "One of today is wanted: it is all that is left to you of it.")
    now = timezone.now()
    members = [_noted(one) for one in here.memberships.filter(nobodys_program("person")).prefetch_related("sites")]
    made = Closing.objects.create(organisation=here, by=user, why=why, members=members)
    # Whatever is seen or done here is by a membership: without one there is nothing.
    here.memberships.all().delete()
    here.invitations.filter(used_at=None).delete()
    here.programs.filter(revoked_at=None).update(revoked_at=now)
    here.webhooks.filter(ended_at=None).update(ended_at=now)
    here.doors.filter(revoked_at=None).update(revoked_at=now)
    here.houses.all().delete()
    Watch.objects.filter(channel__system__site__organisation=here).delete()
    Feed.objects.filter(organisation=here, revoked_at=None).update(revoked_at=now)
    return made


def _noted(one: Membership) -> dict[str, Any]:
    return {"person": one.person_id, "role": one.role, "sites": [str(site.pk) for site in one.sites.all()]}


@transaction.atomic
def reopen(closing: Closing) -> int:
    """Gives everyone back what they could do there; how many people that are."""
    here = locked(closing.organisation)
    for one in closing.members:
        membership, _ = Membership.objects.get_or_create(person_id=one["person"], organisation=here, defaults={"role": one["role"]})  # fmt: skip
        membership.sites.set(one["sites"])
    closing.reopened_at = timezone.now()
    closing.save(update_fields=["reopened_at"])
    return len(closing.members)
