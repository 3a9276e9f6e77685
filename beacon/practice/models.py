"""Practice runs: a job against a stand-in whose true state nobody sees until the end; scenarios that a lead gives."""

import uuid

from django.conf import settings
from django.db import models

from beacon.bench.models import Job
from beacon.people.models import Organisation
from wary.simulators import stand_in_of
from wary.simulators.stand_in import Action, StandIn


class ScenarioSet(models.Model):
    """Scenarios that a lead gave to people; everyone gets the same machines, so that they can be compared."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    organisation = models.ForeignKey(Organisation, models.CASCADE, related_name="scenario_sets")
    name = models.CharField(max_length=80)
    given_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    given_at = models.DateTimeField(auto_now_add=True)
    until = models.DateField(null=True, blank=True)
    taken_back = models.BooleanField(default=False)
    people = models.ManyToManyField(settings.AUTH_USER_MODEL, related_name="scenario_sets")

    class Meta:
        ordering = ["-given_at"]

    def __str__(self) -> str:
        return self.name


class Scenario(models.Model):
    """One machine of a set: its kind, how hard it is, and what is hidden in it."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    of = models.ForeignKey(ScenarioSet, models.CASCADE, related_name="scenarios")
    place = models.PositiveSmallIntegerField()
    kind = models.CharField(max_length=30)
    level = models.CharField(max_length=4)
    seed = models.BigIntegerField()
    fault = models.CharField(max_length=20)

    class Meta:
        ordering = ["place"]

    def __str__(self) -> str:
        return f"{self.of}, {self.place + 1}: {self.kind}"


class Practice(models.Model):
    """A stand-in's seed and hidden state, and what was done to it when. `skipped` is time that was jumped, s.

    `turn` grows with every act. `scored` is what it came to, once it is closed: whether it was right,
    the verdict, and each decision with whether that was right.
    """

    job = models.OneToOneField(Job, models.CASCADE, primary_key=True, related_name="stand_in")
    seed = models.BigIntegerField()
    fault = models.CharField(max_length=20)
    level = models.CharField(max_length=4, blank=True)
    scenario = models.ForeignKey(Scenario, models.SET_NULL, null=True, blank=True, related_name="practices")
    actions = models.JSONField(default=list)
    started_at = models.DateTimeField()
    skipped = models.FloatField(default=0.0)
    turn = models.PositiveIntegerField(default=0)
    scored = models.JSONField(null=True, blank=True)

    def __str__(self) -> str:
        return f"practice {self.job_id}"

    @property
    def machine(self) -> StandIn:
        """The stand-in itself."""
        return stand_in_of(self.job.channel.system.machine)(self.seed, self.fault)

    @property
    def done(self) -> list[Action]:
        """What was done to it, in the order of time."""
        return [Action.from_json(row) for row in self.actions]
