"""The round, the page of one system, what is planned, and the calendar."""

import datetime
import hashlib
import secrets
from typing import Annotated, Any
from uuid import UUID

from django.conf import settings
from django.db import transaction
from django.db.models import OuterRef, Subquery
from django.http import Http404, HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Router
from pydantic import Field

from beacon.database.apart import apart
from beacon.people.access import nobodys_program, organisation, person, works_in
from beacon.people.models import Membership, Person, Role
from beacon.planner import schemas
from beacon.planner.calendar import feed, items, month
from beacon.planner.desk import monday_of, portfolio, to_write_up, week_of
from beacon.planner.due import Known, known_of
from beacon.planner.keeping import keep_counter, keep_intervals, keep_plan, keep_zero
from beacon.planner.models import Feed, Interval, Planned, RoundOrder
from beacon.planner.round import Asked, found_by, open_jobs, page_of, systems_here
from beacon.planner.view import system_row, zero_view
from beacon.plant.access import references_of, system_to_work_on, systems
from beacon.plant.models import Channel, Reference, Site, System
from beacon.plant.view import Answer, home_zone, today_at
from beacon.problems import Problem, ProblemDocument
from beacon.validation import Whole
from wary.job.closing import STATES
from wary.rules.due import Reading

router = Router(tags=["planner"])
MOST_FEEDS = 20


def _known(system: System) -> Known:
    return known_of([system]).get(system.id) or Known()


@router.get("round", response=schemas.RoundView)
def todays_round(
    request: HttpRequest,
    after: Whole = 0,
    find: Annotated[str, Field(max_length=100)] = "",
    site: UUID | None = None,
    kind: Annotated[str, Field(max_length=30)] = "",
    state: Annotated[str, Field(max_length=20)] = "",
    wanted: bool = False,
) -> Answer:
    """A page of the round: sites in this person's order of driving, what is open and due now first, what to bring."""
    user = person(request)
    page = page_of(user, organisation(user), after, Asked(find, site, kind, state, wanted))
    jobs, known, references = open_jobs(page.systems), known_of(page.systems), references_of(user)
    return {
        "sites": [{"id": s.id, "name": s.name, "time_zone": s.time_zone} for s in page.sites],
        "systems": [
            system_row(system, jobs.get(system.id, []), known.get(system.id) or Known(), references)
            for system in page.systems
        ],
        "states": [{"state": state, "words": words} for state, words in STATES.items()],
        "wanted": page.wanted,
        "places": page.places,
        "total": page.total,
        "later": page.later,
    }


@router.get("system-names", response=list[schemas.SystemName])
def all_systems(
    request: HttpRequest,
    find: Annotated[str, Field(max_length=100)] = "",
    kind: Annotated[str, Field(max_length=30)] = "",
) -> list[Answer]:
    """Every system that this person may work on, by name, to choose from; `find` and `kind` narrow them."""
    user = person(request)
    listed = found_by(systems_here(user, organisation(user)), find).order_by("site__place", "site__name", "name")
    listed = listed.filter(kind=kind) if kind else listed
    first = Channel.objects.filter(system=OuterRef("pk")).order_by("place").values("id")[:1]
    columns = ("id", "name", "kind", "material", "site__name", "state", "first_channel")
    return [
        {
            "id": one,
            "name": name,
            "kind": kind,
            "material": material,
            "site": site,
            "not_tested": state == "not-tested",
            "channel": channel,
        }
        for one, name, kind, material, site, state, channel in listed.annotate(
            first_channel=Subquery(first)
        ).values_list(*columns)
    ]


@router.put("round/order", response={204: None})
def order_round(request: HttpRequest, given: schemas.OrderIn) -> tuple[int, None]:
    """Remembers in which order this person drives to the sites."""
    user = person(request)
    here = organisation(user)
    mine = {str(site) for site in Site.objects.filter(organisation=here).values_list("id", flat=True)}
    sites = [str(site) for site in given.sites if str(site) in mine]
    RoundOrder.objects.update_or_create(person=user, organisation=here, defaults={"sites": sites})
    return 204, None


@router.put("systems/{system_id}/intervals", response={204: None, 422: ProblemDocument})
@transaction.atomic
def change_intervals(request: HttpRequest, system_id: UUID, given: schemas.IntervalsIn) -> tuple[int, None]:
    """Changes when a system is wanted again; why stands on its record."""
    user = person(request)
    system = system_to_work_on(user, system_id, lock=True)
    keep_intervals(user, system, given)
    return 204, None


@router.post("systems/{system_id}/counters", response={204: None, 422: ProblemDocument})
@transaction.atomic
def read_counter(request: HttpRequest, system_id: UUID, given: schemas.CounterIn) -> tuple[int, None]:
    """Keeps what a counter of a system shows now."""
    user = person(request)
    # Locked, so that none of two readings goes back behind the other.
    system = system_to_work_on(user, system_id, lock=True)
    keep_counter(user, system, _all_counters(system), given)
    return 204, None


def _all_counters(system: System) -> Known:
    """The counters of a system, also those that no interval goes by yet."""
    known = _known(system)
    for kind, figure, at in system.counters.values_list("kind", "figure", "at"):
        if kind not in known.counters:
            known.counters.setdefault(kind, []).append(Reading(system.site.day_of(at), figure))
    return known


@router.post("systems/{system_id}/zero-checks", response={201: schemas.ZeroView, 422: ProblemDocument})
def check_zero(request: HttpRequest, system_id: UUID, given: schemas.ZeroCheckIn) -> tuple[int, Answer]:
    """Keeps what a system shows with nothing on it, and says whether that lies within its band."""
    user = person(request)
    system = system_to_work_on(user, system_id)
    interval = system.intervals.filter(purpose=Interval.Purpose.ZERO).first()
    if interval is None:
        text = "No zero checks are asked of this system. Give it an interval for them on its page."
        raise Problem(422, "Not kept", text)
    keep_zero(user, system, interval.band, given)
    found = zero_view(system, _known(system), today_at(system.site.time_zone))
    assert found
    return 201, found


@router.put("systems/{system_id}/plan", response={204: None, 422: ProblemDocument})
def plan_visit(request: HttpRequest, system_id: UUID, given: schemas.PlanIn) -> tuple[int, None]:
    """Plans the next visit of a system to a day and a person."""
    system = system_to_work_on(person(request), system_id)
    keep_plan(system, given, today_at(system.site.time_zone))
    return 204, None


@router.delete("systems/{system_id}/plan", response={204: None})
def unplan_visit(request: HttpRequest, system_id: UUID) -> tuple[int, None]:
    """Takes the plan of a visit back."""
    Planned.objects.filter(system=system_to_work_on(person(request), system_id)).delete()
    return 204, None


@router.get("colleagues", response=list[schemas.ColleagueView])
def colleagues(request: HttpRequest) -> list[Answer]:
    """Who works in the organisation at hand, for planning a visit."""
    working = (
        Membership.objects.filter(organisation=organisation(person(request)))
        .filter(nobodys_program("person"))
        .exclude(role=Role.READER)
    )
    return [
        {"username": one.person.username, "name": str(one.person)}
        for one in working.select_related("person").order_by("person__name")
    ]


@router.get("calendar", response={200: schemas.CalendarView, 422: ProblemDocument})
@apart
def one_month(request: HttpRequest, month_of: str) -> Answer:
    """A month of the organisation at hand, named as 2031-03."""
    user = person(request)
    try:
        first_day = datetime.datetime.strptime(month_of, "%Y-%m").date()
        if not 1970 <= first_day.year <= 9000:
            raise ValueError
    except ValueError:
        text = f"“{month_of[:20]}” is no month; expected one such as 2031-03."
        raise Problem(422, "No such month", errors=[{"path": "month_of", "text": text}]) from None
    here = organisation(user)
    references = Reference.objects.filter(organisation=here, practice=False)
    return month(here.pk, systems_here(user, here), list(references), first_day)


@router.get("due-dates", response=list[schemas.DueDate])
@apart
def due_dates(request: HttpRequest) -> list[Answer]:
    """When each system that this person may see is due; also for those who only read."""
    return portfolio(list(systems(person(request)).order_by("site__place", "site__name", "name")))


@router.get("write-up", response=list[schemas.ToWriteUp])
def jobs_to_write_up(request: HttpRequest) -> list[Answer]:
    """The open jobs, in the order in which they are written up: one's own first."""
    user = person(request)
    return to_write_up(user, organisation(user))


@router.get("week", response={200: schemas.WeekView, 422: ProblemDocument})
@apart
def one_week(request: HttpRequest, of: Annotated[str, Field(max_length=10)] = "") -> Answer:
    """A week of the organisation, by a day of it; this week where none is said. Only for a lead."""
    user = person(request)
    here = organisation(user, Role.LEAD)
    try:
        day = datetime.date.fromisoformat(of) if of else today_at(home_zone(here.pk))
        if not 1970 <= day.year <= 9000:
            raise ValueError
    except ValueError:
        text = f"“{of}” is no day; expected one such as 2031-05-04."
        raise Problem(422, "No such week", errors=[{"path": "of", "text": text}]) from None
    return week_of(user, here, monday_of(day))


@router.get("feeds", response=list[schemas.FeedView])
def feeds(request: HttpRequest) -> list[Answer]:
    """The calendars under a secret link that this person made."""
    return [_feed_view(one) for one in person(request).feeds.select_related("organisation")]


@router.post("feeds", response={201: schemas.FeedView, 422: ProblemDocument})
@transaction.atomic
def make_feed(request: HttpRequest) -> tuple[int, Answer]:
    """A new calendar under a secret link, which is shown this once."""
    user = person(request)
    Person.objects.select_for_update(no_key=True).get(pk=user.pk)
    if user.feeds.filter(revoked_at=None).count() >= MOST_FEEDS:
        raise Problem(422, "There are many already", "Revoke one that is not used any more.")
    secret = secrets.token_urlsafe(32)
    made = Feed.objects.create(person=user, organisation=organisation(user), secret_sha256=_hash(secret))
    return 201, _feed_view(made) | {"link": f"{settings.PUBLIC_URL}/api/calendar/{secret}.ics"}


@router.delete("feeds/{feed_id}", response={204: None})
def revoke_feed(request: HttpRequest, feed_id: UUID) -> tuple[int, None]:
    """Revokes a link: whoever still has it is told so."""
    if not person(request).feeds.filter(id=feed_id).update(revoked_at=timezone.now()):
        raise Http404
    return 204, None


def _hash(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()


def _feed_view(one: Feed) -> Answer:
    keys = ("id", "made_at", "revoked_at", "asked_at")
    return {key: getattr(one, key) for key in keys} | {"organisation": str(one.organisation)}


@router.get("calendar/{secret}.ics", response={200: bytes, 410: ProblemDocument}, auth=None)
def read_feed(request: HttpRequest, secret: str) -> HttpResponse:
    """The calendar of a secret link, as ordinary calendar programs ask for it."""
    found: Any = Feed.objects.filter(secret_sha256=_hash(secret)).select_related("person", "organisation").first()
    if found is None:
        raise Http404
    works = Membership.objects.filter(person=found.person, organisation=found.organisation).exists()
    if found.revoked_at or not works or not found.person.is_active:
        raise Problem(410, "This link was revoked", "Make a new one on the calendar's page, and take this one away.")
    listed = list(systems(found.person).filter(site__organisation=found.organisation))
    leads = works_in(found.person).filter(pk=found.organisation_id).exists()
    references = list(Reference.objects.filter(organisation=found.organisation, practice=False)) if leads else []
    content = feed(items(listed, known_of(listed), references), f"{found.organisation}: round")
    mark = f'"{hashlib.sha256(content).hexdigest()[:32]}"'
    Feed.objects.filter(pk=found.pk).update(asked_at=timezone.now())
    headers = {"ETag": mark, "Cache-Control": "private, max-age=300"}
    if request.headers.get("If-None-Match") == mark:
        return HttpResponse(status=304, headers=headers)
    headers["Content-Disposition"] = 'inline; filename="round.ics"'
    return HttpResponse(content, content_type="text/calendar; charset=utf-8", headers=headers)
