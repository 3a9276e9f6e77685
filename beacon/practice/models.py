"""Practice runs: a job against a stand-in whose true state nobody sees until the end."""

from django.db import models

from beacon.bench.models import Job
from wary.simulators import STAND_INS
from wary.simulators.stand_in import Action, StandIn


class Practice(models.Model):
    """A stand-in's seed and hidden state, and what was done to it when. `skipped` is time that was jumped, s."""

    job = models.OneToOneField(Job, models.CASCADE, primary_key=True, related_name="stand_in")
    seed = models.BigIntegerField()
    fault = models.CharField(max_length=20)
    actions = models.JSONField(default=list)
    started_at = models.DateTimeField()
    skipped = models.FloatField(default=0.0)

    def __str__(self) -> str:
        return f"practice {self.job_id}"

    @property
    def machine(self) -> StandIn:
        """The stand-in itself."""
        return STAND_INS[self.job.channel.system.machine.stand_in](self.seed, self.fault)

    @property
    def done(self) -> list[Action]:
        """What was done to it, in the order of time."""
        return [Action.from_json(row) for row in self.actions]
