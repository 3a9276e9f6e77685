"""What is planned: intervals, counters, zero checks, visits of a day and a person, the order of the round, feeds."""

import uuid

from django.conf import settings
from django.db import models
from django.utils import timezone

from beacon.people.models import Organisation
from beacon.plant.models import System


class Interval(models.Model):
    """An interval of a system beside its days: hours, tonnes, cycles or a season; and that of its zero checks.

    `band` is how far the zero may be off, as it was typed.
    """

    class Purpose(models.TextChoices):
        CALIBRATION = "calibration"
        ZERO = "zero"

    class Kind(models.TextChoices):
        DAYS = "days"
        HOURS = "hours"
        TONNES = "tonnes"
        CYCLES = "cycles"
        SEASON = "season"

    system = models.ForeignKey(System, models.CASCADE, related_name="intervals")
    purpose = models.CharField(max_length=12, choices=Purpose, default=Purpose.CALIBRATION)
    kind = models.CharField(max_length=8, choices=Kind)
    every = models.FloatField(default=0)
    season = models.CharField(max_length=5, blank=True)
    band = models.CharField(max_length=20, blank=True)

    class Meta:
        ordering = ["purpose", "kind"]
        constraints = [
            models.UniqueConstraint(fields=["system", "purpose", "kind"], name="one_interval_of_a_kind"),
        ]

    def __str__(self) -> str:
        return f"{self.system}: {self.purpose} by {self.kind}"


class Counter(models.Model):
    """What a counter showed: typed, or taken from a visit. One that was replaced, or began again, is `anew`."""

    system = models.ForeignKey(System, models.CASCADE, related_name="counters")
    kind = models.CharField(max_length=8)
    figure = models.FloatField()
    anew = models.BooleanField(default=False)
    at = models.DateTimeField(default=timezone.now)
    who = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")

    class Meta:
        ordering = ["at", "id"]

    def __str__(self) -> str:
        return f"{self.system}: {self.figure} {self.kind}"


class ZeroCheck(models.Model):
    """What a machine showed with nothing on it, between visits; `holds` where it lay within its band."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    system = models.ForeignKey(System, models.CASCADE, related_name="zero_checks")
    text = models.CharField(max_length=40)
    holds = models.BooleanField()
    at = models.DateTimeField(default=timezone.now)
    who = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-at"]
        indexes = [models.Index(fields=["system", "-at"])]

    def __str__(self) -> str:
        return f"{self.system}: {self.text}"


class Planned(models.Model):
    """A visit planned to a day, and to a person where one is named."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    system = models.ForeignKey(System, models.CASCADE, related_name="planned")
    day = models.DateField()
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, blank=True, related_name="+")
    note = models.CharField(max_length=200, blank=True)
    made_at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["day"]
        constraints = [models.UniqueConstraint(fields=["system"], name="one_visit_planned_at_a_time")]

    def __str__(self) -> str:
        return f"{self.system} on {self.day}"


class Dates(models.Model):
    """When a system is wanted again, as it was worked out on the day `as_of`: what the round and the month ask for.

    There is none, or one of an earlier day, where it has to be worked out again: the database takes it
    away whenever anything that it was worked out from is changed, whoever changes it.
    """

    system = models.OneToOneField(System, models.CASCADE, primary_key=True, related_name="dates")
    as_of = models.DateField()
    wanted = models.BooleanField()
    rank = models.PositiveSmallIntegerField()
    urgency = models.CharField(max_length=8)
    due_on = models.DateField(null=True)
    due_kind = models.CharField(max_length=8)
    expected = models.BooleanField(default=False)
    zero_on = models.DateField(null=True)
    zero_urgency = models.CharField(max_length=8, blank=True)
    daily = models.BooleanField(default=False)

    class Meta:
        indexes = [models.Index(fields=["due_on"]), models.Index(fields=["zero_on"])]

    def __str__(self) -> str:
        return f"{self.system_id}: {self.urgency} as of {self.as_of}"


class RoundOrder(models.Model):
    """The order of driving in which someone goes to the sites of an organisation."""

    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="+")
    organisation = models.ForeignKey(Organisation, models.CASCADE, related_name="+")
    sites = models.JSONField(default=list)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["person", "organisation"], name="one_order_of_a_person")]

    def __str__(self) -> str:
        return f"{self.person}: {len(self.sites)} sites"


class Feed(models.Model):
    """A calendar under a secret link: only the hash of the secret is kept, and it can be revoked."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="feeds")
    organisation = models.ForeignKey(Organisation, models.CASCADE, related_name="+")
    secret_sha256 = models.CharField(max_length=64, unique=True)
    made_at = models.DateTimeField(default=timezone.now)
    revoked_at = models.DateTimeField(null=True, blank=True)
    asked_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-made_at"]

    def __str__(self) -> str:
        return f"{self.person}: feed of {self.made_at:%Y-%m-%d}"
