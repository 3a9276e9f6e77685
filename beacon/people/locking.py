"""Sign-in that waits longer the more often it failed, for one name at one address: a stranger elsewhere locks nobody out."""

import datetime
import math

from django.db import transaction
from django.utils import timezone

from beacon.people.models import SignInTry
from beacon.problems import Problem

FREE_TRIES = 5
LONGEST_MINUTES = 60
FORGOTTEN_AFTER = datetime.timedelta(days=1)


def may_try(name: str, address: str) -> None:
    """Raises Problem where this name has to wait at this address; what was typed is not even looked at."""
    tried = SignInTry.objects.filter(name=name[:150], address=address[:45]).first()
    now = timezone.now()
    if tried and tried.until and tried.until > now:
        seconds = math.ceil((tried.until - now).total_seconds())
        minutes = math.ceil(seconds / 60)
        raise Problem(
            429,
            "Too many tries",
            f"From here this address waits {minutes} minute{'' if minutes == 1 else 's'}. "
            "Try again after that, from another place, or ask a lead to unlock it.",
            headers={"Retry-After": str(seconds)},
        )


@transaction.atomic
def failed(name: str, address: str) -> None:
    """Notes a failure; from the fifth on each one makes the wait twice as long, up to an hour."""
    now = timezone.now()
    SignInTry.objects.filter(latest__lt=now - FORGOTTEN_AFTER).delete()
    SignInTry.objects.get_or_create(name=name[:150], address=address[:45], defaults={"latest": now})
    tried = SignInTry.objects.select_for_update().get(name=name[:150], address=address[:45])
    tried.failures += 1
    tried.latest = now
    if tried.failures >= FREE_TRIES:
        minutes = min(LONGEST_MINUTES, 2 ** min(tried.failures - FREE_TRIES, 10))
        tried.until = now + datetime.timedelta(minutes=minutes)
    tried.save()


def code_of(name: str) -> str:
    """Under which name the codes of somebody's second factor are counted."""
    return f"code of {name}"[:150]


def forget(name: str, address: str) -> int:
    """Lets a name try again at one address; says how many waits that ended.

    Its codes wait on: a password is no code.
    """
    return SignInTry.objects.filter(name=name[:150], address=address[:45]).delete()[0]


def unlock(name: str) -> int:
    """Lets a name try again wherever it is, its codes too; says how many waits that ended."""
    return SignInTry.objects.filter(name__in=[name[:150], code_of(name)]).delete()[0]
