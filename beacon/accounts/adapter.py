"""What the library asks of this application: mails in line with all others, waits that grow, secrets that are not readable."""

import base64
import hashlib
import time
from contextlib import suppress
from typing import Any, NoReturn

from allauth.account import app_settings
from allauth.account.adapter import DefaultAccountAdapter
from allauth.account.internal.flows.login import get_authentication_records
from allauth.core import context
from allauth.core.exceptions import ImmediateHttpResponse
from allauth.mfa.adapter import DefaultMFAAdapter
from cryptography.fernet import Fernet, InvalidToken, MultiFernet
from django.conf import settings
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.http import HttpRequest

from beacon.accounts import mails
from beacon.accounts.houses import only_by_house
from beacon.people.locking import failed, forget, may_try
from beacon.people.models import Person
from beacon.people.rate_limit import may_spend, spend
from beacon.problems import Problem, answer

TAKEN = "Somebody signs in with this address already."


def refuse(problem: Problem) -> NoReturn:
    """Ends a request of the library with a problem document, as everywhere else."""
    raise ImmediateHttpResponse(answer(problem))


class Accounts(DefaultAccountAdapter):
    """Signing in. The library counts tries; that a wait grows, for one name at one address, is `people/locking`."""

    error_messages = DefaultAccountAdapter.error_messages | {
        "username_password_mismatch": "The address or the password is not right. Look at capitals, and try again.",
        "incorrect_password": "That is not your present password.",
        "email_taken": TAKEN,
        "incorrect_code": "This code is not right, or was used already. Wait for the next one.",
        "invalid_or_expired_key": "This link has ended or was used already. Ask for a new one.",
        "invalid_password_reset": "This link has ended or was used already. Ask for a new one.",
    }

    def is_open_for_signup(self, request: HttpRequest) -> bool:
        """Nobody signs up by themselves: they are invited."""
        return False

    def pre_authenticate(self, request: HttpRequest, **credentials: Any) -> None:
        """Refuses what has to wait; what was typed is not even looked at."""
        try:
            may_spend(f"address {_address(request)}", "sign-ins")
            may_try(_name(credentials), _address(request))
        except Problem as waits:
            refuse(waits)

    def authentication_failed(self, request: HttpRequest, **credentials: Any) -> None:
        """Makes the next wait longer. One that succeeds is counted nowhere: a whole plant may come from one address."""
        with suppress(Problem):
            spend(f"address {_address(request)}", "sign-ins")
        failed(_name(credentials), _address(request))

    def authenticate(self, request: HttpRequest, **credentials: Any) -> Any:
        """Who has this address and this password."""
        credentials["username"] = str(credentials.get("username", "")).strip().lower()
        credentials.pop("email", None)
        user = super().authenticate(request, **credentials)
        if user:
            forget(_name(credentials), _address(request))
        return user

    def pre_login(self, request: HttpRequest, user: Any, *, signal_kwargs: Any = None, **given: Any) -> Any:
        """Lets nobody in by a password or a key whom their organisation lets in by its own way alone."""
        house = None if (signal_kwargs or {}).get("sociallogin") else only_by_house(user)
        if house:
            refuse(Problem(403, "Not this way", f"{house.organisation} signs in by {house.name}: choose that."))
        return super().pre_login(request, user, signal_kwargs=signal_kwargs, **given)

    def is_reauthentication_required(self, *given: Any, **more: Any) -> bool:
        """A password is asked for again where the latest way in is longer ago than ten minutes."""
        request = context.request
        records = get_authentication_records(request, request.user)
        recent = bool(records) and time.time() - records[-1]["at"] < app_settings.REAUTHENTICATION_TIMEOUT
        return not recent and super().is_reauthentication_required(*given, **more)

    def clean_email(self, email: str) -> str:
        """An address that somebody signs in with is nobody else's."""
        email = str(super().clean_email(email)).lower()
        mine = getattr(context.request.user, "pk", None) or 0
        if mine and Person.objects.filter(username=email).exclude(pk=mine).exists():
            raise ValidationError(TAKEN, code="email_taken")
        return email

    def confirm_email(self, request: HttpRequest, email_address: Any) -> bool:
        """Makes a confirmed address the one that is signed in with, or changes nothing where somebody has it by now."""
        try:
            with transaction.atomic():
                return bool(super().confirm_email(request, email_address))
        except IntegrityError:
            refuse(Problem(409, "Not changed", TAKEN))

    def send_password_reset_mail(self, user: Any, email: str, context: dict[str, Any]) -> None:
        """Writes the link; nothing to an account of a program, and none that would lead past an organisation's own way."""
        if isinstance(user, Person) and not hasattr(user, "program") and not only_by_house(user):
            super().send_password_reset_mail(user, email, context)

    def send_mail(self, template_prefix: str, email: str, context: dict[str, Any]) -> None:
        """Puts what the library has to say in line with all other mails."""
        mails.account(template_prefix, email, context)


def _name(credentials: dict[str, Any]) -> str:
    return str(credentials.get("username", ""))[:150]


def _address(request: HttpRequest) -> str:
    return str(request.META.get("REMOTE_ADDR", ""))


class Factors(DefaultMFAAdapter):
    """Second factors. Their secrets are kept under the server's own key, so that a backup alone opens nothing."""

    error_messages = DefaultMFAAdapter.error_messages | {"incorrect_code": Accounts.error_messages["incorrect_code"]}

    def encrypt(self, text: str) -> str:
        return _under_key().encrypt(text.encode()).decode()

    def decrypt(self, encrypted_text: str) -> str:
        """The secret. Ends the request where no key of the server opens it: of an empty one anybody knows the codes."""
        try:
            return _under_key().decrypt(encrypted_text.encode()).decode()
        except InvalidToken:
            refuse(Problem(409, "Your second factor cannot be read", UNREADABLE))


UNREADABLE = (
    "It was set up under another key of this server. Whoever runs the server can name the key of before; till then sign in "
    "with a security key if you have one, or ask a lead of your organisation."
)


def _under_key() -> MultiFernet:
    """The server's own key, then those of before that it still knows."""
    keys = (settings.SECRET_KEY, *settings.SECRET_KEY_FALLBACKS)
    secrets = (hashlib.sha256(b"beacon.second-factor" + key.encode()).digest() for key in keys)
    return MultiFernet([Fernet(base64.urlsafe_b64encode(secret)) for secret in secrets])
