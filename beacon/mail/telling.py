"""What mails say: what is due and runs out, a fault that was found, a chain that does not fit.

A mail is written for one person, out of what that person may see: names, days and states, and no figures.
"""

import datetime
from zoneinfo import ZoneInfo

from django.conf import settings
from django.db import transaction
from django.template.loader import render_to_string
from django.utils import timezone

from beacon.bench.models import Job
from beacon.mail.models import Mail, Wish
from beacon.mail.sending import KEPT_FOR, stop_link, write
from beacon.people.access import WORKING, nobodys_program
from beacon.people.models import Membership, Organisation, Person, Role
from beacon.planner.calendar import feed, items
from beacon.planner.due import known_of
from beacon.plant.access import sites, systems
from beacon.plant.models import Fault, Reference
from beacon.records.verifying import Verified

SOON = datetime.timedelta(days=14)
TOLD_EACH = datetime.timedelta(days=1)
RUNS_OUT = datetime.timedelta(days=30)


def due_now(moment: datetime.datetime | None = None) -> int:
    """Writes what is due to everyone who would like to hear of it on this day at this hour; how many mails that were."""
    moment = moment or timezone.now()
    written = 0
    for wish in Wish.objects.exclude(days=[]).select_related("person", "organisation"):
        zone = _zone(wish)
        if zone is None:
            continue
        there = moment.astimezone(zone)
        if there.weekday() in wish.days and there.hour >= wish.hour and wish.told_on != there.date():
            written += _tell_due(wish, there.date())
    Mail.objects.filter(at__lt=timezone.now() - KEPT_FOR).delete()
    return written


def _zone(wish: Wish) -> ZoneInfo | None:
    """The zone of the first site of which it is told; None where they may see none any more."""
    seen = sites(wish.person).filter(organisation=wish.organisation).order_by("place", "name")
    if wish.sites:
        seen = seen.filter(id__in=wish.sites)
    first = seen.first()
    return ZoneInfo(first.time_zone) if first else None


@transaction.atomic
def _tell_due(wish: Wish, today: datetime.date) -> bool:
    """One mail to one person, once a day, whoever else is at it."""
    mine = Wish.objects.filter(pk=wish.pk).exclude(told_on=today)
    if not mine.update(told_on=today):
        return False
    listed = systems(wish.person).filter(site__organisation=wish.organisation)
    if wish.sites:
        listed = listed.filter(site__in=wish.sites)
    found = list(listed)
    works = Membership.objects.filter(person=wish.person, organisation=wish.organisation, role__in=WORKING).exists()
    references = list(Reference.objects.filter(organisation=wish.organisation, practice=False, due__lt=today + RUNS_OUT)) if works else []  # fmt: skip
    all_items = sorted(items(found, known_of(found), references), key=lambda one: one.day)
    near = [one for one in all_items if one.day <= today + (RUNS_OUT if one.kind == "reference" else SOON)]
    if not near:
        return False
    lines = [
        {
            "name": one.name,
            "site": one.site,
            "day": one.day,
            "late": one.day < today,
            "words": one.words,
            "url": f"{settings.PUBLIC_URL}/systems/{one.system}" if one.system else f"{settings.PUBLIC_URL}/references",
        }
        for one in near
    ]
    late = sum(one.day < today for one in near)
    subject = f"{wish.organisation}: {len(lines)} due" + (f", {late} overdue" if late else "")
    calendar = feed(iter(near), f"{wish.organisation}: due").decode()
    _written(wish.organisation, wish.person, Mail.Kind.DUE, subject, {"lines": lines}, calendar)
    return True


def _written(of: Organisation, to: Person, kind: Mail.Kind, subject: str, said: dict[str, object], calendar: str = "") -> None:  # fmt: skip
    stop = stop_link(Mail(organisation=of, person=to, kind=kind))
    said = said | {"subject": subject, "organisation": of, "stop": stop, "server": settings.PUBLIC_URL}
    text, html = (render_to_string(f"mail/{kind.value}.{ending}", said) for ending in ("txt", "html"))
    write(of, to, kind, subject, text, html, calendar=calendar)


def fault_found(fault: Fault) -> None:
    """Tells everyone who works there, may see the machine, and would like to hear of it."""
    here = fault.system.site.organisation
    working = Membership.objects.filter(organisation=here, role__in=WORKING).values("person")
    for wish in Wish.objects.filter(organisation=here, faults=True, person__in=working).select_related("person"):
        seen = sites(wish.person).filter(pk=fault.system.site_id).exists()
        if seen and (not wish.sites or fault.system.site_id in wish.sites):
            said = {"fault": fault, "system": fault.system, "url": f"{settings.PUBLIC_URL}/systems/{fault.system_id}"}
            _written(here, wish.person, Mail.Kind.FAULT, f"{fault.system.name}: {fault.title}", said)


def closed(job: Job) -> None:
    """Tells leads who would like to hear of it that a record wants to be looked at: why it was closed as it was, in words."""
    closing, summary, record = job.closing or {}, job.summary or {}, getattr(job, "record", None)
    why = [f"closed with a reason: {closing['reason']}"] if closing.get("reason") else []
    if summary.get("provisional"):
        why.append("its span is provisional")
    if record is not None and record.supersedes_id:
        why.append(f"it puts record {record.supersedes.number} right")
    if not why:
        return
    system = job.channel.system
    here = system.site.organisation
    leads = Membership.objects.filter(organisation=here, role=Role.LEAD).values("person")
    url = f"{settings.PUBLIC_URL}/records/{record.pk}" if record else f"{settings.PUBLIC_URL}/jobs/{job.pk}"
    for wish in Wish.objects.filter(organisation=here, looks=True, person__in=leads).select_related("person"):
        if not wish.sites or system.site_id in wish.sites:
            said = {"system": system, "why": why, "who": summary.get("closed_by", ""), "url": url}
            _written(here, wish.person, Mail.Kind.LOOK, f"{system.name}: a record to look at", said)


def chain_broken(here: Organisation, found: Verified) -> None:
    """Tells every lead who did not say otherwise that the chain of records does not fit."""
    leads = Membership.objects.filter(nobodys_program("person"), organisation=here, role=Role.LEAD).select_related(
        "person"
    )
    deaf = set(Wish.objects.filter(organisation=here, chain=False).values_list("person", flat=True))
    for lead in leads:
        if lead.person_id not in deaf:
            said = {"broken": found.broken[:20], "count": len(found.broken), "url": f"{settings.PUBLIC_URL}/chain"}
            _written(here, lead.person, Mail.Kind.CHAIN, f"{here}: the chain of records does not fit", said)


def not_done(here: Organisation, what: str, why: str, page: str) -> None:
    """Tells every lead that something in the background is not tried any more; of the same once a day at most."""
    leads = Membership.objects.filter(nobodys_program("person"), organisation=here, role=Role.LEAD).select_related(
        "person"
    )
    subject = f"{here}: not done: {what}"[:200]
    for lead in leads:
        told = Mail.objects.filter(person=lead.person, subject=subject, at__gt=timezone.now() - TOLD_EACH)
        if not told.exists():
            given = {
                "subject": subject,
                "said": f"{what}: {why}",
                "url": f"{settings.PUBLIC_URL}{page}",
                "organisation": str(here),
            }
            text, html = (render_to_string(f"mail/account.{ending}", given) for ending in ("txt", "html"))
            write(here, lead.person, Mail.Kind.ACCOUNT, subject, text, html)
