"""Photographs and papers: proof beside the field, the step, the run or the job that it belongs to."""

import uuid

from django.conf import settings
from django.db import models
from django.utils import timezone

from beacon.bench.models import Job
from beacon.people.models import Organisation
from beacon.plant.models import Reference


class Attachment(models.Model):
    """A photograph or a PDF, stored by its SHA-256 outside the tables.

    It belongs to a job, at a place of it (`path`; empty for the job as a whole), or to a reference.
    `sent_sha256` is of what came, `sha256` of what is kept: a photograph is made upright and loses
    where it was taken. The database refuses to change which file a row speaks of, or to remove one.
    """

    class Kind(models.TextChoices):
        JPEG = "image/jpeg"
        PNG = "image/png"
        PDF = "application/pdf"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    organisation = models.ForeignKey(Organisation, models.PROTECT, related_name="attachments")
    job = models.ForeignKey(Job, models.PROTECT, null=True, blank=True, related_name="attachments")
    reference = models.ForeignKey(Reference, models.PROTECT, null=True, blank=True, related_name="attachments")
    path = models.CharField(max_length=120, blank=True)
    name = models.CharField(max_length=120)
    kind = models.CharField(max_length=20, choices=Kind)
    size = models.PositiveIntegerField()
    width = models.PositiveIntegerField(default=0)
    height = models.PositiveIntegerField(default=0)
    pages = models.PositiveIntegerField(default=1)
    sha256 = models.CharField(max_length=64)
    sent_sha256 = models.CharField(max_length=64)
    on_certificate = models.BooleanField(default=False)
    set_aside = models.CharField(max_length=200, blank=True)
    who = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        db_table = "papers_paper"
        ordering = ["at", "id"]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(job__isnull=False) ^ models.Q(reference__isnull=False),
                name="a_paper_belongs_to_one_thing",
            ),
            models.UniqueConstraint(fields=["job", "path", "sent_sha256"], name="a_paper_once_at_a_place"),
        ]

    def __str__(self) -> str:
        return self.name


class LateAttachment(models.Model):
    """A attachment that came into its job after the job was sealed, set apart by a lead: it is no part of the record.

    The database refuses to change or remove it.
    """

    attachment = models.OneToOneField(Attachment, models.PROTECT, related_name="late", db_column="paper_id")
    why = models.CharField(max_length=300)
    who = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        db_table = "papers_latepaper"

    def __str__(self) -> str:
        return f"{self.attachment}: {self.why}"
