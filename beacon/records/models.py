"""Sealed records: what a closed job came to, chained to the organisation's record before it."""

import uuid

from django.conf import settings
from django.db import models
from django.db.models.functions import Coalesce, Now

from beacon.bench.models import Job
from beacon.people.models import Organisation


class Record(models.Model):
    """Canonical JSON and its SHA-256. The database refuses to change or remove it.

    `number` counts the records of an organisation, `serial` all of this database; those sealed
    before there were serials have none, nor have those that were `brought` from another one.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    # Found by its number.
    organisation = models.ForeignKey(Organisation, models.PROTECT, related_name="records", db_index=False)
    job = models.OneToOneField(Job, models.PROTECT, related_name="record")
    number = models.PositiveIntegerField()
    serial = models.PositiveBigIntegerField(null=True, blank=True, unique=True)
    content = models.TextField()
    sha256 = models.CharField(max_length=64)
    previous = models.CharField(max_length=64, blank=True)
    sealed_at = models.DateTimeField()
    kept_at = models.DateTimeField(null=True, editable=False, db_default=Now())
    """When it was kept here, which may be long after it was sealed: it came in late, or from another server."""
    supersedes = models.OneToOneField("self", models.PROTECT, null=True, blank=True, related_name="superseded_by")
    brought = models.BooleanField(default=False, db_default=False)
    sealed_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-number"]
        indexes = [
            models.Index(fields=["organisation", "-sealed_at"]),
            models.Index(fields=["-sealed_at"]),
            models.Index("organisation", Coalesce("kept_at", "sealed_at"), name="records_as_they_were_kept"),
        ]
        constraints = [models.UniqueConstraint(fields=["organisation", "number"], name="records_are_numbered_in_order")]

    def __str__(self) -> str:
        return f"record {self.number}"


class Door(models.Model):
    """A link that opens one record's certificate, or those of one machine, to whoever has it, until a day."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    organisation = models.ForeignKey(Organisation, models.CASCADE, related_name="doors")
    record = models.ForeignKey(Record, models.CASCADE, null=True, blank=True, related_name="doors")
    system = models.ForeignKey("plant.System", models.CASCADE, null=True, blank=True, related_name="doors")
    secret_sha256 = models.CharField(max_length=64, unique=True)
    until = models.DateField()
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    revoked_at = models.DateTimeField(null=True, blank=True)
    opened_at = models.DateTimeField(null=True, blank=True)
    opened = models.PositiveIntegerField(default=0)

    class Meta:
        constraints = [
            models.CheckConstraint(
                condition=models.Q(record=None, system__isnull=False) | models.Q(record__isnull=False, system=None),
                name="a_door_opens_a_record_or_a_machine",
            )
        ]

    def __str__(self) -> str:
        return f"door until {self.until}"


class SealCount(models.Model):
    """How many records this database ever sealed, in one row."""

    count = models.PositiveBigIntegerField(default=0)

    def __str__(self) -> str:
        return f"{self.count} records"


class Verification(models.Model):
    """One verification of an organisation's chain: how far it went, and what did not fit, if anything.

    `breaks` lists them, each with its record's number, its system and why; `number` and `why` are of the first.
    """

    organisation = models.ForeignKey(Organisation, models.CASCADE, related_name="verifications")
    at = models.DateTimeField()
    who = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, null=True, blank=True, related_name="+")
    records = models.PositiveIntegerField()
    number = models.PositiveIntegerField(null=True, blank=True)
    why = models.CharField(max_length=300, blank=True)
    breaks = models.JSONField(default=list, blank=True)

    class Meta:
        ordering = ["-at"]

    def __str__(self) -> str:
        return f"{self.organisation}: {self.why or 'every link fits'}"


class Restored(models.Model):
    """A backup that was put back although its records do not fit, by somebody at the console, with why."""

    at = models.DateTimeField(auto_now_add=True)
    by = models.CharField(max_length=120)
    file = models.CharField(max_length=300)
    why = models.CharField(max_length=300)
    breaks = models.JSONField(default=list)

    class Meta:
        ordering = ["-at"]

    def __str__(self) -> str:
        return f"{self.file}: {self.why}"
