"""The log of what a cart or a loader loaded."""

import uuid

from django.conf import settings
from django.db import models

from beacon.bench.models import Job
from beacon.plant.models import Channel


class Load(models.Model):
    """One load. `mass` and `ticket_mass` are its texts in kg, for totals; `job` is the comparison that it became a run of.

    What it says may be changed by hand; each change is a row of `LoadChange`, and those are never changed.
    """

    class State(models.TextChoices):
        OPEN = "open"
        RECORDING = "recording"
        STORED = "stored"

    class How(models.TextChoices):
        HAND = "hand"
        SIGNAL = "signal"
        STEADY = "steady"
        IMPORTED = "imported"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    channel = models.ForeignKey(Channel, models.PROTECT, related_name="loads")
    number = models.PositiveIntegerField()
    state = models.CharField(max_length=10, choices=State, default=State.OPEN)
    how = models.CharField(max_length=10, choices=How, default=How.HAND)
    started_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True, blank=True)
    indicated = models.CharField(max_length=30, blank=True)
    mass = models.FloatField(null=True, blank=True)
    operator = models.CharField(max_length=80, blank=True)
    destination = models.CharField(max_length=80, blank=True)
    material = models.CharField(max_length=80, blank=True)
    ticket = models.CharField(max_length=30, blank=True)
    ticket_mass = models.FloatField(null=True, blank=True)
    moved = models.BooleanField(default=False)
    job = models.ForeignKey(Job, models.SET_NULL, null=True, blank=True, related_name="loads")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-number"]
        constraints = [models.UniqueConstraint(fields=["channel", "number"], name="one_load_of_a_number")]
        indexes = [models.Index(fields=["channel", "-started_at"])]

    def __str__(self) -> str:
        return f"load {self.number}: {self.indicated}"


class LoadChange(models.Model):
    """One thing of a load that was changed after it was first kept, with what stood there before."""

    load = models.ForeignKey(Load, models.CASCADE, related_name="changes")
    field = models.CharField(max_length=20)
    before = models.CharField(max_length=80, blank=True)
    after = models.CharField(max_length=80, blank=True)
    who = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["at"]

    def __str__(self) -> str:
        return f"{self.field}: {self.before} → {self.after}"
