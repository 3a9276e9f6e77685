"""Sessions by device: noted when they begin, listed, and ended one by one."""

import datetime
from collections.abc import Iterable

from django.contrib.sessions.models import Session
from django.http import HttpRequest
from django.utils import timezone

from beacon.people.models import Device, Person

SEEN_EVERY = datetime.timedelta(minutes=10)


def note_device(request: HttpRequest, user: Person) -> None:
    """Notes that a session began here."""
    if request.session.session_key is None:
        request.session.save()
    agent = "".join(c for c in request.headers.get("User-Agent", "") if c.isprintable())[:200]
    Device.objects.update_or_create(
        session_key=request.session.session_key,
        defaults={"person": user, "agent": agent, "address": request.META.get("REMOTE_ADDR", "")[:45]},
    )


def seen(request: HttpRequest, user: Person) -> None:
    """Notes, now and then, that a session is still in use."""
    now = timezone.now()
    user.devices.filter(session_key=request.session.session_key, seen_at__lt=now - SEEN_EVERY).update(seen_at=now)


def living(user: Person) -> Iterable[Device]:
    """The devices of someone whose sessions have not ended by themselves."""
    keys = {device.session_key for device in user.devices.all()}
    there = Session.objects.filter(session_key__in=keys, expire_date__gt=timezone.now())
    return user.devices.filter(session_key__in=there.values("session_key"))


def end_device(device: Device) -> None:
    """Ends the session on a device."""
    Session.objects.filter(session_key=device.session_key).delete()
    device.delete()
