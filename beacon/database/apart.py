"""Reading from the replica: what is asked for by many, long, and without being written to, where it follows closely.

It is read there where all that the first database had kept two seconds ago has arrived. Who wrote a moment ago reads
from the first, so that what they kept stands in what they see.
"""

import functools
import time
from collections import deque
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from datetime import UTC, datetime
from threading import Lock
from typing import Any, ParamSpec, TypeVar

from django.conf import settings
from django.db import DatabaseError, connections
from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase

MOST_BEHIND = 2.0
"""So far, s, the replica may be behind to be read from."""
ASKED_EVERY, AGAIN_AFTER = 0.5, 5.0
"""How often it is asked how far it is; and when again after it could not be reached, s."""
ARRIVES_WITHIN = 5.0
"""So long, s, what is done in the background waits until the replica has all that is kept."""
WROTE = "wrote"
PINNED = 5
"""So long, s, whoever wrote reads from the first database."""
AS_OF = "Beacon-As-Of"

_apart: ContextVar[datetime | None] = ContextVar("apart", default=None)


class Router:
    """Reads go to the replica within `apart`, and nowhere else; everything that is written goes to the first."""

    def db_for_read(self, model: Any, **hints: Any) -> str | None:
        return "replica" if _apart.get() else "default"

    def db_for_write(self, model: Any, **hints: Any) -> str:
        return "default"

    def allow_relation(self, one: Any, other: Any, **hints: Any) -> bool:
        return True

    def allow_migrate(self, db: str, app_label: str, **hints: Any) -> bool | None:
        return None if db == "default" else False


class Following:
    """How far the replica is: the latest moment of which everything that the first had kept is known to be there."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._sent: deque[tuple[float, int]] = deque(maxlen=64)
        self._asked, self._as_of = 0.0, 0.0

    def as_of(self) -> datetime | None:
        """That moment, where it is near enough; None where the first has to be asked."""
        with self._lock:
            now = time.time()
            if now >= self._asked + ASKED_EVERY:
                self._asked = now
                try:
                    self._ask()
                except DatabaseError:
                    self._asked, self._as_of = now + AGAIN_AFTER, 0.0
                    connections["replica"].close()
            near = time.time() - self._as_of <= MOST_BEHIND
            return datetime.fromtimestamp(self._as_of, UTC) if near else None

    def _ask(self) -> None:
        with connections["default"].cursor() as cursor:
            began = time.time()
            cursor.execute("select pg_current_wal_insert_lsn() - '0/0'")
            self._sent.append((began, int(cursor.fetchone()[0])))
        with connections["replica"].cursor() as cursor:
            cursor.execute("select case when pg_is_in_recovery() then pg_last_wal_replay_lsn() - '0/0' end")
            (there,) = cursor.fetchone()
        if there is None:
            # It does not follow any more: it was promoted, or never did.
            self._as_of = 0.0
            self._sent.clear()
            return
        arrived = [at for at, sent in self._sent if sent <= int(there)]
        if arrived:
            self._as_of = max(self._as_of, arrived[-1])


following = Following()


P = ParamSpec("P")
R = TypeVar("R")


def apart(view: Callable[P, R]) -> Callable[P, R]:
    """Reads what this endpoint asks for from the replica, where there is one that follows closely enough."""

    @functools.wraps(view)
    def read(*given: P.args, **more: P.kwargs) -> R:
        request = given[0]
        assert isinstance(request, HttpRequest)
        # Another program keeps no cookie that would say that it wrote.
        here = WROTE in request.COOKIES or "Authorization" in request.headers
        at = following.as_of() if settings.REPLICA and not here else None
        if at is None:
            return view(*given, **more)
        found, read_there = _read(lambda: view(*given, **more), at)
        if isinstance(found, HttpResponseBase) and read_there:
            found.headers[AS_OF] = at.isoformat()
        return found

    return read


def _read(work: Callable[[], R], at: datetime) -> tuple[R, bool]:
    """Reads from the replica, as of that moment; and whether it was read there to its end."""
    token = _apart.set(at)
    try:
        return work(), _apart.get() is not None
    except DatabaseError:
        # It went away in the middle, or what was read was put right under it: the first one knows.
        _apart.reset(token)
        token = _apart.set(None)
        connections["replica"].close()
        return work(), False
    finally:
        _apart.reset(token)


def read_in_the_background(work: Callable[[], R]) -> R:
    """Does what nobody waits for, reading from the replica once all that is kept now is there.

    Where that takes too long, or there is none, it is read from the first; and from its start again where the
    replica goes away in the middle.
    """
    began = time.time()
    while settings.REPLICA and time.time() < began + ARRIVES_WITHIN:
        at = following.as_of()
        # Both are by this process's clock.
        if at and at.timestamp() >= began:
            return _read(work, at)[0]
        time.sleep(ASKED_EVERY)
    return work()


def read_as_of() -> datetime | None:
    """The moment as of which is read here; None where it is read from the first database, as of now."""
    return _apart.get()


@contextmanager
def at_the_first() -> Iterator[None]:
    """Reads what follows from the first database: what is kept of it is to be what is true there."""
    token = _apart.set(None)
    try:
        yield
    finally:
        _apart.reset(token)


def stay_at_the_first() -> None:
    """Reads from the first database for the rest of this request: something was kept there just now."""
    _apart.set(None)


def who_wrote(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[..., HttpResponse]:
    """Notes, on their own device and for some seconds, that somebody wrote."""

    def respond(request: HttpRequest) -> HttpResponse:
        response = get_response(request)
        if settings.REPLICA and request.method not in ("GET", "HEAD", "OPTIONS") and response.status_code < 400:
            response.set_cookie(
                WROTE, "1", max_age=PINNED, httponly=True, samesite="Lax", secure=settings.SESSION_COOKIE_SECURE
            )
        return response

    return respond
