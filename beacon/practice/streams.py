"""The readings of stand-ins as they come: one question to the database for all that are watched in this process.

Between two looks a stream holds no thread and no connection.
"""

import asyncio
import datetime
import time
from collections.abc import AsyncIterator
from uuid import UUID
from weakref import WeakKeyDictionary

from asgiref.sync import sync_to_async
from django.utils import timezone

from beacon.links.streams import EVERY, RETRY, SECONDS_OPEN, event, given_back
from beacon.metrics import STREAMS
from beacon.people.still import Listener, listening_as
from beacon.practice.models import Practice
from beacon.problems import AWAY
from wary.live import Live
from wary.simulators.stand_in import Followed, StandIn, not_before

FAR = 20.0
"""From so many seconds to catch up on, a stand-in is followed in a thread: not on the loop that serves everyone."""


class Seen:
    """A stand-in that is watched: what was done to it so far, and what it shows, worked out once for all who look."""

    def __init__(self, machine: StandIn, practice: Practice) -> None:
        self.machine, self.started = machine, practice.started_at
        self.watchers = 0
        self.gone = False
        self._at, self._said = -1.0, b""
        self._catching_up = asyncio.Lock()
        self.put(practice)

    def put(self, practice: Practice) -> None:
        """Takes what was done since."""
        self.turn, self.skipped, self.done = practice.turn, practice.skipped, practice.done
        self.following: Followed = self.machine.followed(self.done)
        self._at = -1.0

    def clock(self) -> float:
        """Its own time now, s."""
        return not_before(self.done, clock(self.started, self.skipped))

    async def said(self) -> bytes:
        """What it shows now, as an event."""
        async with self._catching_up:
            now = self.clock()
            if now - self._at >= EVERY / 2 or not self._said:
                following, turn = self.following, self.turn
                far = now - max(0.0, self._at) > FAR
                live: Live = await sync_to_async(following.live, thread_sensitive=False)(now) if far else following.live(now)  # fmt: skip
                shown = live.model_copy(update={"turn": turn})
                self._at, self._said = now, event(shown.model_dump_json().encode())
            return self._said


def clock(started: datetime.datetime, skipped: float) -> float:
    """Seconds since a stand-in began, with what was skipped."""
    return max(0.0, (timezone.now() - started).total_seconds() + skipped)


class _Watch:
    """The stand-ins that are watched in this process, looked up together."""

    def __init__(self) -> None:
        self.seen: dict[UUID, Seen] = {}
        self.task: asyncio.Task[None] | None = None

    async def run(self) -> None:
        """Looks up what was done to them, until none is watched."""
        while any(seen.watchers for seen in self.seen.values()):
            turns = {key: seen.turn for key, seen in self.seen.items() if seen.watchers}
            try:
                found = await sync_to_async(_changed, thread_sensitive=False)(turns)
            except AWAY:
                await asyncio.sleep(EVERY)
                continue
            for key, practice in found.items():
                seen = self.seen.get(key)
                if seen and practice is None:
                    seen.gone = True
                elif seen and practice:
                    seen.put(practice)
            self.seen = {key: seen for key, seen in self.seen.items() if seen.watchers}
            await asyncio.sleep(EVERY)
        self.task = None


def _changed(turns: dict[UUID, int]) -> dict[UUID, Practice | None]:
    """Of these practices those to which something was done since, and None for those that are no more."""
    try:
        now = dict(Practice.objects.filter(pk__in=turns).values_list("pk", "turn"))
        other = [key for key, turn in turns.items() if now.get(key, turn) != turn]
        found: dict[UUID, Practice | None] = {key: None for key in turns if key not in now}
        if other:
            found |= {practice.pk: practice for practice in Practice.objects.filter(pk__in=other)}
        return found
    finally:
        given_back()


_WATCHES: WeakKeyDictionary[asyncio.AbstractEventLoop, _Watch] = WeakKeyDictionary()


async def readings(practice: Practice, machine: StandIn, to: Listener) -> AsyncIterator[bytes]:
    """A stand-in's readings, until the reader goes away or may not listen any more, or ten minutes are over."""
    STREAMS.inc()
    watch = _WATCHES.setdefault(asyncio.get_running_loop(), _Watch())
    seen = watch.seen.get(practice.pk)
    if seen is None:
        seen = watch.seen[practice.pk] = Seen(machine, practice)
    elif seen.turn < practice.turn:
        seen.put(practice)
    seen.watchers += 1
    if watch.task is None or watch.task.done():
        watch.task = asyncio.create_task(watch.run())
    try:
        yield RETRY
        until = time.monotonic() + SECONDS_OPEN
        with listening_as(to):
            while to.may and time.monotonic() < until and not seen.gone:
                yield await seen.said()
                await asyncio.sleep(EVERY)
    finally:
        seen.watchers -= 1
        STREAMS.dec()
