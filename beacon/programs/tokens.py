"""Tokens: how another program says who it is, and what it may ask for.

A token belongs to an organisation. It has an account of its own there, under which stands what it enters, so that what
holds for people holds for it: another organisation's things are not there. Beside that its scopes say which few
endpoints it may ask at all.
"""

import hashlib
import re
import secrets
import uuid
from datetime import timedelta
from typing import Any

from django.db import transaction
from django.http import Http404, HttpRequest
from django.utils import timezone
from ninja.security import HttpBearer

from beacon.people.models import Membership, Organisation, Person, Role
from beacon.problems import Problem
from beacon.programs.models import Program, Scope

MOST = 20
"""So many tokens an organisation has at once."""
BEGINS = "wb_"
NOTED_EVERY = timedelta(minutes=1)

READ = (
    "round", "system-names", "systems/{system_id}", "channels/{channel_id}/visits", "channels/{channel_id}/history.csv",
    "references", "references/{reference_id}/jobs", "references/{reference_id}/checks", "log", "log.csv", "records/{record_id}",
    "records/{record_id}/record.json", "records/{record_id}/certificate.pdf", "jobs/{job_id}", "jobs/{job_id}/changes",
    "jobs/{job_id}/job.json", "faults", "due-dates", "calendar", "changes", "machines", "methods", "units",
    "systems/{system_id}/loads", "systems/{system_id}/loads/totals", "systems/{system_id}/loads.csv",
)  # fmt: skip
ALLOWED: dict[Scope, dict[str, tuple[str, ...]]] = {
    Scope.READ: {"GET": READ},
    Scope.ENTER: {
        "GET": ("jobs/{job_id}", "jobs/{job_id}/changes", "write-up"),
        "POST": (
            "jobs/{job_id}/entries",
            "systems/{system_id}/jobs/import",
            "systems/{system_id}/counters",
            "systems/{system_id}/zero-checks",
        ),
    },
    Scope.PLAN: {
        "GET": ("calendar", "colleagues", "due-dates", "system-names"),
        "PUT": ("systems/{system_id}/plan",),
        "DELETE": ("systems/{system_id}/plan",),
    },
    Scope.MACHINES: {
        "GET": ("system-names", "systems/{system_id}", "machines", "references", "due-dates", "records/{record_id}"),
        "POST": ("systems", "systems/{system_id}/copy", "systems/{system_id}/events", "references"),
        "PATCH": ("systems/{system_id}/record",),
        "PUT": ("references/{reference_id}", "systems/{system_id}/intervals"),
    },
}
"""What each scope may ask, by the path below `/api/`."""


def scopes_of(method: str, path: str) -> list[str]:
    """The scopes that may ask for a path below `/api/`."""
    return [scope.value for scope, ways in ALLOWED.items() if path in ways.get(method, ())]


def hashed(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


class ByToken(HttpBearer):
    """Another program, by the token in its header `Authorization`; a token in an address is none."""

    def authenticate(self, request: HttpRequest, token: str) -> Any:
        """The program. Raises Problem 401 for a token that is none or was revoked, 403 for what it may not ask."""
        found = Program.objects.select_related("account").filter(secret_sha256=hashed(token), revoked_at=None).first()
        if found is None or not found.account.is_active:
            raise Problem(
                401, "This token is not known", "It was revoked, or was not copied whole. A lead makes another."
            )
        asked = re.sub(r"<(?:\w+:)?(\w+)>", r"{\1}", request.resolver_match.route).removeprefix("api/")  # type: ignore[union-attr]
        ways = [ALLOWED[Scope(scope)].get(request.method or "", ()) for scope in found.scopes]
        if not any(asked in way for way in ways):
            words = ", ".join(Scope(scope).label for scope in found.scopes)
            raise Problem(403, "This token may not do that", f"It may {words}. A lead makes one that may.")
        now = timezone.now()
        if found.used_at is None or found.used_at < now - NOTED_EVERY:
            Program.objects.filter(pk=found.pk).update(used_at=now)
        request.user = found.account
        return found


@transaction.atomic
def make(lead: Person, here: Organisation, name: str, scopes: list[Scope]) -> tuple[Program, str]:
    """A new token with its account; the text of the token is known this once."""
    if here.programs.filter(revoked_at=None).count() >= MOST:
        raise Problem(422, "There are many already", "Revoke one that is not used any more.")
    token = BEGINS + secrets.token_urlsafe(32)
    account = Person(username=f"{uuid.uuid4()}@program.invalid", name=name)
    account.set_unusable_password()
    account.save()
    # Within its scopes it may what a technician may; references are a lead's.
    role = Role.LEAD if Scope.MACHINES in scopes else Role.TECHNICIAN
    Membership.objects.create(person=account, organisation=here, role=role)
    made = Program.objects.create(
        organisation=here, name=name, scopes=[scope.value for scope in scopes], account=account,
        secret_sha256=hashed(token), begins_with=token[:8], made_by=lead,
    )  # fmt: skip
    return made, token


@transaction.atomic
def revoke(here: Organisation, program_id: uuid.UUID) -> None:
    """Ends a token at once; what it entered stays under its name. Raises Http404 for another organisation's."""
    found = here.programs.select_for_update().filter(id=program_id).first()
    if found is None:
        raise Http404
    if found.revoked_at is None:
        found.revoked_at = timezone.now()
        found.save(update_fields=["revoked_at"])
        Membership.objects.filter(person=found.account_id).delete()
        Person.objects.filter(pk=found.account_id).update(is_active=False)
