"""What other programs are told: which happenings, and what is said of each. Figures that are on a certificate, and no more."""

import datetime
from typing import Any

from django.conf import settings
from django.utils import timezone

from beacon.bench.models import Job
from beacon.people.models import Organisation
from beacon.plant.models import Fault, Reference, System
from beacon.plant.view import home_zone, today_at
from beacon.programs.hooks import tell
from beacon.programs.models import Message, Topic
from wary.job.closing import state_in_words

SOON = datetime.timedelta(days=30)


def machine(system: System) -> dict[str, Any]:
    """A machine as it is named to others."""
    return {
        "system": str(system.pk),
        "name": system.name,
        "kind": system.kind,
        "site": system.site.name,
        "url": f"{settings.PUBLIC_URL}/systems/{system.pk}",
    }


def closed(job: Job) -> None:
    """A job was closed and sealed, and handed on what it came to."""
    system, record, summary = job.channel.system, getattr(job, "record", None), job.summary or {}
    what = {
        "job": str(job.pk),
        "channel": job.channel.name,
        "outcome": (job.closing or {}).get("outcome", ""),
        "outcome_words": summary.get("outcome", ""),
        "call": job.call,
        "headline": job.headline,
        "record": str(record.pk) if record else None,
        "number": record.number if record else None,
        "sha256": record.sha256 if record else None,
        "closed_at": job.closed_at.isoformat() if job.closed_at else None,
        "due": system.due.isoformat() if system.due else None,
    }
    tell(system.site.organisation, Topic.JOB_CLOSED, system.name, machine(system) | what)


def fault_found(fault: Fault) -> None:
    """A job found a fault on a machine."""
    system = fault.system
    said = {"job": str(fault.job), "title": fault.title, "put_right": fault.put_right}
    tell(system.site.organisation, Topic.FAULT_FOUND, f"{system.name}: {fault.title}", machine(system) | said)


def state_changed(system: System, before: str) -> None:
    """A machine's state is another than it was."""
    said = {"before": before, "state": system.state, "words": state_in_words(system.recorded_state, system.last)}
    tell(system.site.organisation, Topic.STATE_CHANGED, system.name, machine(system) | said)


def of_the_day() -> None:
    """What is due on the day that it is at each site, and what runs out within a month: each is told once."""
    for here in Organisation.objects.filter(webhooks__ended_at=None).distinct():
        for zone in here.sites.values_list("time_zone", flat=True).order_by().distinct():
            due = today_at(zone)
            listed = System.objects.filter(
                site__organisation=here, site__time_zone=zone, practice=False, dates__due_on=due
            )
            for system in listed.select_related("site"):
                _once(here, Topic.DUE, system.name, machine(system) | {"due": due.isoformat()})
        today = today_at(home_zone(here.pk))
        references = Reference.objects.filter(organisation=here, practice=False, due__gte=today, due__lt=today + SOON)
        for one in references:
            said = {"reference": str(one.pk), "name": one.name, "due": one.due.isoformat() if one.due else None}
            _once(here, Topic.REFERENCE, one.name, said)


def _once(here: Organisation, topic: Topic, about: str, data: dict[str, Any]) -> None:
    """Tells it where it was not told within the month."""
    told = Message.objects.filter(webhook__organisation=here, topic=topic, at__gt=timezone.now() - SOON)
    key = "system" if "system" in data else "reference"
    if not told.filter(text__contains=f'"{key}": "{data[key]}"').filter(text__contains=str(data["due"])).exists():
        tell(here, topic, about, data)
