"""Jobs, and the append-only entries that they consist of."""

import uuid

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.contrib.postgres.indexes import GinIndex
from django.db import models
from django.dispatch import Signal

from beacon.people.models import Organisation
from beacon.plant.models import Channel
from wary import log
from wary.machines.machine import Part

job_closed = Signal()
"""Sent with `job` once a job is closed, within the same transaction."""


class Job(models.Model):
    """A job on one channel: one method, or the methods of a visit in their order (`visit`).

    `entries` counts its entries and `latest` is the last of them. `fold` is what the first `folded`
    of them came to, so that not all have to be read again; those after it make it whole. `summary`
    is what a closed job hands to the history: errors and uncertainty in per cent, factors, zero.
    A job that puts an earlier record right names it in `puts_right`, says why, and stands in the
    history at the time of the earlier one, `tested_at`. `found` is how often each suspect was found on
    this machine and its like when the job was opened, `repaired` what was found last and left for repair, `beside` how other machines
    compared with the same reference, `drifts` whether it moves the same way at each visit, `moved` how far at most
    (`most visits left`), `past` what the visits before say of chances; `remembered` which places the visit before
    filled (`paths`), and when that was (`on`).
    """

    class State(models.TextChoices):
        OPEN = "open"
        AS_FOUND = "as-found"
        ADJUSTING = "adjusting"
        AS_LEFT = "as-left"
        CLOSED = "closed"
        ABANDONED = "abandoned"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    # Found by the index of a channel's jobs in their order.
    channel = models.ForeignKey(Channel, models.PROTECT, related_name="jobs", db_index=False)
    method = models.CharField(max_length=40)
    visit = models.JSONField(default=list, blank=True)
    practice = models.BooleanField(default=False)
    state = models.CharField(max_length=10, choices=State, default=State.OPEN)
    not_valid = models.BooleanField(default=False)
    opened_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    opened_at = models.DateTimeField()
    touched_at = models.DateTimeField()
    entries = models.PositiveIntegerField(default=0)
    latest = models.UUIDField(null=True, blank=True)
    fold = models.JSONField(default=dict)
    folded = models.PositiveIntegerField(default=0)
    call = models.CharField(max_length=20, blank=True)
    headline = models.CharField(max_length=80, blank=True)
    down = models.BooleanField(default=False)
    reference_ids = ArrayField(models.UUIDField(), default=list, blank=True)
    closing = models.JSONField(null=True, blank=True)
    closed_at = models.DateTimeField(null=True, blank=True)
    summary = models.JSONField(null=True, blank=True)
    puts_right = models.UUIDField(null=True, blank=True)
    puts_right_why = models.CharField(max_length=300, blank=True)
    tested_at = models.DateTimeField(null=True, blank=True)
    found = models.JSONField(default=dict, blank=True)
    repaired = models.JSONField(default=list, blank=True)
    beside = models.JSONField(default=list, blank=True)
    drifts = models.BooleanField(default=False)
    moved = models.JSONField(default=dict, blank=True)
    past = models.JSONField(default=dict, blank=True, db_default=models.Value({}, models.JSONField()))
    remembered = models.JSONField(default=dict, blank=True)

    class Meta:
        ordering = ["-opened_at"]
        indexes = [
            models.Index(fields=["channel", "-closed_at"]),
            models.Index(fields=["channel"], condition=models.Q(closed_at=None), name="jobs_still_open"),
            GinIndex(fields=["reference_ids"], name="jobs_by_reference"),
        ]

    def __str__(self) -> str:
        return f"{self.method} on {self.channel}"

    @property
    def parts(self) -> tuple[Part, ...]:
        """The parts of the visit in their order; a single method is a visit of one."""
        return tuple(Part(**part) for part in self.visit) or (Part("", self.method),)

    @property
    def is_open(self) -> bool:
        return self.state not in (self.State.CLOSED, self.State.ABANDONED)


class Entry(models.Model):
    """One thing that was typed, ticked or captured; `raw` is the line that it was captured from, as it came.

    `clock_off` are the seconds by which the clock of the device was ahead of the server's, where that was more than
    a little: `at` is by the server's clock then, put right by so much.

    The database refuses to change or remove it.
    """

    class Source(models.TextChoices):
        TYPED = "typed"
        CAPTURED = "captured"
        IMPORTED = "imported"
        RECORD = "record"

    # Found by its place in the job; an index of the job alone would be another gigabyte for thirty million entries.
    job = models.ForeignKey(Job, models.PROTECT, related_name="trail", db_index=False)
    entry_id = models.UUIDField()
    sequence = models.PositiveIntegerField()
    path = models.CharField(max_length=120)
    text = models.TextField(blank=True)
    unit = models.CharField(max_length=12, blank=True)
    source = models.CharField(max_length=10, choices=Source, default=Source.TYPED)
    steady = models.BooleanField(null=True)
    raw = models.CharField(max_length=200, blank=True)
    supersedes = models.UUIDField(null=True, blank=True)
    undoes = models.BooleanField(default=False)
    who = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    at = models.DateTimeField()
    clock_off = models.IntegerField(null=True, blank=True)
    kept_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["sequence"]
        constraints = [
            models.UniqueConstraint(fields=["job", "entry_id"], name="an_entry_is_kept_once"),
            models.UniqueConstraint(fields=["job", "sequence"], name="one_entry_at_a_place"),
        ]
        indexes = [models.Index(fields=["job", "path", "sequence"])]

    def __str__(self) -> str:
        return f"{self.path} = {self.text}"

    @property
    def logged(self) -> log.Entry:
        """The same as the core knows it."""
        return log.Entry(
            self.entry_id, self.sequence, self.path, self.text, self.unit, self.source, self.supersedes, self.undoes,
            str(self.who), self.at, self.steady,
        )  # fmt: skip


class LeftBehind(models.Model):
    """An entry that somebody typed on a device after they could no longer work on the job; no part of it."""

    job = models.ForeignKey(Job, models.PROTECT, related_name="left_behind")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    entry_id = models.UUIDField()
    path = models.CharField(max_length=120)
    text = models.TextField(blank=True)
    unit = models.CharField(max_length=12, blank=True)
    undoes = models.BooleanField(default=False)
    at = models.DateTimeField()
    seen_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, null=True, blank=True, related_name="+")
    seen_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "entry_id"], name="what_is_left_is_kept_once")]

    def __str__(self) -> str:
        return f"{self.path} = {self.text}"


class HeaderName(models.Model):
    """What an organisation calls a column of a list in its CSV files; an empty column is left out."""

    organisation = models.ForeignKey(Organisation, models.CASCADE, related_name="+")
    list = models.CharField(max_length=100)
    header = models.CharField(max_length=120)
    column = models.CharField(max_length=60, blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["organisation", "list", "header"], name="a_header_means_one_column")
        ]

    def __str__(self) -> str:
        return f"{self.header}: {self.column or 'left out'}"
