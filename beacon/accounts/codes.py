"""Codes of a second factor that were wrong: whoever tries waits where they try, and the person elsewhere does not.

Whoever has somebody's password could otherwise keep them out by trying codes. A security key is no guess, and is
never made to wait.
"""

import json

from allauth.account.internal.stagekit import get_pending_stage
from django.http import HttpRequest

from beacon.people.locking import code_of, failed, forget, may_try
from beacon.people.models import Person
from beacon.people.rate_limit import spend

ENDS = ("/2fa/authenticate", "/2fa/reauthenticate")
"""What a code is sent to."""


def may_try_a_code(request: HttpRequest) -> None:
    """Raises Problem where whoever signs in here has to wait; what was typed is not even looked at.

    From addresses at which they never signed in, all tries together are counted as well: a guess is not made
    better by a thousand addresses.
    """
    if request.method != "POST" or not request.path.endswith(ENDS) or not _is_code(request):
        return
    user = _whose(request)
    if user is None:
        return
    address = _address(request)
    may_try(code_of(user.username), address)
    if not user.devices.filter(address=address).exists():
        spend(f"person {user.pk}", "codes from elsewhere")


def wrong(request: HttpRequest, user: Person) -> None:
    """Makes the next wait there longer."""
    failed(code_of(user.username), _address(request))


def right(request: HttpRequest, user: Person) -> None:
    """Ends the waits there."""
    forget(code_of(user.username), _address(request))


def _is_code(request: HttpRequest) -> bool:
    try:
        given = json.loads(request.body or b"{}")
    except ValueError:
        return False
    return isinstance(given, dict) and "code" in given


def _whose(request: HttpRequest) -> Person | None:
    stage = get_pending_stage(request)
    user = stage.login.user if stage else request.user
    return user if isinstance(user, Person) else None


def _address(request: HttpRequest) -> str:
    return str(request.META.get("REMOTE_ADDR", ""))[:45]
