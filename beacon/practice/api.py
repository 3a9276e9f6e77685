"""Practice: a job against a stand-in, its live readings, and at the end what was true beside what was done."""

import asyncio
import random
from collections.abc import AsyncIterator
from typing import Annotated, Any
from uuid import UUID

from asgiref.sync import sync_to_async
from django.db import connection, transaction
from django.http import Http404, HttpRequest, StreamingHttpResponse
from django.utils import timezone
from ninja import Query, Router
from pydantic import BaseModel, Field

from beacon.bench import schemas
from beacon.bench.keeping import job_of
from beacon.bench.models import Job
from beacon.bench.opening import open_job
from beacon.bench.standing import moment_of, standing_of
from beacon.bench.view import job_view
from beacon.observed import STREAMS
from beacon.people.access import organisation, person
from beacon.people.models import Organisation, Person
from beacon.plant.models import Channel, LimitProfile, Reference, Site, System
from beacon.practice.models import Practice
from beacon.problems import AWAY, Problem, ProblemDocument
from wary.job.assess import Standing
from wary.machines import all_machines
from wary.rules.assessment import FIND_FAULT
from wary.simulators import STAND_INS
from wary.simulators.score import Facts, score
from wary.simulators.stand_in import KEY, SKIP, TICKET, Action, Control, Followed, Live, StandIn, Ticket

router = Router(tags=["practice"])
EVERY = 0.4
SECONDS_OPEN = 600
LONGEST_SKIP = 3600.0


class ActIn(BaseModel):
    """Something done to the stand-in now; `skip` jumps so many seconds."""

    what: str = Field(max_length=40)
    figure: float = Field(0.0, ge=-1e6, le=1e6, allow_inf_nan=False)


class StandInView(BaseModel):
    """What a stand-in tells of itself: its controls."""

    controls: list[Control]


class TruthView(BaseModel):
    """What was true of the stand-in, and how what was done stands beside it."""

    fault: str
    text: str
    right_factor: float | None
    may_adjust: bool
    verdict: str
    lines: list[str]
    good: bool


def practice_channel(of: Organisation, kind: str) -> Channel:
    """The organisation's practice machine of a kind, made when it is first wanted."""
    found = Channel.objects.filter(system__site__organisation=of, system__practice=True, system__kind=kind).first()
    if found is None:
        site = Site.objects.filter(organisation=of).order_by("place").first()
        if site is None:
            raise Http404
        machine = all_machines()[kind]
        known = STAND_INS[machine.stand_in].on_record()
        scale, _ = Reference.objects.get_or_create(
            organisation=of,
            name=known.reference,
            defaults={"division": known.reference_division, "range": known.reference_range},
        )
        system = System.objects.create(
            site=site,
            kind=kind,
            name=known.name,
            material=known.material,
            practice=True,
            reference=scale,
            profile=LimitProfile.objects.get(organisation=of, key=machine.profile),
            factor_decimals=known.factor_decimals,
            nominal_factor=known.factor.rstrip("0"),
            plates=known.plates,
        )
        found = Channel.objects.create(system=system, name=known.channel, factor=known.factor, zero=known.zero)
    return Channel.objects.select_related("system__site__organisation", "system__profile", "system__reference").get(
        pk=found.pk
    )


@router.post("practice", response={201: schemas.JobView})
@transaction.atomic
def begin(
    request: HttpRequest, seed: Annotated[int, Query(ge=0, le=2**31 - 1)] | None = None, fault: str = ""
) -> tuple[int, dict[str, Any]]:
    """Begins a visit on a stand-in whose hidden state is drawn at random."""
    user = person(request)
    draw = random.SystemRandom()
    machine = next(machine for machine in all_machines().values() if machine.stand_in)
    job = open_job(user, practice_channel(organisation(user), machine.key), machine.visit, "routine", practice=True).job
    in_order, out, *others = STAND_INS[machine.stand_in].faults
    drawn = draw.choice((in_order, in_order, out, out, *others))
    Practice.objects.create(
        job=job,
        seed=draw.randrange(1 << 31) if seed is None else seed,
        fault=fault if fault in STAND_INS[machine.stand_in].faults else drawn,
        started_at=timezone.now(),
    )
    return 201, job_view(user, job, moment_of(job))


def _practice(user: Person, job_id: UUID, lock: bool = False) -> Practice:
    job = job_of(user, job_id)
    found = Practice.objects.filter(job=job)
    practice = (found.select_for_update() if lock else found).first()
    if practice is None:
        raise Http404
    practice.job = job
    return practice


def clock(practice: Practice) -> float:
    """Seconds since the stand-in began, with what was skipped."""
    return (timezone.now() - practice.started_at).total_seconds() + practice.skipped


@router.get("jobs/{job_id}/stand-in", response=StandInView)
def stand_in(request: HttpRequest, job_id: UUID) -> dict[str, Any]:
    """What can be done to the stand-in of a practice job."""
    return {"controls": _practice(person(request), job_id).machine.controls}


@router.post("jobs/{job_id}/stand-in", response={200: Live, 422: ProblemDocument})
@transaction.atomic
def act(request: HttpRequest, job_id: UUID, given: ActIn) -> Live:
    """Does something to the stand-in, or skips some time."""
    practice = _practice(person(request), job_id, lock=True)
    known = practice.machine.actions() | {SKIP}
    if given.what not in known:
        text = f"expected one of {', '.join(sorted(known))}"
        raise Problem(422, "Nothing that can be done to it", errors=[{"path": "what", "text": text}])
    if given.what == SKIP:
        practice.skipped += max(0.0, min(given.figure, LONGEST_SKIP))
    else:
        practice.actions = [*practice.actions, Action(round(clock(practice), 2), given.what, given.figure).as_json()]
    practice.save(update_fields=["actions", "skipped"])
    return practice.machine.followed(practice.done).live(clock(practice))


@router.post("jobs/{job_id}/stand-in/ticket", response=Ticket)
@transaction.atomic
def ticket(request: HttpRequest, job_id: UUID) -> Ticket:
    """What the outside scale prints for what was delivered since the last ticket."""
    practice = _practice(person(request), job_id, lock=True)
    now = clock(practice)
    since = max((action.at for action in practice.done if action.what == TICKET), default=0.0)
    printed = practice.machine.ticket(practice.done, since, now)
    practice.actions = [*practice.actions, Action(round(now, 2), TICKET).as_json()]
    practice.save(update_fields=["actions"])
    return printed


@router.get("jobs/{job_id}/live", response={200: str})
async def live(request: HttpRequest, job_id: UUID) -> StreamingHttpResponse:
    """The stand-in's readings as server-sent events, until the reader goes away or ten minutes are over."""

    def found() -> tuple[Practice, StandIn]:
        try:
            practice = _practice(person(request), job_id)
            return practice, practice.machine
        finally:
            given_back()

    practice, machine = await sync_to_async(found)()
    response = StreamingHttpResponse(_events(practice, machine), content_type="text/event-stream")
    response.headers["Cache-Control"] = "no-store"
    response.headers["X-Accel-Buffering"] = "no"
    # Said to be encoded already, so that the stream is not held back to be compressed.
    response.headers["Content-Encoding"] = "identity"
    return response


def _known(job_id: UUID) -> tuple[list[Any], float] | None:
    """What was done to a stand-in and how much time was skipped; the connection is given back before anything waits."""
    try:
        return Practice.objects.values_list("actions", "skipped").get(pk=job_id)
    except Practice.DoesNotExist:
        return None
    finally:
        given_back()


def given_back() -> None:
    """Gives this thread's connection back, unless something is still under way on it."""
    if not connection.in_atomic_block:
        connection.close()


async def _events(practice: Practice, machine: StandIn) -> AsyncIterator[bytes]:
    """Readings until the reader goes away; between two of them the stream holds no thread and no connection."""
    known: list[Any] | None = None
    following: Followed | None = None
    STREAMS.inc()
    try:
        yield b"retry: 500\n\n"
        for _ in range(int(SECONDS_OPEN / EVERY)):
            try:
                found = await sync_to_async(_known, thread_sensitive=False)(practice.pk)
            except AWAY:
                await asyncio.sleep(EVERY)
                continue
            if found is None:
                return
            practice.actions, practice.skipped = found
            if following is None or practice.actions != known:
                known = practice.actions
                following = machine.followed(practice.done)
            # Catching up after a jump takes a while: not on the loop that serves everyone else.
            reading = await sync_to_async(following.live, thread_sensitive=False)(clock(practice))
            yield f"data: {reading.model_dump_json()}\n\n".encode()
            await asyncio.sleep(EVERY)
    finally:
        STREAMS.dec()


@router.get("jobs/{job_id}/truth", response={200: TruthView, 409: ProblemDocument})
def truth(request: HttpRequest, job_id: UUID) -> dict[str, Any]:
    """What was true of the stand-in, once the practice is closed."""
    practice = _practice(person(request), job_id)
    if practice.job.is_open:
        raise Problem(409, "Not yet", "What was true is shown when the practice is closed.")
    true = practice.machine.truth()
    scored = score(true, _facts(practice, practice.job, standing_of(practice.job)))
    keys = ("fault", "text", "right_factor", "may_adjust")
    return {key: getattr(true, key) for key in keys} | vars(scored)


def _facts(practice: Practice, job: Job, standing: Standing) -> Facts:
    """What was done in a practice job, for its score."""
    outcome = (job.closing or {}).get("outcome", "")
    stopped = outcome in ("out-of-service", "left-for-repair", "abandoned")
    parts = standing.parts.values()
    return Facts(
        keyed=tuple(action.figure for action in practice.done if action.what == KEY),
        read_back=any(part.marks.read_back for part in parts),
        done=frozenset(action.what for action in practice.done),
        stopped=stopped or standing.decides.assessment.call == FIND_FAULT,
        runs=len(getattr(standing.main.given, "runs", None) or []),
        zero_checked=any(part.begun and "zero_done" in part.method.hands for part in parts),
    )
