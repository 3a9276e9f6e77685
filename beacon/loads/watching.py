"""Loads that begin and end by themselves: by a steady change of a live weight, whether a page is open or not.

A watch is a row; one process of the server holds it and renews its hold every few seconds. When that
process ends another takes the watch over, and goes on from what the weight stood at last.
"""

import asyncio
import contextlib
import datetime
import logging
import os
import socket
import time
import uuid
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from asgiref.sync import sync_to_async
from django.db import transaction
from django.db.models import Q
from django.http import Http404
from django.utils import timezone

from beacon.links.hub import Where, listening
from beacon.links.listed import where_of
from beacon.links.streams import EVERY, given_back
from beacon.loads.keeping import locked, next_number, unit_of
from beacon.loads.models import Load, Watch
from beacon.people.access import works_in
from beacon.people.models import Person
from beacon.plant.models import Channel
from beacon.problems import AWAY
from wary.loads import LoadWatch, Rise, in_words, kg_of, kg_shown, least_load, mass_of

LOG = logging.getLogger(__name__)
STILL_THE_SAME = datetime.timedelta(minutes=20)
"""A load that was begun by a change of weight no longer ago is the one under way."""
JUST_STORED = datetime.timedelta(seconds=12)
RENEWED = 2.0
"""How often a process looks for watches and renews its hold on those it has, s."""
HELD_FOR = datetime.timedelta(seconds=10)
ME = f"{socket.gethostname()[:40]} {os.getpid()} {uuid.uuid4().hex[:8]}"


@dataclass(frozen=True)
class Watched:
    """A channel whose loads are watched: for whom, by what, and by how much a weight must change (kg)."""

    channel: UUID
    person: int
    where: Where
    division: float
    least: float
    base: float | None = None


def watched(channel: Channel, person: int, where: Where, base: float | None = None) -> Watched:
    """How loads on a channel are noticed: within two divisions it stands, from twenty or a hundredth of its capacity on it is a load."""
    division, least = least_load(channel.system.plates)
    return Watched(channel.id, person, where, division, least, base)


async def keep_watch() -> None:
    """Holds the watches of this server that no other process holds, for as long as this one runs."""
    tasks: dict[UUID, tuple[Watched, asyncio.Task[None]]] = {}
    try:
        while True:
            try:
                held = await sync_to_async(_held, thread_sensitive=False)()
            except AWAY:
                # Whoever else holds them by now has renewed its hold; this one asks again.
                held = {}
            for key, (of, task) in list(tasks.items()):
                now = held.get(key)
                same = now is not None and (now.where, now.person, now.division) == (of.where, of.person, of.division)
                if not same or task.done():
                    task.cancel()
                    del tasks[key]
            for key, of in held.items():
                if key not in tasks:
                    tasks[key] = (of, asyncio.create_task(_watch(of)))
            await asyncio.sleep(RENEWED)
    finally:
        for _, task in tasks.values():
            task.cancel()


def _held() -> dict[UUID, Watched]:
    """The watches that this process holds from now on: its own, and those that nobody holds any more."""
    try:
        with transaction.atomic():
            now = timezone.now()
            free = Q(held_until=None) | Q(held_until__lt=now) | Q(held_by=ME)
            found = Watch.objects.select_for_update(of=("self",), skip_locked=True).filter(free)
            held = {}
            for watch in found.select_related("channel__system__site", "link", "by"):
                works = works_in(watch.by).filter(pk=watch.channel.system.site.organisation_id).exists()
                if not works:
                    # Whoever let it keep the log does not work here any more.
                    watch.delete()
                    continue
                with contextlib.suppress(Http404):
                    held[watch.channel_id] = watched(watch.channel, watch.by_id, where_of(watch.link), watch.base)
            Watch.objects.filter(channel__in=held).update(held_by=ME, held_until=now + HELD_FOR)
            return held
    finally:
        given_back()


async def _watch(of: Watched) -> None:
    """Watches one live weight, and keeps the loads that it tells of, until it is held no longer."""
    watch = LoadWatch(2 * of.division, of.least)
    watch.resume(of.base)
    load: UUID | None = None
    base = of.base
    while True:
        async with listening(of.where) as feed:
            seen = -1
            while feed.task is not None and not feed.task.done():
                found = mass_of(feed.live()) if feed.turn != seen else None
                seen = feed.turn
                if found is not None:
                    at = time.monotonic()
                    over = watch.take(at, kg_shown(found))
                    if over is not None:
                        await _kept(_store, of, load, over, at)
                        load = None
                    elif watch.began is not None and load is None:
                        load = await _kept(_begin, of)
                    if watch.base != base:
                        base = watch.base
                        await _kept(_stood_at, of, base)
                await asyncio.sleep(EVERY)
        await asyncio.sleep(EVERY)


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
    LOG.error("a load of a live weight could not be kept: the database is away")
    return None


def _stood_at(of: Watched, base: float | None) -> None:
    Watch.objects.filter(channel=of.channel, held_by=ME).update(base=base)


@transaction.atomic
def _begin(of: Watched) -> UUID:
    """The load that began: a new one, or the one that was begun already."""
    channel = locked(Channel.objects.select_related("system").get(pk=of.channel))
    user = Person.objects.get(pk=of.person)
    now = timezone.now()
    begun = Load.objects.filter(channel=channel, how=Load.How.STEADY, started_at__gt=now - STILL_THE_SAME)
    open_one = begun.exclude(state=Load.State.STORED).filter(taken_out="").first()
    if open_one is not None:
        return open_one.id
    # Where to and what are as they were at the last load, as they are offered to whoever begins one by hand.
    latest = Load.objects.filter(channel=channel).order_by("-number").values_list("destination", "material").first()
    destination, material = latest or ("", "")
    return Load.objects.create(
        channel=channel, number=next_number(channel), how=Load.How.STEADY, started_at=now, by=user, operator=str(user),
        destination=destination, material=material,
    ).id  # fmt: skip


@transaction.atomic
def _store(of: Watched, load_id: UUID | None, over: Rise, now_on_the_clock: float) -> UUID | None:
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
    load.indicated = in_words(over.mass, unit, of.division)
    load.mass = kg_of(load.indicated)
    load.moved, load.state, load.ended_at = over.moved, Load.State.STORED, now
    load.save()
    return load.id
