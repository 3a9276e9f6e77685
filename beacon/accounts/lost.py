"""A second factor that was lost: a lead agrees, its person says by mail that it is so, and then it is taken away."""

import hashlib
import json
from typing import Any

from allauth.mfa.models import Authenticator
from django.conf import settings
from django.core import signing
from django.db import transaction
from django.utils.crypto import constant_time_compare

from beacon.accounts import mails
from beacon.people.models import Organisation, Person
from beacon.problems import Problem

SALT = "beacon.lost-second-factor"
GOOD_FOR = 3 * 24 * 60 * 60
"""For how long a link is good, in seconds."""


def agreed(person: Person, led: Organisation, by: Person) -> str:
    """Writes to whoever lost theirs, and gives the link; nothing is taken away yet."""
    link = f"{settings.PUBLIC_URL}/factor-lost/{signing.dumps([person.pk, _mark(person)], salt=SALT)}"
    mails.factor_lost(person, led, by, link)
    return link


@transaction.atomic
def take_away(secret: str) -> None:
    """Takes away the second factors that a link is about, and ends every session of their person.

    Raises Problem 409 where the link is not one of ours, is too old, or something of that account was changed since:
    its factors, its password, where it belongs, or where it was signed out everywhere.
    """
    try:
        number, mark = signing.loads(secret, salt=SALT, max_age=GOOD_FOR)
    except signing.BadSignature:
        raise _ended() from None
    # One at a time: whoever joins another organisation meanwhile holds this row as well.
    person = Person.objects.select_for_update(no_key=True).filter(pk=number).first()
    if person is None or not constant_time_compare(mark, _mark(person)):
        raise _ended()
    Authenticator.objects.filter(user=person).delete()
    person.sign_out_everywhere()


def _ended() -> Problem:
    return Problem(409, "This link has ended or was used already", "Ask a lead of your organisation for a new one.")


def _mark(person: Person) -> str:
    """Of what state of an account a link is: it opens nothing once that has changed."""
    state: list[Any] = [
        person.password,
        person.session_salt,
        sorted(Authenticator.objects.filter(user=person).values_list("pk", flat=True)),
        sorted(str(one) for one in person.memberships.values_list("organisation", flat=True)),
    ]
    return hashlib.sha256(json.dumps(state).encode()).hexdigest()[:32]
