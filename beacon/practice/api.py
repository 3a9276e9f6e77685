"""Practice: a job against a stand-in, its live readings, and at the end what was true beside what was done."""

import asyncio
import json
import random
from collections.abc import AsyncIterator
from typing import Any
from uuid import UUID

from asgiref.sync import sync_to_async
from django.db import transaction
from django.http import Http404, HttpRequest, StreamingHttpResponse
from django.utils import timezone
from ninja import Router
from pydantic import BaseModel, Field

from beacon.bench import schemas
from beacon.bench.document import assess
from beacon.bench.keeping import job_of, open_job
from beacon.bench.view import job_view
from beacon.people.access import organisation, person
from beacon.people.models import Organisation, Person
from beacon.plant.models import Channel, LimitProfile, Reference, Site, System
from beacon.practice.models import Practice
from beacon.practice.score import score
from beacon.problems import Problem, ProblemDocument
from wary.simulators.belt import ACTIONS, FAULTS, Action, Belt, Following
from wary.visits import VISITS

router = Router(tags=["practice"])
EVERY = 0.4
SECONDS_OPEN = 600
NAME = "Practice belt"


class ActIn(BaseModel):
    """Something done to the stand-in now; `skip` jumps so many seconds."""

    what: str
    figure: float = Field(0.0, ge=-1e6, le=1e6)


class LiveView(BaseModel):
    """What the display shows: rate in t/h, total in t, live weight in kg, speed in m/s."""

    at: float
    rate: float
    total: float
    live: float
    speed: float
    steady: bool
    running: bool
    revolutions: float
    factor: float


class TicketView(BaseModel):
    """Gross and tare of the lorry that took what the belt delivered since the last ticket, kg."""

    gross: float
    tare: float


class TruthView(BaseModel):
    """What was true of the stand-in, and how what was done stands beside it."""

    fault: str
    text: str
    right_factor: float | None
    may_adjust: bool
    verdict: str
    lines: list[str]
    good: bool


def practice_belt(of: Organisation) -> Channel:
    """The organisation's practice belt, made when it is first wanted."""
    found = Channel.objects.filter(system__site__organisation=of, system__practice=True, system__kind="belt").first()
    if found is None:
        site = Site.objects.filter(organisation=of).order_by("place").first()
        if site is None:
            raise Http404
        bridge, _ = Reference.objects.get_or_create(
            organisation=of, name="Practice weighbridge", defaults={"division": "20 kg", "range": "60 t"}
        )
        plates = Belt(0, "none").plates
        system = System.objects.create(
            site=site,
            kind="belt",
            name=NAME,
            material="practice shell",
            practice=True,
            reference=bridge,
            profile=LimitProfile.objects.get(organisation=of, key="belt-fine"),
            factor_decimals=plates.decimals,
            nominal_factor=f"{plates.factor:g}",
            plates={
                "idler_spacing": f"{plates.idler_spacing:g} m",
                "weigh_idlers": plates.weigh_idlers,
                "angle": f"{plates.angle:g} deg",
                "belt_speed": f"{plates.speed:g} m/s",
                "belt_length": f"{plates.length:g} m",
                "revolution_time": f"{plates.revolution:g} s",
                "rated_rate": f"{plates.rated * 3.6:g} t/h",
                "indicated_division": f"{plates.total_division:g} kg",
            },
        )
        found = Channel.objects.create(system=system, name="belt", factor=f"{plates.factor:.4f}", zero="41 kg")
    return Channel.objects.select_related("system__site__organisation", "system__profile", "system__reference").get(
        pk=found.pk
    )


@router.post("practice", response={201: schemas.JobView})
@transaction.atomic
def begin(request: HttpRequest, seed: int | None = None, fault: str = "") -> Any:
    """Begins a visit on a stand-in belt whose hidden state is drawn at random."""
    user = person(request)
    of = organisation(user)
    draw = random.SystemRandom()
    visit = [part.as_json() for part in VISITS["belt"]]
    job = open_job(user, practice_belt(of), "belt-material-test", "routine", visit=visit, practice=True).job
    Practice.objects.create(
        job=job,
        seed=draw.randrange(1 << 31) if seed is None else seed,
        fault=fault if fault in FAULTS else draw.choice(("none", "none", "out", "out", *FAULTS[2:])),
        started_at=timezone.now(),
    )
    return 201, job_view(user, job, assess(job, job.fold))


def _practice(user: Person, job_id: UUID) -> Practice:
    job = job_of(user, job_id)
    found = Practice.objects.filter(job=job).first()
    if found is None:
        raise Http404
    found.job = job
    return found


def clock(practice: Practice) -> float:
    """Seconds since the stand-in began, with what was skipped."""
    return (timezone.now() - practice.started_at).total_seconds() + practice.skipped


def actions_of(practice: Practice) -> list[Action]:
    return [Action.from_json(row) for row in practice.actions]


@router.post("jobs/{job_id}/stand-in", response={200: LiveView, 422: ProblemDocument})
@transaction.atomic
def act(request: HttpRequest, job_id: UUID, given: ActIn) -> Any:
    """Does something to the stand-in: run, stop, feed, hang, zero, key in a factor, clean, or skip some time."""
    found = _practice(person(request), job_id)
    practice = Practice.objects.select_for_update().get(pk=found.pk)
    if given.what not in (*ACTIONS, "skip"):
        text = f"expected one of {', '.join((*ACTIONS, 'skip'))}"
        raise Problem(422, "Nothing that can be done to it", errors=[{"path": "what", "text": text}])
    if given.what == "skip":
        practice.skipped += max(0.0, min(given.figure, 3600.0))
    else:
        practice.actions = [*practice.actions, Action(round(clock(practice), 2), given.what, given.figure).as_json()]
    practice.save(update_fields=["actions", "skipped"])
    return Belt(practice.seed, practice.fault).live(actions_of(practice), clock(practice)).as_json()


@router.post("jobs/{job_id}/stand-in/ticket", response=TicketView)
@transaction.atomic
def ticket(request: HttpRequest, job_id: UUID) -> Any:
    """The weighbridge's ticket for what was delivered since the last one."""
    found = _practice(person(request), job_id)
    practice = Practice.objects.select_for_update().get(pk=found.pk)
    now = clock(practice)
    since = max((row["at"] for row in practice.actions if row["what"] == "ticket"), default=0.0)
    belt, actions = Belt(practice.seed, practice.fault), actions_of(practice)
    gross, tare = belt.ticket(actions, since, now)
    practice.actions = [*practice.actions, Action(round(now, 2), "ticket").as_json()]
    practice.save(update_fields=["actions"])
    return {"gross": gross, "tare": tare}


@router.get("jobs/{job_id}/live", response={200: str})
async def live(request: HttpRequest, job_id: UUID) -> Any:
    """The stand-in's readings as server-sent events, until the reader goes away or ten minutes are over."""
    user = await sync_to_async(person)(request)
    practice = await sync_to_async(_practice)(user, job_id)
    response = StreamingHttpResponse(_events(practice), content_type="text/event-stream")
    response.headers["Cache-Control"] = "no-store"
    response.headers["X-Accel-Buffering"] = "no"
    return response


async def _events(practice: Practice) -> AsyncIterator[bytes]:
    known: list[Any] | None = None
    following: Following | None = None
    yield b"retry: 500\n\n"
    for _ in range(int(SECONDS_OPEN / EVERY)):
        await practice.arefresh_from_db(fields=["actions", "skipped"])
        if following is None or practice.actions != known:
            known = practice.actions
            following = Following(Belt(practice.seed, practice.fault), actions_of(practice))
        # Catching up after a jump takes a while: not on the loop that serves everyone else.
        reading = await sync_to_async(following.live, thread_sensitive=False)(clock(practice))
        yield f"data: {json.dumps(reading.as_json())}\n\n".encode()
        await asyncio.sleep(EVERY)


@router.get("jobs/{job_id}/truth", response={200: TruthView, 409: ProblemDocument})
def truth(request: HttpRequest, job_id: UUID) -> Any:
    """What was true of the stand-in, once the practice is closed."""
    practice = _practice(person(request), job_id)
    job = practice.job
    if job.is_open:
        raise Problem(409, "Not yet", "What was true is shown when the practice is closed.")
    return score(Belt(practice.seed, practice.fault), actions_of(practice), job, assess(job, job.fold))
