"""A customer's door: a link to one certificate, or to those of one machine, that opens without signing in, until a day.

It shows the paper and whether its seal fits, and nothing else. Only the hash of its secret is kept.
"""

import datetime
import hashlib
import secrets
from typing import Any
from uuid import UUID

from django.conf import settings
from django.db import transaction
from django.db.models import F, QuerySet
from django.http import Http404, HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Router

from beacon.downloads import as_file
from beacon.people.access import is_lead, locked, person
from beacon.people.models import Person
from beacon.people.rate_limit import spend
from beacon.plant.models import Site
from beacon.plant.view import Answer, today_at
from beacon.printing.certificate import certificate
from beacon.printing.together import in_period
from beacon.problems import Problem, ProblemDocument
from beacon.records import schemas
from beacon.records.access import record_of
from beacon.records.looking import why_broken
from beacon.records.models import Door, Record

router = Router(tags=["records"])
MOST, LATEST = 200, 50
LONGEST = datetime.timedelta(days=5 * 366)


def _hash(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()


def _led(user: Person, record_id: UUID) -> Record:
    """A record of an organisation that this person leads. Raises Http404 otherwise."""
    record = record_of(user, record_id)
    if not is_lead(user, record.organisation):
        raise Http404
    return record


SITES = ("system__site", "record__job__channel__system__site")


def _site(one: Door) -> Site:
    """Where the machine stands: a link is open until the end of a day there."""
    system = one.record.job.channel.system if one.record else one.system
    assert system
    return system.site


def _over(one: Door) -> bool:
    return one.until < today_at(_site(one).time_zone)


def _view(one: Door) -> Answer:
    keys = ("id", "until", "made_at", "revoked_at", "opened_at", "opened")
    return {key: getattr(one, key) for key in keys} | {
        "made_by": str(one.made_by),
        "of_machine": one.system_id is not None,
        "over": _over(one),
    }


@router.get("records/{record_id}/doors", response=list[schemas.DoorView])
def doors(request: HttpRequest, record_id: UUID) -> list[Answer]:
    """The links that were made to a record, or to its machine's certificates; for a lead."""
    record = _led(person(request), record_id)
    listed = record.organisation.doors.select_related("made_by", *SITES).order_by("-made_at")
    return [_view(one) for one in listed.filter(record=record) | listed.filter(system=record.job.channel.system_id)]


@router.post("records/{record_id}/doors", response={201: schemas.DoorView, 422: ProblemDocument})
@transaction.atomic
def make_door(request: HttpRequest, record_id: UUID, given: schemas.DoorIn) -> tuple[int, Answer]:
    """A new link to a record's certificate, or to all of its machine; it is shown this once."""
    user = person(request)
    record = _led(user, record_id)
    here = locked(record.organisation)
    today = today_at(record.job.channel.system.site.time_zone)
    if not today <= given.until <= today + LONGEST:
        text = "Choose a day from today on, and no more than five years away."
        raise Problem(422, "Not made", errors=[{"path": "until", "text": text}])
    if here.doors.filter(revoked_at=None, until__gte=today).count() >= MOST:
        raise Problem(422, "There are many already", "Revoke one that is not used any more.")
    secret = secrets.token_urlsafe(32)
    which: dict[str, Any] = {"system": record.job.channel.system} if given.of_machine else {"record": record}
    made = Door.objects.create(organisation=here, secret_sha256=_hash(secret), until=given.until, made_by=user, **which)
    return 201, _view(made) | {"link": f"{settings.PUBLIC_URL}/paper/{secret}"}


@router.delete("doors/{door_id}", response={204: None})
def revoke_door(request: HttpRequest, door_id: UUID) -> tuple[int, None]:
    """Revokes a link, at once."""
    found = Door.objects.filter(id=door_id).select_related("organisation").first()
    if found is None or not is_lead(person(request), found.organisation):
        raise Http404
    Door.objects.filter(pk=found.pk, revoked_at=None).update(revoked_at=timezone.now())
    return 204, None


def _opened(request: HttpRequest, secret: str) -> tuple[Door, QuerySet[Record]]:
    """A door that is open, and the records behind it, the latest first. Raises Http404 for none, Problem 410 where it is shut."""
    spend(f"address {request.META.get('REMOTE_ADDR', '')}", "papers to print")
    found = Door.objects.filter(secret_sha256=_hash(secret)).select_related("organisation", *SITES).first()
    if found is None:
        raise Http404
    if found.revoked_at or _over(found):
        text = "It has ended, or was revoked. Ask whoever gave it to you for another."
        raise Problem(410, "This link is not open any more", text)
    records = Record.objects.filter(organisation=found.organisation).select_related("job__channel__system__site", "superseded_by")  # fmt: skip
    if found.record_id:
        return found, records.filter(pk=found.record_id)
    return found, in_period(records.filter(job__channel__system=found.system), None, None).order_by("-number")


@router.get("paper/{secret}", response={200: schemas.BehindDoor, 410: ProblemDocument}, auth=None)
def behind_door(request: HttpRequest, secret: str) -> Answer:
    """What is behind a link: the certificates, and whether the seal of each fits."""
    door, records = _opened(request, secret)
    Door.objects.filter(pk=door.pk).update(opened_at=timezone.now(), opened=F("opened") + 1)
    return {
        "organisation": door.organisation.name,
        "until": door.until,
        "records": [
            {
                "id": one.id,
                "number": one.number,
                "machine": one.job.channel.system.name,
                "site": one.job.channel.system.site.name,
                "day": one.job.channel.system.site.day_of(one.sealed_at),
                "outcome": (one.job.summary or {}).get("outcome", ""),
                "sha256": one.sha256,
                "fits": why_broken(one) is None,
                "put_right_by": one.superseded_by.number if hasattr(one, "superseded_by") else None,
            }
            for one in records[:LATEST]
        ],
    }


@router.get("paper/{secret}/{record_id}.pdf", response={200: bytes, 410: ProblemDocument}, auth=None)
def paper_behind_door(request: HttpRequest, secret: str, record_id: UUID) -> HttpResponse:
    """A certificate behind a link."""
    _, records = _opened(request, secret)
    record = records.filter(pk=record_id).first()
    if record is None:
        raise Http404
    return as_file(certificate(record), "application/pdf", f"certificate-{record.number}.pdf", "inline")
