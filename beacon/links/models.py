"""Instruments whose readings come in by themselves: over the local network, or through a technician's own device."""

import uuid

from django.conf import settings
from django.db import models

from beacon.people.models import Organisation
from beacon.plant.models import System


class Link(models.Model):
    """An instrument on the line.

    One on the network has a `host` as a lead typed it and the `address` that it was found at then; it
    is reached at that address and no other. One on a serial port is read by the technician's browser.
    `pattern` is what was pointed at on a captured line; without one the instrument speaks the simple
    format. `unit` is what it sent when it was taught, `most` what its range ends at.
    """

    class Way(models.TextChoices):
        NETWORK = "network", "on the network"
        SERIAL = "serial", "on a serial port"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    organisation = models.ForeignKey(Organisation, models.CASCADE, related_name="links")
    name = models.CharField(max_length=80)
    way = models.CharField(max_length=10, choices=Way, default=Way.NETWORK)
    host = models.CharField(max_length=120, blank=True)
    address = models.GenericIPAddressField(null=True, blank=True)
    port = models.PositiveIntegerField(default=0)
    baud = models.PositiveIntegerField(default=9600)
    pattern = models.JSONField(null=True, blank=True)
    unit = models.CharField(max_length=12, blank=True)
    most = models.CharField(max_length=30, blank=True)
    off = models.BooleanField(default=False)
    systems = models.ManyToManyField(System, related_name="links", blank=True)
    changed_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    changed_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["organisation", "name"], name="one_link_of_a_name")]

    def __str__(self) -> str:
        return self.name
