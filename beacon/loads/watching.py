"""Loads that begin and end by themselves: by a steady change of a live weight.

Whoever has the log open with a live weight keeps the watch; several do no harm, since a load that one
of them began is the other's too.
"""

import asyncio
import datetime
import time
from collections.abc import AsyncIterator, Callable
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from asgiref.sync import sync_to_async
from django.db import transaction
from django.utils import timezone

from beacon.links.hub import Where, listening
from beacon.links.streams import BREATH, EVERY, RETRY, SECONDS_OPEN, event, given_back
from beacon.loads.keeping import kg_of, locked, next_number, unit_of
from beacon.loads.models import Load
from beacon.observed import STREAMS
from beacon.people.models import Person
from beacon.plant.models import Channel
from beacon.problems import AWAY
from wary.live import Live, Readout
from wary.loads import LoadWatch, Told
from wary.quantities import FAMILY_OF, NotAQuantity, from_si, quantity, shown, to_si

STILL_THE_SAME = datetime.timedelta(minutes=20)
"""A load that was begun by a change of weight no longer ago is the one under way."""
JUST_STORED = datetime.timedelta(seconds=12)


@dataclass(frozen=True)
class Watched:
    """A channel whose loads are watched: for whom, and by how much a weight must change (kg)."""

    channel: UUID
    person: int
    division: float
    least: float


def watched(channel: Channel, user: Person) -> Watched:
    """How a channel's loads are told: within two divisions it stands, from twenty or a hundredth of its capacity on it is a load."""
    plates = channel.system.plates
    division = _kg(plates.get("indicated_division", "")) or 10.0
    least = max(20 * division, 0.01 * (_kg(plates.get("capacity", "")) or 0.0))
    return Watched(channel.id, user.pk, division, least)


def _kg(text: str) -> float | None:
    try:
        return quantity(str(text), "mass").si
    except NotAQuantity:
        return None


def mass_of(live: Live) -> Readout | None:
    """The readout that is a mass and can be taken."""
    return next((one for one in live.readouts if FAMILY_OF.get(one.unit) == "mass" and not one.fault), None)


async def told(where: Where, of: Watched) -> AsyncIterator[bytes]:
    """An instrument's readings, and the loads that they tell of, kept as they come."""
    STREAMS.inc()
    try:
        yield RETRY
        watch = LoadWatch(2 * of.division, of.least)
        load: UUID | None = None
        async with listening(where) as feed:
            seen, spoke = -1, time.monotonic()
            until = spoke + SECONDS_OPEN
            while time.monotonic() < until and feed.task is not None and not feed.task.done():
                if feed.turn != seen:
                    seen, spoke = feed.turn, time.monotonic()
                    yield event(feed.said())
                    found = mass_of(feed.live())
                    if found is not None:
                        over = watch.take(spoke, to_si(found.value, found.unit))
                        if over is not None:
                            await _kept(_store, of, load, over, spoke)
                            load = None
                            yield b"event: loads\ndata: {}\n\n"
                        elif watch.began is not None and load is None:
                            load = await _kept(_begin, of)
                            yield b"event: loads\ndata: {}\n\n"
                elif time.monotonic() - spoke > BREATH:
                    spoke = time.monotonic()
                    yield b": here\n\n"
                await asyncio.sleep(EVERY)
    finally:
        STREAMS.dec()


async def _kept(work: Callable[..., UUID | None], *given: Any) -> UUID | None:
    """Does something with the database in a thread that gives its connection back; once more where it was away."""

    def done() -> UUID | None:
        try:
            return work(*given)
        finally:
            given_back()

    for wait in (0.5, 2.0, 5.0):
        try:
            return await sync_to_async(done, thread_sensitive=False)()
        except AWAY:
            await asyncio.sleep(wait)
    return None


@transaction.atomic
def _begin(of: Watched) -> UUID:
    """The load that began: a new one, or the one that another watch began already."""
    channel = locked(Channel.objects.select_related("system").get(pk=of.channel))
    user = Person.objects.get(pk=of.person)
    now = timezone.now()
    begun = Load.objects.filter(channel=channel, how=Load.How.STEADY, started_at__gt=now - STILL_THE_SAME)
    open_one = begun.exclude(state=Load.State.STORED).first()
    if open_one is not None:
        return open_one.id
    # Where to and what are as they were at the last load, as they are offered to whoever begins one by hand.
    latest = Load.objects.filter(channel=channel).order_by("-number").first()
    return Load.objects.create(
        channel=channel, number=next_number(channel), how=Load.How.STEADY, started_at=now, by=user, operator=str(user),
        destination=latest.destination if latest else "", material=latest.material if latest else "",
    ).id  # fmt: skip


@transaction.atomic
def _store(of: Watched, load_id: UUID | None, over: Told, now_on_the_clock: float) -> UUID | None:
    """Keeps a load that is over with what it came to, in whole divisions; once, whoever saw it."""
    channel = locked(Channel.objects.select_related("system").get(pk=of.channel))
    now = timezone.now()
    load = Load.objects.select_for_update().filter(id=load_id).first() if load_id else None
    if load is None:
        just = Load.objects.filter(channel=channel, how=Load.How.STEADY, ended_at__gt=now - JUST_STORED)
        if just.exists():
            return None
        load = Load.objects.get(id=_begin(of))
        load.started_at = now - datetime.timedelta(seconds=max(0.0, now_on_the_clock - over.start))
    if load.state == Load.State.STORED:
        return load.id
    unit = unit_of(channel.system)
    mass = round(over.mass / of.division) * of.division
    load.indicated = f"{shown(from_si(mass, unit), 6)} {unit}"
    load.mass = kg_of(load.indicated)
    load.moved, load.state, load.ended_at = over.moved, Load.State.STORED, now
    load.save()
    return load.id
