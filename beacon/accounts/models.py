"""An organisation's own sign-in: a provider by OpenID Connect, the domains of its addresses, and who may come by it."""

import uuid

from allauth.socialaccount.models import SocialAccount, SocialApp
from django.db import models
from django.db.models.signals import post_delete
from django.dispatch import receiver

from beacon.people.models import Organisation, Role


class House(models.Model):
    """How the people of an organisation sign in at a provider of its own."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    organisation = models.ForeignKey(Organisation, models.CASCADE, related_name="houses")
    app = models.OneToOneField(SocialApp, models.CASCADE, related_name="house")
    name = models.CharField(max_length=40)
    only = models.BooleanField(default=False)
    """Whether who has an address of its domains comes this way alone."""
    takes_in = models.BooleanField(default=False)
    """Whether who is not invited is taken in as they come."""
    role = models.CharField(max_length=10, choices=Role, default=Role.READER)
    claim = models.CharField(max_length=80, blank=True)
    """What the provider calls the field that says the role; empty where a lead says it."""
    roles = models.JSONField(default=dict)
    """Role by what that field says."""

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return f"{self.organisation}: {self.name}"


class HouseDomain(models.Model):
    """A domain of addresses; it belongs to one house alone."""

    house = models.ForeignKey(House, models.CASCADE, related_name="domains")
    domain = models.CharField(max_length=120, unique=True)

    def __str__(self) -> str:
        return self.domain


class OwnLink(models.Model):
    """That somebody said, signed in by another way, that an account at a provider is theirs.

    Without it a link was made silently as they came by that provider for the first time: it is good for the
    provider's organisation, and for nobody who belongs to another one as well.
    """

    account = models.OneToOneField(SocialAccount, models.CASCADE, related_name="own")
    at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return str(self.account)


@receiver(post_delete, sender=House)
def _without_its_app(instance: House, **_: object) -> None:
    SocialApp.objects.filter(pk=instance.app_id).delete()
    # Nobody is connected to what is not there any more.
    SocialAccount.objects.filter(provider=str(instance.pk)).delete()
