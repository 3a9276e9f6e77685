"""Whether those who listen to a stream still may: who was removed, or signed out, hears no more within seconds.

All who listen in a process are asked for together; between two looks nobody holds a connection.
"""

import asyncio
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from uuid import UUID
from weakref import WeakKeyDictionary

from asgiref.sync import sync_to_async
from django.contrib.auth import HASH_SESSION_KEY, SESSION_KEY
from django.contrib.sessions.models import Session
from django.db import connection
from django.http import HttpRequest
from django.utils import timezone
from django.utils.crypto import constant_time_compare

from beacon.people.access import WORKING
from beacon.people.models import Membership, Person
from beacon.problems import AWAY

EVERY = 2.0
"""How often it is looked at, s."""


@dataclass(eq=False)
class Listener:
    """Somebody who listens: their session, and the organisation whose readings they are."""

    session: str
    person: int
    organisation: UUID
    may: bool = True


def listener(request: HttpRequest, organisation: UUID) -> Listener:
    """Whoever asks for a stream of an organisation's readings."""
    return Listener(request.session.session_key or "", int(request.user.pk or 0), organisation)


class _Listeners:
    def __init__(self) -> None:
        self.all: set[Listener] = set()
        self.task: asyncio.Task[None] | None = None

    async def run(self) -> None:
        while self.all:
            await asyncio.sleep(EVERY)
            asked = list(self.all)
            try:
                gone = await sync_to_async(_gone, thread_sensitive=False)(asked)
            except AWAY:
                continue
            for one in gone:
                one.may = False
        self.task = None


_LISTENERS: WeakKeyDictionary[asyncio.AbstractEventLoop, _Listeners] = WeakKeyDictionary()


@contextmanager
def listening_as(one: Listener) -> Iterator[Listener]:
    """Somebody listens: `may` says for how long. Within a running event loop."""
    listeners = _LISTENERS.setdefault(asyncio.get_running_loop(), _Listeners())
    listeners.all.add(one)
    if listeners.task is None or listeners.task.done():
        listeners.task = asyncio.create_task(listeners.run())
    try:
        yield one
    finally:
        listeners.all.discard(one)


def _gone(listeners: list[Listener]) -> list[Listener]:
    """Those who may not listen any more: their session ended, or they work there no longer."""
    try:
        keys = {one.session for one in listeners}
        sessions = Session.objects.filter(session_key__in=keys, expire_date__gt=timezone.now())
        held = {one.session_key: one.get_decoded() for one in sessions}
        people = {
            one.pk: one for one in Person.objects.filter(pk__in={one.person for one in listeners}, is_active=True)
        }
        works = set(
            Membership.objects.filter(person__in=people, role__in=WORKING).values_list("person_id", "organisation_id")
        )
        return [one for one in listeners if not _may(one, held.get(one.session, {}), people, works)]
    finally:
        if not connection.in_atomic_block:
            connection.close()


def _may(one: Listener, session: dict[str, object], people: dict[int, Person], works: set[tuple[int, UUID]]) -> bool:
    person = people.get(one.person)
    if person is None or (one.person, one.organisation) not in works:
        return False
    signed = str(session.get(SESSION_KEY)) == str(one.person)
    return signed and constant_time_compare(str(session.get(HASH_SESSION_KEY)), person.get_session_auth_hash())
