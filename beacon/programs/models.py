"""Other programs that work with an organisation: what they may ask by a token, and what they are told by webhooks."""

import uuid

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.utils import timezone

from beacon.people.models import Organisation


class Scope(models.TextChoices):
    READ = "read", "read systems, references, records and due dates"
    ENTER = "enter", "enter readings into open jobs, counters and zeros"
    PLAN = "plan", "plan visits"
    MACHINES = "machines", "keep systems, references and due dates"


class Topic(models.TextChoices):
    JOB_CLOSED = "job.closed", "a job was closed"
    FAULT_FOUND = "fault.found", "a fault was found"
    STATE_CHANGED = "machine.state-changed", "a machine's state changed"
    DUE = "machine.due", "a machine is due"
    REFERENCE = "reference.running-out", "a reference runs out within a month"


class Program(models.Model):
    """Another program with its token, of which only the hash is kept. What it enters stands under its own `account`."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    organisation = models.ForeignKey(Organisation, models.CASCADE, related_name="programs")
    name = models.CharField(max_length=80)
    scopes = ArrayField(models.CharField(max_length=10, choices=Scope))
    account = models.OneToOneField(settings.AUTH_USER_MODEL, models.PROTECT, related_name="program")
    secret_sha256 = models.CharField(max_length=64, unique=True)
    begins_with = models.CharField(max_length=12)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    made_at = models.DateTimeField(default=timezone.now)
    used_at = models.DateTimeField(null=True, blank=True)
    revoked_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-made_at"]

    def __str__(self) -> str:
        return self.name


class Webhook(models.Model):
    """An address that is told of what happens, signed with a secret that only it and this program know."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    organisation = models.ForeignKey(Organisation, models.CASCADE, related_name="webhooks")
    url = models.CharField(max_length=500)
    topics = ArrayField(models.CharField(max_length=30, choices=Topic))
    secret = models.CharField(max_length=60)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    made_at = models.DateTimeField(default=timezone.now)
    ended_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-made_at"]

    def __str__(self) -> str:
        return self.url


class Message(models.Model):
    """What one webhook is told: the very text that is sent, however often, and what became of it."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    webhook = models.ForeignKey(Webhook, models.CASCADE, related_name="messages")
    topic = models.CharField(max_length=30, choices=Topic)
    text = models.TextField()
    about = models.CharField(max_length=120, blank=True)
    at = models.DateTimeField(default=timezone.now)
    tries = models.PositiveIntegerField(default=0)
    tried_at = models.DateTimeField(null=True, blank=True)
    next_at = models.DateTimeField(null=True, blank=True)
    taken_at = models.DateTimeField(null=True, blank=True)
    given_up_at = models.DateTimeField(null=True, blank=True)
    said = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["-at"]
        indexes = [models.Index(fields=["webhook", "-at"])]

    def __str__(self) -> str:
        return f"{self.topic}: {self.about}"
