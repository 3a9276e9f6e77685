"""The log of what a cart or a loader loaded."""

import datetime
import uuid

from django.conf import settings
from django.db import models

from beacon.bench.models import Job
from beacon.links.models import Link
from beacon.plant.models import Channel


class Load(models.Model):
    """One load. `mass` and `ticket_mass` are its texts in kg, for totals; `job` is the comparison that it became a run of.

    What it says may be changed by hand; each change is a row of `LoadChange`, and those are never changed.
    One that was `taken_out`, with why, stays to be seen and counts for nothing.
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

    start: datetime.datetime
    end: datetime.datetime | None
    """Its times where they were asked for as `beacon.loads.keeping.readable` does."""

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
    taken_out = models.CharField(max_length=200, blank=True)
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


class Watch(models.Model):
    """A live weight that keeps the log of a channel, whoever has a page open: one process of the server watches it.

    `held_by` is that process, until `held_until`; another takes the watch over then. `base` is what the
    weight stood at last (kg), so that a load under way is not lost with a process.
    """

    channel = models.OneToOneField(Channel, models.CASCADE, related_name="watch")
    link = models.ForeignKey(Link, models.CASCADE, related_name="watches")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="+")
    began_at = models.DateTimeField(auto_now_add=True)
    base = models.FloatField(null=True, blank=True)
    held_by = models.CharField(max_length=80, blank=True)
    held_until = models.DateTimeField(null=True, blank=True)

    def __str__(self) -> str:
        return f"{self.link} keeps the log of {self.channel}"
