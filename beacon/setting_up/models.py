"""A spreadsheet that is too long to wait for: looked at, or taken in, in the background."""

from django.db import models

from beacon.background.made import UNDER_WAY, Made
from beacon.backups import MADE_ANEW
from beacon.people.models import Organisation


class SetUp(Made):
    """A file of many rows, until it is done and for a week after; `found` is what it came to."""

    what, page = "a spreadsheet to be gone through", "/set-up"
    organisation = models.ForeignKey(Organisation, models.CASCADE, related_name="set_ups")
    file = models.CharField(max_length=200)
    keep = models.BooleanField(default=False)
    found = models.JSONField(null=True)

    class Meta(Made.Meta):
        constraints = [
            models.UniqueConstraint(fields=["organisation"], condition=models.Q(**UNDER_WAY), name="one_set_up_at_a_time")
        ]  # fmt: skip

    def __str__(self) -> str:
        return f"{self.file}, for {self.organisation}"

    @property
    def name(self) -> str:
        """Where the file lies until it is kept, or a week."""
        return f"{MADE_ANEW}/{self.organisation_id}/{self.id}.sheet"
