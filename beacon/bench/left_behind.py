"""What somebody typed on a device after they could no longer work on a job: it is kept for a lead to look at.

It is no part of the job. A lead reads it, and types what of it is to stand as their own, or does not.
"""

import uuid

from django.db.models import Q
from django.http import Http404
from django.utils import timezone

from beacon.bench.keeping import Sent
from beacon.bench.models import Job, LeftBehind
from beacon.people.access import works_in
from beacon.people.models import Organisation, Person
from beacon.problems import Problem

MOST = 5_000
"""So many entries of one person are kept beside one job."""


def leave(user: Person, job_id: uuid.UUID, sent: list[Sent]) -> int:
    """Keeps what somebody typed into a job on which they worked and may not work any more; how many there are by now.

    Sending it again is harmless. Raises Http404 for a job on which they never worked, or still may.
    """
    worked = Q(opened_by=user) | Q(trail__who=user)
    job = Job.objects.filter(worked, id=job_id).exclude(channel__system__site__organisation__in=works_in(user)).first()
    if job is None:
        raise Http404
    there = LeftBehind.objects.filter(job=job, person=user)
    if there.count() + len(sent) > MOST:
        text = f"More than {MOST} entries were left here; keep the others as a file."
        raise Problem(413, "Too much", text, [{"path": "", "text": text}])
    now = timezone.now()
    LeftBehind.objects.bulk_create(
        [
            LeftBehind(
                job=job,
                person=user,
                entry_id=one.id,
                path=one.path,
                text=one.text,
                unit=one.unit,
                undoes=one.undoes,
                at=min(one.at or now, now),
            )
            for one in sent
        ],
        ignore_conflicts=True,
    )
    return there.count()


def seen(lead: Person, here: Organisation, job_id: uuid.UUID, person: int) -> None:
    """A lead has seen to what somebody left in a job. Raises Http404 where there is nothing of it."""
    rows = LeftBehind.objects.filter(job=job_id, person=person, job__channel__system__site__organisation=here)
    if not rows.filter(seen_at=None).update(seen_by=lead, seen_at=timezone.now()) and not rows.exists():
        raise Http404
