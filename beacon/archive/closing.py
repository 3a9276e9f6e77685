"""An organisation closed by one of its leads: nobody works there any more, nothing is told, and its archive was taken.

What was sealed stays sealed, in the database and its chain; whoever runs the server can open it again.
"""

from typing import Any

from django.db import transaction
from django.utils import timezone
from procrastinate.contrib.django import app

from beacon.archive.making import members_in
from beacon.archive.models import MAKE, QUEUE, Archive, Closing
from beacon.background.made import UNDER_WAY
from beacon.bench.models import Job
from beacon.loads.models import Watch
from beacon.people.access import is_lead, locked, nobodys_program
from beacon.people.models import Membership, Organisation, Person
from beacon.planner.models import Feed
from beacon.problems import Problem

MOST_NAMED = 20


@transaction.atomic
def close(user: Person, here: Organisation, name: str, why: str, with_open_jobs: bool = False) -> Closing:
    """Closes an organisation, and has its archive made as it is from then on.

    Raises Problem where its name is not typed, or where jobs are open and whoever closes it did not say that they
    stay so: each is named.
    """
    here = locked(here)
    if not is_lead(user, here):
        raise Problem(409, "Not closed", "You are no lead of it any more.")
    if name.strip() != here.name:
        raise Problem(422, "Not closed", errors=[{"path": "name", "text": f"Type its name as it is: {here.name}"}])
    if not with_open_jobs and (left := still_open(here)):
        raise Problem(
            409,
            "Jobs are open",
            "Close them first, or say that they stay open: they are in the archive as they are, and nobody "
            "goes on with them.",
            left,
        )
    now = timezone.now()
    members = [_noted(one) for one in here.memberships.filter(nobodys_program("person")).prefetch_related("sites")]
    # One that is under way is of an earlier moment: it is given up for the one that is of the end.
    here.archives.filter(**UNDER_WAY).update(
        failed="The organisation was closed meanwhile: the archive of that is made."
    )
    archive = Archive.objects.create(organisation=here, by=user)
    made = Closing.objects.create(
        organisation=here, by=user, why=why, members=members, ended=_ended(here), rows=members_in(here), archive=archive
    )
    # Whatever is seen or done here is by a membership: without one there is nothing.
    here.memberships.all().delete()
    here.invitations.filter(used_at=None).delete()
    here.programs.filter(revoked_at=None).update(revoked_at=now)
    here.webhooks.filter(ended_at=None).update(ended_at=now)
    here.doors.filter(revoked_at=None).update(revoked_at=now)
    here.houses.all().delete()
    Watch.objects.filter(channel__system__site__organisation=here).delete()
    Feed.objects.filter(organisation=here, revoked_at=None).update(revoked_at=now)
    app.configure_task(MAKE, queue=QUEUE).defer(archive=str(archive.pk))
    return made


def still_open(here: Organisation) -> list[dict[str, str]]:
    """The jobs that are open, each in a sentence."""
    jobs = Job.objects.filter(channel__system__site__organisation=here, closed_at=None, practice=False)
    found = jobs.select_related("channel__system__site", "opened_by").order_by("opened_at")
    rows = [
        f"{one.channel.system.name}, begun by {one.opened_by} on "
        f"{one.channel.system.site.day_of(one.opened_at)}, {one.entries} entries"
        for one in found[:MOST_NAMED]
    ]
    more = found.count() - len(rows)
    return [{"path": "with_open_jobs", "text": text} for text in (*rows, *([f"and {more} more"] if more else []))]


def _ended(here: Organisation) -> dict[str, list[str]]:
    """What ends and does not come back, each by its name."""
    feeds = Feed.objects.filter(organisation=here, revoked_at=None).select_related("person")
    watched = Watch.objects.filter(channel__system__site__organisation=here).select_related("channel__system")
    found = {
        "own sign-in": [one.name for one in here.houses.all()],
        "token": [one.name for one in here.programs.filter(revoked_at=None)],
        "webhook": [one.url for one in here.webhooks.filter(ended_at=None)],
        "customer's link": [str(one) for one in here.doors.filter(revoked_at=None)],
        "calendar feed": [f"of {one.person}" for one in feeds],
        "live weight that is watched": [str(one.channel.system) for one in watched],
        "invitation": [one.address for one in here.invitations.filter(used_at=None)],
    }
    return {what: names for what, names in found.items() if names}


def _noted(one: Membership) -> dict[str, Any]:
    return {"person": one.person_id, "role": one.role, "sites": [str(site.pk) for site in one.sites.all()]}


@transaction.atomic
def reopen(closing: Closing) -> int:
    """Gives everyone back what they could do there; how many people that are.

    What else ended stays so (`Closing.ended`).
    """
    here = locked(closing.organisation)
    for one in closing.members:
        membership, _ = Membership.objects.get_or_create(person_id=one["person"], organisation=here, defaults={"role": one["role"]})  # fmt: skip
        membership.sites.set(one["sites"])
    closing.reopened_at = timezone.now()
    closing.save(update_fields=["reopened_at"])
    return len(closing.members)
