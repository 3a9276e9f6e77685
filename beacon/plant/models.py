"""Sites, systems and their channels, references, and the profiles that hold the limits."""

import datetime
import uuid
from typing import Any
from zoneinfo import ZoneInfo

from django.conf import settings
from django.db import models
from django.db.models.functions import Coalesce, Now
from django.dispatch import Signal
from django.utils import timezone

from beacon.people.models import Organisation
from wary.job.closing import STATES, MachineState
from wary.machines import all_machines
from wary.machines.machine import Machine
from wary.rules.profiles import STARTING, TITLES, ProfileGiven

state_changed = Signal()
"""Sent with `system` and the state `before` once its state is another, within the same transaction."""


class Site(models.Model):
    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    organisation = models.ForeignKey(Organisation, models.CASCADE, related_name="sites")
    name = models.CharField(max_length=120)
    time_zone = models.CharField(max_length=60, default="UTC")
    place = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ["place", "name"]

    def __str__(self) -> str:
        return self.name

    def day_of(self, at: datetime.datetime) -> datetime.date:
        """The day that it is here at a moment."""
        return at.astimezone(ZoneInfo(self.time_zone)).date()


class LimitProfile(models.Model):
    """The limits of an organisation for one kind of comparison; its leads edit them."""

    organisation = models.ForeignKey(Organisation, models.CASCADE, related_name="profiles")
    key = models.CharField(max_length=40)
    title = models.CharField(max_length=80)
    accept = models.JSONField(null=True, blank=True)
    repeat = models.CharField(max_length=20, blank=True)
    minimum_runs = models.PositiveSmallIntegerField(default=3)
    plausible = models.CharField(max_length=20, default="10 %")
    look_minutes = models.PositiveSmallIntegerField(default=10)
    skip_looks = models.BooleanField(default=True)
    looks = models.CharField(max_length=10, default="worth", db_default="worth")
    harm_minutes = models.PositiveSmallIntegerField(null=True, blank=True)

    class Meta:
        ordering = ["title"]
        constraints = [models.UniqueConstraint(fields=["organisation", "key"], name="one_profile_of_a_key")]

    def __str__(self) -> str:
        return self.title

    def as_given(self) -> dict[str, Any]:
        """The profile as a job file carries it, name and limits."""
        given: dict[str, Any] = {"name": self.key, "minimum_runs": self.minimum_runs, "plausible": self.plausible}
        given |= (
            {}
            if self.look_minutes == LimitProfile._meta.get_field("look_minutes").default
            else {"look_minutes": self.look_minutes}
        )
        given |= {} if self.skip_looks else {"skip_looks": False}
        given |= {} if self.looks == "worth" else {"looks": self.looks}
        given |= {} if self.harm_minutes is None else {"harm_minutes": self.harm_minutes}
        return (
            given | ({"accept": self.accept} if self.accept else {}) | ({"repeat": self.repeat} if self.repeat else {})
        )

    def check_limits(self) -> None:
        """Raises pydantic's ValidationError where a limit cannot be read."""
        ProfileGiven.model_validate(self.as_given())


def starting_profiles(organisation: Organisation) -> None:
    """Gives an organisation the starting limits, to edit."""
    all_machines()
    made = (LimitProfile(organisation=organisation, key=key, **_beginning(key)) for key in STARTING)
    LimitProfile.objects.bulk_create(made, ignore_conflicts=True)


def limits_of(organisation: Organisation, key: str) -> LimitProfile:
    """The limits of an organisation by their key; those that a kind of machine brings begin with the first of its kind.

    Raises DoesNotExist for a key that is none.
    """
    found = LimitProfile.objects.filter(organisation=organisation, key=key).first()
    if found or key not in STARTING:
        return found or LimitProfile.objects.get(organisation=organisation, key=key)
    made, _ = LimitProfile.objects.get_or_create(organisation=organisation, key=key, defaults=_beginning(key))
    return made


def _beginning(key: str) -> dict[str, Any]:
    """With what limits of a key begin."""
    profile = STARTING[key]
    return {
        "title": TITLES[key],
        "accept": profile.accept.as_json() if profile.accept else None,
        "repeat": f"{profile.repeat * 100:g} %" if profile.repeat else "",
        "minimum_runs": profile.minimum_runs,
        "plausible": f"{(profile.plausible or 0.1) * 100:g} %",
    }


class Reference(models.Model):
    """What says the better value: a scale, test weights, a container whose tare is known, or a system that was proven.

    `nominal` is the mass of the weights, `tare` that of the container; `uncertainty` is expanded,
    relative for a scale, a mass or relative for weights. `weights` are those of a set, one by one.
    A `system` hands down what its last record says of it, as it stands when it is named. One of
    `practice` belongs to a stand-in, and is not listed among the others.
    """

    class Kind(models.TextChoices):
        SCALE = "scale", "reference scale"
        WEIGHTS = "weights", "test weights"
        CONTAINER = "container", "container with a known tare"
        SYSTEM = "system", "a system that was proven"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    organisation = models.ForeignKey(Organisation, models.CASCADE, related_name="references")
    kind = models.CharField(max_length=10, choices=Kind, default=Kind.SCALE)
    name = models.CharField(max_length=120)
    division = models.CharField(max_length=20, blank=True)
    range = models.CharField(max_length=20, blank=True)
    uncertainty = models.CharField(max_length=20, blank=True)
    nominal = models.CharField(max_length=20, blank=True)
    tare = models.CharField(max_length=20, blank=True)
    certificate = models.CharField(max_length=80, blank=True)
    due = models.DateField(null=True, blank=True)
    checked_by = models.CharField(max_length=120, blank=True)
    lent_by = models.CharField(max_length=120, blank=True)
    label = models.CharField(max_length=40, blank=True)
    weights = models.JSONField(default=list, blank=True)
    system = models.OneToOneField("System", models.CASCADE, null=True, blank=True, related_name="as_reference")
    practice = models.BooleanField(default=False)

    class Meta:
        ordering = ["kind", "name"]

    def __str__(self) -> str:
        return self.name


class CheckMass(models.Model):
    """One look at a reference scale with a check mass: what lay on it, what it showed, whether that holds."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    reference = models.ForeignKey(Reference, models.CASCADE, related_name="checks")
    mass = models.CharField(max_length=40)
    shown = models.CharField(max_length=40)
    off_kg = models.FloatField()
    holds = models.BooleanField()
    note = models.CharField(max_length=200, blank=True)
    at = models.DateTimeField(default=timezone.now)
    who = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-at"]
        indexes = [models.Index(fields=["reference", "-at"])]

    def __str__(self) -> str:
        return f"{self.reference}: {self.shown} with {self.mass} on it"


class System(models.Model):
    """A weighing system: its plates, the form in which it takes a correction, and its limits.

    `lists` are rows that its site wrote, by the name of their list on record. `last` is what the last closed job
    came to, `past` what all of them
    say of chances (`visits`, `adjusted`, `faults`, what was `seen` when, what it `lacks`) and `due` when the next
    one is wanted, kept here so
    that the round costs the same however long the history grows.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    site = models.ForeignKey(Site, models.CASCADE, related_name="systems")
    kind = models.CharField(max_length=20)
    name = models.CharField(max_length=120)
    material = models.CharField(max_length=120, blank=True)
    serial = models.CharField(max_length=80, blank=True)
    plates = models.JSONField(default=dict)
    profile = models.ForeignKey(LimitProfile, models.PROTECT)
    reference = models.ForeignKey(Reference, models.SET_NULL, null=True, blank=True, related_name="usual_for")
    correction = models.CharField(max_length=10, default="factor")
    factor_name = models.CharField(max_length=40, default="factor")
    factor_decimals = models.PositiveSmallIntegerField(default=4)
    direction = models.CharField(max_length=10, default="multiplies")
    nominal_factor = models.CharField(max_length=30, blank=True)
    lists = models.JSONField(default=dict, blank=True)
    interval_days = models.PositiveIntegerField(default=180)
    state = models.CharField(max_length=20, default="not-tested")
    due = models.DateField(null=True, blank=True)
    last = models.JSONField(null=True, blank=True)
    past = models.JSONField(default=dict, blank=True, db_default=models.Value({}, models.JSONField()))
    notes = models.TextField(blank=True)
    instrument = models.ForeignKey("InstrumentKind", models.SET_NULL, null=True, blank=True)
    practice = models.BooleanField(default=False)

    class Meta:
        ordering = ["site__place", "name"]

    def __str__(self) -> str:
        return self.name

    @property
    def machine(self) -> Machine:
        """The kind of machine that it is."""
        return all_machines()[self.kind]

    @property
    def recorded_state(self) -> MachineState:
        """The state that is on record, as one of those that there are."""
        return next(state for state in STATES if state == self.state)


class Channel(models.Model):
    """What is calibrated by itself: a belt scale has one channel, wheel pads one each, a filler one a recipe.

    `figures` are its own plates, where its kind of machine has such; `proved_at` is when it was last in order.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    system = models.ForeignKey(System, models.CASCADE, related_name="channels")
    name = models.CharField(max_length=80, default="main")
    place = models.PositiveSmallIntegerField(default=0)
    factor = models.CharField(max_length=30, blank=True)
    test_weight_factor = models.CharField(max_length=30, blank=True)
    zero = models.CharField(max_length=30, blank=True)
    figures = models.JSONField(default=dict, blank=True)
    proved_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["place", "name"]

    def __str__(self) -> str:
        return f"{self.system}: {self.name}"


class Cell(models.Model):
    """A load cell in its place. One that was replaced stays, with the day on which it came out."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    channel = models.ForeignKey(Channel, models.CASCADE, related_name="cells")
    place = models.PositiveSmallIntegerField()
    label = models.CharField(max_length=40)
    capacity = models.CharField(max_length=20, blank=True)
    sensitivity = models.CharField(max_length=20, blank=True)
    source = models.CharField(max_length=12, blank=True)
    serial = models.CharField(max_length=80, blank=True)
    fitted = models.DateField(null=True, blank=True)
    removed = models.DateField(null=True, blank=True)
    why_removed = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["channel__place", "place", "-removed"]

    def __str__(self) -> str:
        return f"{self.channel}: {self.label}"


class Event(models.Model):
    """Something that happened to a system and may make a calibration stale.

    `stale` lists the methods that it puts on the round; those done since stand in `settled`.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    system = models.ForeignKey(System, models.CASCADE, related_name="events")
    kind = models.CharField(max_length=20)
    note = models.CharField(max_length=300, blank=True)
    at = models.DateTimeField(default=timezone.now)
    kept_at = models.DateTimeField(null=True, editable=False, db_default=Now())
    who = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    stale = models.JSONField(default=list)
    settled = models.JSONField(default=list)

    class Meta:
        ordering = ["-at"]
        indexes = [models.Index(Coalesce("kept_at", "at"), name="events_as_they_were_kept")]

    def __str__(self) -> str:
        return f"{self.words} on {self.system}"

    @property
    def words(self) -> str:
        """What happened, as this kind of machine calls it."""
        known = self.system.machine.events.get(self.kind)
        return known.words if known else self.kind


class Fault(models.Model):
    """A fault that a job found on a system: which suspect it was, what it took to find it, and whether it was put right in that job.

    `suspect` is a key that the kind of machine knows, empty for something that no suspect is; `title` is in words.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    system = models.ForeignKey(System, models.CASCADE, related_name="faults")
    job = models.UUIDField(unique=False)
    suspect = models.CharField(max_length=40, blank=True)
    title = models.CharField(max_length=300)
    at = models.DateTimeField()
    kept_at = models.DateTimeField(null=True, editable=False, db_default=Now())
    minutes = models.PositiveIntegerField(default=0)
    put_right = models.BooleanField(default=False)
    who = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-at"]
        indexes = [
            models.Index(fields=["system", "-at"]),
            models.Index(Coalesce("kept_at", "at"), name="faults_as_they_were_kept"),
        ]
        constraints = [models.UniqueConstraint(fields=["job", "suspect"], name="a_fault_once_a_job")]

    def __str__(self) -> str:
        return f"{self.title} on {self.system}"


class InstrumentKind(models.Model):
    """A kind of instrument whose extra settings and coded numbers a site defines.

    `fields` holds rows of `{"name", "title", "digits"}`; `digits` gives each digit of a coded
    number its meaning, in order, with a bar between.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    organisation = models.ForeignKey(Organisation, models.CASCADE, related_name="instrument_kinds")
    name = models.CharField(max_length=80)
    fields = models.JSONField(default=list)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["organisation", "name"], name="one_kind_of_a_name")]

    def __str__(self) -> str:
        return self.name


class PlateChange(models.Model):
    """The trail of what was changed in a system's record, by whom; `why` is what the job showed that changed it."""

    system = models.ForeignKey(System, models.CASCADE, related_name="changes")
    field = models.CharField(max_length=60)
    before = models.TextField(blank=True)
    after = models.TextField(blank=True)
    why = models.CharField(max_length=200, blank=True)
    who = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-at", "-id"]

    def __str__(self) -> str:
        return f"{self.field}: {self.before} → {self.after}"
