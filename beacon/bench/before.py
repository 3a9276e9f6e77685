"""What is known of a machine before a job on it begins: what was found on it and its like, and how it has moved."""

import datetime
import uuid
from collections import Counter
from dataclasses import asdict, dataclass, field
from typing import Any

from django.db.models import IntegerField, Sum
from django.db.models.fields.json import KeyTextTransform
from django.db.models.functions import Cast

from beacon.bench.models import Job
from beacon.plant.models import Channel, Fault, System
from wary.job.evidence import SINCE_AN_EVENT
from wary.rules.drift import Moved, Visit, moves_steadily, usual_move
from wary.suspects.suspect import NO_PAST, Past

LAST_JOBS = 5
"""So many of the latest jobs of a channel say how it moves."""
LOOKED_BACK = 500
"""So many of the latest faults of a kind count."""
A_WEEK = datetime.timedelta(days=7)


@dataclass(frozen=True)
class Before:
    """What is known of a machine and of one of its channels; nothing of one for practice."""

    found: dict[str, float] = field(default_factory=dict)
    repaired: list[str] = field(default_factory=list)
    beside: list[list[Any]] = field(default_factory=list)
    drifts: bool = False
    moved: dict[str, Any] = field(default_factory=dict)
    past: Past = NO_PAST


def known_before(channel: Channel, at: datetime.datetime) -> Before:
    """What is known of a channel's machine as of a moment."""
    found, repaired = _found_before(channel.system)
    drifts, moved = _how_it_moves(channel)
    return Before(found, repaired, _beside(channel.system, at), drifts, asdict(moved) if moved else {}, _past(channel))


def _past(channel: Channel) -> Past:
    """What the visits to a machine and to its like say of chances; what was seen counts until something was logged
    since."""
    system = channel.system
    kept = system.past
    like = System.objects.filter(site__organisation_id=system.site.organisation_id, kind=system.kind, practice=False)
    others = like.exclude(pk=system.pk)
    counts = {name: Sum(Cast(KeyTextTransform(name, "past"), IntegerField())) for name in ("visits", "faults")}
    summed = others.aggregate(**counts)
    visits, faults = summed["visits"] or 0, summed["faults"] or 0
    latest = (
        Fault.objects.filter(system__in=others).exclude(suspect="").order_by("-at").values_list("suspect", flat=True)
    )
    found = Counter(latest[:LOOKED_BACK])
    # The latest of many faults stand for as many of the visits.
    visits = round(visits * LOOKED_BACK / faults) if faults > LOOKED_BACK else visits
    last = system.events.order_by("-at").values_list("at", flat=True).first()
    days = {look: datetime.datetime.fromisoformat(at) for look, at in kept.get("seen", {}).items()}
    seen = {look: f"on {in_words(system.site.day_of(at))}" for look, at in days.items() if last is None or last < at}
    # A recipe that was never run, of a machine that is known.
    known = channel.proved_at or channel.factor or channel.zero or channel.figures
    closed = Job.objects.filter(channel=channel, closed_at__isnull=False, practice=False)
    never = bool(kept.get("visits")) and not known and not closed.exists()
    return Past(
        kept.get("visits", 0),
        kept.get("adjusted", 0),
        visits,
        dict(found),
        seen,
        frozenset(kept.get("lacks", ())),
        never,
    )


def in_words(day: datetime.date) -> str:
    """A day as people write it: 4 May 2031."""
    return f"{day.day} {day:%B %Y}"


def _found_before(system: System) -> tuple[dict[str, float], list[str]]:
    """How often each suspect was found on a machine, and what was found here last and left for repair."""
    like = Fault.objects.filter(system=system)
    found: dict[str, float] = {}
    for suspect in like.exclude(suspect="").order_by("-at").values_list("suspect", flat=True)[:LOOKED_BACK]:
        found[suspect] = found.get(suspect, 0) + 1
    since = {
        kind for kind, stale, done in system.events.values_list("kind", "stale", "settled") if set(stale) - set(done)
    }
    for one in system.machine.all_suspects():
        if one.event in since:
            found[one.key] = round(found.get(one.key, 0) + SINCE_AN_EVENT, 1)
    last = list(Fault.objects.filter(system=system).order_by("-at").values_list("job", "suspect", "put_right")[:8])
    open_ones = [suspect for job, suspect, done in last if job == last[0][0] and suspect and not done]
    return found, open_ones


def _beside(system: System, at: datetime.datetime) -> list[list[Any]]:
    """Other machines that were compared with this one's reference within a week: name, error and uncertainty in per cent.

    What has drifted the same way at each visit explains itself, and says nothing of the reference.
    """
    if system.reference_id is None:
        return []
    # By the organisation's records, which are found by their time: a job is sealed at the moment at which it is closed.
    within = {
        "record__organisation": system.site.organisation_id,
        "record__sealed_at__gt": at - A_WEEK,
        "record__sealed_at__lte": at,
    }
    jobs = Job.objects.filter(**within, reference_ids__contains=[system.reference_id], practice=False, drifts=False)
    found: dict[uuid.UUID, list[Any]] = {}
    rows = (
        jobs.exclude(channel__system=system).filter(summary__error_found__isnull=False).order_by("-record__sealed_at")
    )
    for of, name, said in rows.values_list("channel__system_id", "channel__system__name", "summary")[:50]:
        if said and said.get("uncertainty_found") is not None:
            found.setdefault(of, [name, said["error_found"], said["uncertainty_found"]])
    return list(found.values())


def _how_it_moves(channel: Channel) -> tuple[bool, Moved | None]:
    """Whether a channel has moved the same way by much the same at each of its last visits, and how far it moved at most."""
    closed = Job.objects.filter(channel=channel, closed_at__isnull=False, practice=False).exclude(summary=None)
    rows = list(closed.order_by("-closed_at").values_list("closed_at", "summary")[:LAST_JOBS])
    visits = [
        Visit(closed_at.timestamp() / 86400, said.get("error_found"), said.get("error_left"), said.get("occasion") in ("first", "repair"))
        for closed_at, said in reversed(rows)
    ]  # fmt: skip
    return moves_steadily(visits), usual_move(visits)
