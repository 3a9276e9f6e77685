"""Archives: everything of an organisation in one file, made in the background."""

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.utils import timezone

from beacon.background.made import UNDER_WAY, Made
from beacon.backups import MADE_ANEW
from beacon.people.models import Organisation

MAKE, PUT_TOGETHER, QUEUE = "make an archive", "put certificates together", "archives"
"""The tasks that make them, and where they stand in line, by their names."""


class Archive(Made):
    """Everything of an organisation in one file."""

    what, page = "an archive of everything", "/people"
    organisation = models.ForeignKey(Organisation, models.CASCADE, related_name="archives")

    class Meta(Made.Meta):
        constraints = [
            models.UniqueConstraint(
                fields=["organisation"],
                condition=models.Q(**UNDER_WAY),
                name="one_archive_at_a_time",
            )
        ]

    def __str__(self) -> str:
        return f"archive of {self.organisation}, {self.at:%Y-%m-%d}"

    @property
    def name(self) -> str:
        """Where it lies among the files."""
        return f"{MADE_ANEW}/{self.organisation_id}/{self.id}.zip"


class Bundle(Made):
    """The certificates of a period that somebody may see, put together: a ZIP, or one PDF."""

    class Kind(models.TextChoices):
        ZIP = "zip", "each a PDF, in a ZIP"
        PDF = "pdf", "one PDF of all"

    what, page = "certificates put together", "/log"
    organisation = models.ForeignKey(Organisation, models.CASCADE, related_name="bundles")
    kind = models.CharField(max_length=3, choices=Kind)
    since = models.DateField(null=True, blank=True)
    until = models.DateField(null=True, blank=True)
    site = models.UUIDField(null=True, blank=True)
    of_sites = ArrayField(models.UUIDField(), default=list, db_default=[])
    """The sites whose certificates are in it: whoever takes it has to see them all at that moment."""

    def __str__(self) -> str:
        return f"certificates, {self.kind}, for {self.by}"

    @property
    def name(self) -> str:
        """Where it lies among the files."""
        return f"{MADE_ANEW}/{self.organisation_id}/{self.id}.{self.kind}"


class Closing(models.Model):
    """That an organisation was closed, by whom and why, and who could do what there until then."""

    organisation = models.ForeignKey(Organisation, models.PROTECT, related_name="closings")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    at = models.DateTimeField(default=timezone.now)
    why = models.CharField(max_length=300)
    members = models.JSONField(default=list)
    rows = models.TextField(blank=True, db_default="")
    """The members as rows of an archive: there are none any more when it is made."""
    ended = models.JSONField(default=dict, db_default={})
    """What ended with it and does not come back, by what it is, each by its name."""
    archive = models.ForeignKey(Archive, models.SET_NULL, null=True, blank=True, related_name="+")
    """Everything as it was when it was closed, for whoever closed it."""
    reopened_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["organisation"], condition=models.Q(reopened_at=None), name="closed_once")
        ]

    def __str__(self) -> str:
        return f"{self.organisation}, closed {self.at:%Y-%m-%d}"
