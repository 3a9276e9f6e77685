"""Mail: what each person would like to hear of, and every mail that was written, with what became of it."""

import uuid

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.utils import timezone

from beacon.people.models import Organisation


class Wish(models.Model):
    """What somebody would like to hear of one organisation: what is due, on these days at this hour, and what happens."""

    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="wishes")
    organisation = models.ForeignKey(Organisation, models.CASCADE, related_name="+")
    days = ArrayField(models.PositiveSmallIntegerField(), default=list)
    """Days of the week on which what is due is told, Monday is 0."""
    hour = models.PositiveSmallIntegerField(default=6)
    sites = ArrayField(models.UUIDField(), default=list)
    """The sites of which it is told; all that they may see where none is named."""
    faults = models.BooleanField(default=False)
    looks = models.BooleanField(default=False, db_default=False)
    """Whether a record to look at is told: one that was sealed against what the call said, or found wanting after."""
    chain = models.BooleanField(default=False)
    told_on = models.DateField(null=True, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["person", "organisation"], name="one_wish_of_a_person")]

    def __str__(self) -> str:
        return f"{self.person}: mail of {self.organisation}"


class Mail(models.Model):
    """A mail as it was written, and what became of it."""

    class Kind(models.TextChoices):
        DUE = "due", "what is due"
        FAULT = "fault", "a fault was found"
        CHAIN = "chain", "the chain does not fit"
        LOOK = "look", "a record to look at"
        INVITATION = "invitation", "an invitation"
        ACCOUNT = "account", "for themselves"

    PRIVATE = (Kind.INVITATION, Kind.ACCOUNT)
    """What holds a link that is for whoever it is written to alone."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    organisation = models.ForeignKey(Organisation, models.CASCADE, related_name="mails", null=True, blank=True)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="mails", null=True, blank=True)
    """Who it is written to; nobody where somebody is invited who is not known yet."""
    address = models.CharField(max_length=150, blank=True, db_default="")
    """Where it goes, where that is not the person's own address."""
    kind = models.CharField(max_length=10, choices=Kind)
    subject = models.CharField(max_length=200)
    text = models.TextField()
    html = models.TextField()
    calendar = models.TextField(blank=True)
    at = models.DateTimeField(default=timezone.now)
    tries = models.PositiveIntegerField(default=0)
    sent_at = models.DateTimeField(null=True, blank=True)
    given_up_at = models.DateTimeField(null=True, blank=True)
    said = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["-at"]
        indexes = [models.Index(fields=["organisation", "-at"])]

    def __str__(self) -> str:
        return f"{self.subject} to {self.to}"

    @property
    def to(self) -> str:
        """The address that it goes to."""
        return self.address or (self.person.email or self.person.username if self.person else "")
