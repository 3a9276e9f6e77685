"""Tokens and webhooks of an organisation, for its leads; and what changed since a moment, for other programs."""

from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

from django.db import connection, transaction
from django.db.models import Q
from django.db.models.functions import Coalesce
from django.http import Http404, HttpRequest
from django.utils import timezone
from ninja import Router
from pydantic import AwareDatetime

from beacon.people.access import locked, organisation, person
from beacon.people.models import Role
from beacon.plant.access import systems
from beacon.plant.models import Event, Fault
from beacon.problems import ProblemDocument
from beacon.programs import hooks, schemas, tokens
from beacon.programs.models import Message, Program, Scope, Topic, Webhook
from beacon.records.models import Record
from wary.job.closing import state_in_words

router = Router(tags=["other programs"])
Answer = dict[str, Any]
LATEST, MOST_CHANGES = 60, 500
SETTLED = timedelta(seconds=5)
"""What was done less long ago may not be kept yet by another transaction; the next question has it."""
UNDER_WAY = """select min(xact_start) from pg_stat_activity
  where datname = current_database() and backend_xid is not null and pid <> pg_backend_pid()"""
"""When the oldest began of what is being kept right now."""


def _program(one: Program) -> Answer:
    keys = ("id", "name", "scopes", "begins_with", "made_at", "used_at", "revoked_at")
    return {key: getattr(one, key) for key in keys} | {"made_by": str(one.made_by)}


def _webhook(one: Webhook) -> Answer:
    keys = ("id", "url", "topics", "made_at", "ended_at")
    return {key: getattr(one, key) for key in keys} | {"made_by": str(one.made_by)}


def _message(one: Message) -> Answer:
    keys = ("id", "topic", "about", "at", "tries", "tried_at", "next_at", "taken_at", "given_up_at", "said")
    return {key: getattr(one, key) for key in keys} | {
        "webhook": one.webhook_id,
        "url": one.webhook.url,
        "topic_words": Topic(one.topic).label,
    }


@router.get("programs", response=schemas.ProgramsView)
def programs(request: HttpRequest) -> Answer:
    """The tokens and webhooks of the organisation that this person leads, and what was told lately."""
    here = organisation(person(request), Role.LEAD)
    told = Message.objects.filter(webhook__organisation=here).select_related("webhook").order_by("-at")[:LATEST]
    return {
        "programs": [_program(one) for one in here.programs.select_related("made_by")],
        "webhooks": [_webhook(one) for one in here.webhooks.select_related("made_by")],
        "messages": [_message(one) for one in told],
        "scopes": [{"word": one.value, "says": one.label} for one in Scope],
        "topics": [{"word": one.value, "says": one.label} for one in Topic],
    }


@router.post("programs", response={201: schemas.ProgramView, 422: ProblemDocument})
@transaction.atomic
def make_program(request: HttpRequest, given: schemas.ProgramIn) -> tuple[int, Answer]:
    """A new token for another program; it is said this once."""
    user = person(request)
    here = locked(organisation(user, Role.LEAD))
    made, token = tokens.make(user, here, given.name.strip() or "Program", [Scope(one) for one in dict.fromkeys(given.scopes)])  # fmt: skip
    return 201, _program(made) | {"token": token}


@router.delete("programs/{program_id}", response={204: None})
def revoke_program(request: HttpRequest, program_id: UUID) -> tuple[int, None]:
    """Revokes a token, at once."""
    tokens.revoke(organisation(person(request), Role.LEAD), program_id)
    return 204, None


@router.post("webhooks", response={201: schemas.WebhookView, 422: ProblemDocument})
@transaction.atomic
def make_webhook(request: HttpRequest, given: schemas.WebhookIn) -> tuple[int, Answer]:
    """A new webhook; the secret by which its receiver verifies what it is told is said this once."""
    user = person(request)
    here = locked(organisation(user, Role.LEAD))
    made = hooks.make(user, here, given.url.strip(), [Topic(one) for one in dict.fromkeys(given.topics)])
    return 201, _webhook(made) | {"secret": made.secret}


@router.delete("webhooks/{webhook_id}", response={204: None})
def end_webhook(request: HttpRequest, webhook_id: UUID) -> tuple[int, None]:
    """Ends a webhook: it is told nothing any more, nor what waits to be told."""
    here = organisation(person(request), Role.LEAD)
    found = here.webhooks.filter(id=webhook_id)
    if not found.exists():
        raise Http404
    found.filter(ended_at=None).update(ended_at=timezone.now())
    return 204, None


@router.post("messages/{message_id}/again", response=schemas.MessageView)
def send_again(request: HttpRequest, message_id: UUID) -> Answer:
    """Sends a message again, from the first try on."""
    return _message(hooks.again(organisation(person(request), Role.LEAD), message_id))


def _settled_until() -> datetime:
    """A moment up to which all that was kept can be seen: whatever is still on its way is later."""
    with connection.cursor() as cursor:
        cursor.execute(UNDER_WAY)
        (oldest,) = cursor.fetchone()
    until = timezone.now() - SETTLED
    return min(until, oldest) if oldest else until


@router.get("changes", response={200: schemas.ChangesView, 422: ProblemDocument})
def changes(request: HttpRequest, since: AwareDatetime) -> Answer:
    """What was kept since a moment (2031-05-04T10:00:00Z) in the organisation at hand, the oldest first.

    It goes by when something was kept here, and not by when it was done: what comes in late is told when it comes.
    """
    user = person(request)
    here = organisation(user)
    until = _settled_until()
    records = Record.objects.filter(organisation=here).annotate(kept=Coalesce("kept_at", "sealed_at"))
    records = records.filter(kept__gt=since, kept__lte=until)
    records = records.select_related("job__channel__system").defer("content", "job__fold").order_by("kept")
    listed = list(records[: MOST_CHANGES + 1])
    more = len(listed) > MOST_CHANGES
    if more:
        # Those that were kept at one moment are told together.
        until = listed[MOST_CHANGES - 1].kept
        listed = list(records.filter(kept__lte=until))
    kept = Coalesce("kept_at", "at")
    faults = Fault.objects.filter(system__site__organisation=here).annotate(kept=kept)
    faults = faults.filter(kept__gt=since, kept__lte=until)
    events = Event.objects.filter(system__site__organisation=here).annotate(kept=kept)
    happened = events.filter(kept__gt=since, kept__lte=until).values("system")
    touched = Q(id__in=[one.job.channel.system_id for one in listed]) | Q(id__in=happened)
    return {
        "until": max(since, until).isoformat(),
        "more": more,
        "records": [
            {
                "id": one.id,
                "number": one.number,
                "system": one.job.channel.system_id,
                "name": one.job.channel.system.name,
                "outcome": (one.job.summary or {}).get("outcome", ""),
                "sealed_at": one.sealed_at,
                "sha256": one.sha256,
            }
            for one in listed
        ],
        "faults": [
            {"id": one.id, "system": one.system_id, "name": one.system.name, "title": one.title, "put_right": one.put_right, "at": one.at}
            for one in faults.select_related("system").order_by("kept")
        ],
        "systems": [
            {
                "id": one.id,
                "name": one.name,
                "site": one.site.name,
                "kind": one.kind,
                "state": one.recorded_state,
                "state_words": state_in_words(one.recorded_state, one.last),
                "due": one.due,
            }
            for one in systems(user).filter(touched, site__organisation=here).distinct()
        ],
    }  # fmt: skip
