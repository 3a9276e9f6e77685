"""How often someone may ask for what costs much: papers, tables, files in, verifications of the chain."""

import datetime
import functools
import math
from collections.abc import Callable
from typing import Any, NoReturn

from django.db import transaction
from django.http import HttpRequest
from django.utils import timezone

from beacon.people.models import RateCount
from beacon.problems import Problem

WINDOW = datetime.timedelta(minutes=10)
FORGOTTEN_AFTER = datetime.timedelta(days=1)
MOST = {
    "papers to print": 120,
    "tables to take away": 60,
    "files to bring in": 300,
    "verifications of the chain": 6,
    "sign-ins": 60,
    "codes from elsewhere": 30,
    "mails to stop": 60,
    "invitations to open": 60,
    "ways to sign in": 240,
    "readings gathered": 600,
    "entries to leave behind": 60,
    "archives to make": 6,
    "differences to report": 60,
    "cores that began slowly": 60,
}
"""What is counted, and how often it may be asked for in ten minutes."""


def may_spend(who: str, what: str) -> None:
    """Raises Problem where it was asked for too often already; it is not counted."""
    now = timezone.now()
    spent = RateCount.objects.filter(key=_key(who, what), began__gt=now - WINDOW, count__gte=MOST[what]).first()
    if spent:
        _refuse(spent, what, now)


def _key(who: str, what: str) -> str:
    return f"{what}: {who}"[:200]


def _refuse(spent: RateCount, what: str, now: datetime.datetime) -> NoReturn:
    seconds = max(1, math.ceil((spent.began + WINDOW - now).total_seconds()))
    text = f"At most {MOST[what]} {what} in ten minutes. Try again in {math.ceil(seconds / 60)} min."
    raise Problem(429, "Too many at once", text, headers={"Retry-After": str(seconds)})


@transaction.atomic
def spend(who: str, what: str) -> None:
    """Counts one more; raises Problem where that is too many in ten minutes, with when to try again.

    It is asked before the transaction of a request begins, so that a request that fails is counted too.
    """
    now = timezone.now()
    key = _key(who, what)
    _, new = RateCount.objects.get_or_create(key=key, defaults={"began": now, "count": 1})
    if new:
        RateCount.objects.filter(began__lt=now - FORGOTTEN_AFTER).delete()
        return
    spent = RateCount.objects.select_for_update().filter(key=key).first()
    if spent is None:
        # It was forgotten at this very moment.
        return
    if spent.began <= now - WINDOW:
        spent.began, spent.count = now, 0
    if spent.count >= MOST[what]:
        _refuse(spent, what, now)
    spent.count += 1
    spent.save(update_fields=["began", "count"])


def limited(what: str) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
    """Limits how often each person may ask an endpoint. Raises KeyError where nothing is said of how often."""
    MOST[what]

    def around(view: Callable[..., Any]) -> Callable[..., Any]:
        @functools.wraps(view)
        def asked(request: HttpRequest, *args: Any, **given: Any) -> Any:
            spend(f"person {request.user.pk}", what)
            return view(request, *args, **given)

        return asked

    return around
