"""People, the organisations they work for, and what they may do there."""

import uuid
from typing import Any

from django.contrib.auth.models import AbstractUser
from django.db import models
from django.utils import timezone
from django.utils.crypto import get_random_string, salted_hmac


def _salt() -> str:
    return get_random_string(16)


class Organisation(models.Model):
    class Demands(models.TextChoices):
        NOBODY = "", "nobody"
        LEADS = "leads", "its leads"
        ALL = "all", "everybody"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=120)
    second_factor = models.CharField(max_length=5, choices=Demands, default=Demands.NOBODY, db_default="", blank=True)
    """Of whom it demands a second factor."""

    def __str__(self) -> str:
        return self.name


class Person(AbstractUser):
    """Someone who signs in; `username` is the address that they sign in with, and `email` the same.

    What they entered stands under the row itself, so that a changed address changes nobody's work.
    """

    class Sheet(models.TextChoices):
        STEPS = "steps", "step by step"
        WHOLE = "whole", "whole sheet"

    name = models.CharField(max_length=120)
    sheet = models.CharField(max_length=5, choices=Sheet, default=Sheet.STEPS)
    session_salt = models.CharField(max_length=16, default=_salt)
    chosen = models.ForeignKey(Organisation, models.SET_NULL, null=True, blank=True, related_name="+")
    owes_factor = False
    """Whether they have to set up a second factor first; known of whoever is signed in."""

    def __str__(self) -> str:
        return self.name or self.username

    def _get_session_auth_hash(self, secret: str | None = None) -> str:
        # Beside the password a salt of our own: a new salt signs this person out everywhere.
        return salted_hmac(
            "beacon.session", self.password + self.session_salt, secret=secret, algorithm="sha256"
        ).hexdigest()

    def sign_out_everywhere(self) -> None:
        """Ends every session of this person, on every device."""
        self.session_salt = _salt()
        self.save(update_fields=["session_salt"])


class Role(models.TextChoices):
    TECHNICIAN = "technician"
    LEAD = "lead"
    READER = "reader"


class Membership(models.Model):
    """What a person may do in an organisation; a reader sees only the sites given."""

    person = models.ForeignKey(Person, models.CASCADE, related_name="memberships")
    organisation = models.ForeignKey(Organisation, models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=10, choices=Role)
    sites: Any = models.ManyToManyField("plant.Site", blank=True, related_name="readers")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["person", "organisation"], name="one_role_in_an_organisation")]

    def __str__(self) -> str:
        return f"{self.person}: {self.role}"


class Invitation(models.Model):
    """That an organisation would like to take somebody in: by a link to their address, or by asking whom it knows.

    Of the link only a hash is kept. Whoever is known already (`person`) says after signing in whether they come.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    address = models.CharField(max_length=150, db_default="")
    name = models.CharField(max_length=120, db_default="", blank=True)
    person = models.ForeignKey(Person, models.CASCADE, related_name="invitations", null=True, blank=True)
    organisation = models.ForeignKey(Organisation, models.CASCADE, related_name="invitations")
    role = models.CharField(max_length=10, choices=Role)
    sites: Any = models.ManyToManyField("plant.Site", blank=True, related_name="+")
    by = models.ForeignKey(Person, models.CASCADE, related_name="+")
    at = models.DateTimeField(default=timezone.now)
    secret_sha256 = models.CharField(max_length=64, db_default="", blank=True)
    until = models.DateTimeField(null=True, blank=True)
    used_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["address", "organisation"],
                condition=models.Q(used_at=None),
                name="one_invitation_of_an_address",
            )
        ]

    def __str__(self) -> str:
        return f"{self.address}: {self.organisation}?"


class Device(models.Model):
    """A session of someone on a device: where it was begun, when it was last seen."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    person = models.ForeignKey(Person, models.CASCADE, related_name="devices")
    session_key = models.CharField(max_length=40, unique=True)
    agent = models.CharField(max_length=200, blank=True)
    address = models.CharField(max_length=45, blank=True)
    began_at = models.DateTimeField(auto_now_add=True)
    seen_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-seen_at"]

    def __str__(self) -> str:
        return f"{self.person}: {self.agent[:40]}"


class SignInTry(models.Model):
    """How often a sign-in failed for a name at an address, and until when it waits."""

    name = models.CharField(max_length=150)
    address = models.CharField(max_length=45)
    failures = models.PositiveIntegerField(default=0)
    until = models.DateTimeField(null=True, blank=True)
    latest = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["name", "address"], name="one_wait_of_a_name_at_an_address")]

    def __str__(self) -> str:
        return f"{self.name}: {self.failures}"


class RateCount(models.Model):
    """How often something that costs much was asked for since a time."""

    key = models.CharField(max_length=200, unique=True)
    began = models.DateTimeField()
    count = models.PositiveIntegerField(default=0)

    def __str__(self) -> str:
        return f"{self.key}: {self.count}"
