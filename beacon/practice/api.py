"""Practice: jobs against stand-ins, their live readings, and at the end what was true beside what was done."""

import random
from typing import Annotated, Any
from uuid import UUID

from asgiref.sync import sync_to_async
from django.db import transaction
from django.http import Http404, HttpRequest, StreamingHttpResponse
from django.utils import timezone
from ninja import Query, Router

from beacon.bench.keeping import job_of
from beacon.bench.models import Job
from beacon.bench.opening import open_job
from beacon.bench.revisions import revision_of
from beacon.bench.schemas import VISIT, JobView
from beacon.bench.view import job_view, opening_at_hand
from beacon.links.streams import given_back, streamed
from beacon.people.access import organisation, person
from beacon.people.models import Person
from beacon.people.still import Listener, listener
from beacon.practice import schemas
from beacon.practice.machines import practice_channel
from beacon.practice.models import Practice, Scenario
from beacon.practice.scoring import Answer, score_of, story_of, would_have_told
from beacon.practice.streams import clock, readings
from beacon.problems import Problem, ProblemDocument
from wary.job.evidence import looks_of
from wary.live import Live
from wary.machines import all_machines
from wary.practising import LONGEST_SKIP, MOST_ACTIONS, SEEDS, Practising, drawn, kinds, told_of
from wary.simulators import stand_in_of
from wary.simulators.score import TITLES
from wary.simulators.stand_in import INSPECT, SKIP, TICKET, Action, StandIn, Ticket, not_before, written

router = Router(tags=["practice"])


@router.post("practice", response={201: JobView, 422: ProblemDocument})
@transaction.atomic
def begin(
    request: HttpRequest,
    kind: Annotated[str, Query(max_length=30)] = "",
    level: schemas.LevelAsked = "",
    seed: Annotated[int, Query(ge=0, le=SEEDS - 1)] | None = None,
    fault: Annotated[str, Query(max_length=20)] = "",
    again: UUID | None = None,
    scenario: UUID | None = None,
) -> tuple[int, dict[str, Any]]:
    """Begins a visit on a stand-in whose hidden state is drawn at random; `again` takes that of an earlier practice,
    `scenario` that of a set that was given to this person."""
    user = person(request)
    of = organisation(user)
    draw = random.SystemRandom()
    given: Scenario | None = None
    hard: str = level
    if again is not None:
        earlier = _practice(user, again)
        if earlier.job.is_open:
            raise Problem(409, "It is still open", "Close it first; then it can be begun again with the same seed.")
        kind, seed, fault = earlier.job.channel.system.kind, earlier.seed, earlier.fault
        given, hard = earlier.scenario, earlier.level
    elif scenario is not None:
        given = Scenario.objects.filter(id=scenario, of__people=user, of__organisation=of, of__taken_back=False).first()
        if given is None:
            raise Http404
        kind, seed, fault, hard = given.kind, given.seed, given.fault, given.level
    kind = kind or draw.choice(kinds())
    if kind not in kinds():
        text = f"expected one of {', '.join(kinds())}"
        raise Problem(422, "Nothing to practise on", errors=[{"path": "kind", "text": text}])
    machine = all_machines()[kind]
    known = stand_in_of(machine).faults
    if fault not in known:
        fault = drawn(kind, level, draw)
    job = open_job(user, practice_channel(of, kind), machine.visit, "routine", practice=True).job
    seed = draw.randrange(SEEDS) if seed is None else seed
    Practice.objects.create(job=job, seed=seed, fault=fault, level=hard or known[fault].level, scenario=given, started_at=timezone.now())  # fmt: skip
    return 201, job_view(user, job, revision_of(job))


@router.post("practice/at-hand", response=schemas.PracticeAtHand)
@transaction.atomic
def along(request: HttpRequest, kind: Annotated[str, Query(max_length=30)]) -> dict[str, Any]:
    """What a device takes along to practise on a kind of machine without signal; the organisation's machine is made where it is not."""
    user = person(request)
    of = organisation(user)
    if kind not in kinds():
        raise Http404
    channel = practice_channel(of, kind)
    return {"kind": kind, "opening": opening_at_hand(user, channel.system, channel, VISIT, practice=True)}


@router.post("practice/brought", response={201: JobView, 409: ProblemDocument, 422: ProblemDocument})
@transaction.atomic
def brought(request: HttpRequest, given: schemas.PracticeBrought) -> tuple[int, dict[str, Any]]:
    """Takes in a practice that was begun on a device without signal: its hidden state, and what was done to it so far.

    Sent again it brings what was done since, for as long as the practice is open.
    """
    user = person(request)
    of = organisation(user)
    try:
        known = Practising.of_document(given.practice.model_dump())
    except ValueError as wrong:
        raise Problem(422, "Nothing to practise on", errors=[{"path": "practice", "text": str(wrong)}]) from None
    there = Practice.objects.select_for_update(of=("self",), no_key=True).filter(job_id=given.id).first()
    if there is None:
        if Job.objects.filter(id=given.id).exists():
            raise Problem(409, "This job's id was used before for something else", "Begin it anew.")
        at = min(given.at, timezone.now())
        machine = all_machines()[known.kind]
        open_job(user, practice_channel(of, known.kind), machine.visit, "routine", at, practice=True, id=given.id)
        there = Practice(job_id=given.id, seed=known.seed, fault=known.fault, level=known.level, started_at=at)
    job = job_of(user, given.id)
    if job.opened_by_id != user.pk or (there.seed, there.fault) != (known.seed, known.fault) or not job.is_open:
        raise Problem(409, "This practice is another, or closed", "Begin it anew.")
    if len(known.actions) >= len(there.actions):
        there.actions = [one.as_json() for one in known.actions]
        there.skipped, there.turn = known.skipped, there.turn + 1
        there.save()
    return 201, job_view(user, job, revision_of(job))


def _practice(user: Person, job_id: UUID, lock: bool = False) -> Practice:
    job = job_of(user, job_id, lock=lock)
    found = Practice.objects.filter(job=job)
    practice = (found.select_for_update() if lock else found).first()
    if practice is None:
        raise Http404
    practice.job = job
    return practice


@router.get("jobs/{job_id}/stand-in", response=schemas.StandInView)
def stand_in(request: HttpRequest, job_id: UUID) -> Answer:
    """What can be done to the stand-in of a practice job, and where it can be weighed."""
    practice = _practice(person(request), job_id)
    return told_of(practice.job.channel.system.kind, practice.machine, practice.level)


@router.post("jobs/{job_id}/stand-in", response={200: Live, 409: ProblemDocument, 422: ProblemDocument})
@transaction.atomic
def act(request: HttpRequest, job_id: UUID, given: schemas.ActIn) -> Live:
    """Does something to the stand-in, or skips some time."""
    practice = _practice(person(request), job_id, lock=True)
    machine = practice.machine
    known = machine.actions() | {SKIP}
    if given.what not in known:
        text = f"expected one of {', '.join(sorted(known))}"
        raise Problem(422, "Nothing that can be done to it", errors=[{"path": "what", "text": text}])
    figure = max(0.0, min(given.figure, LONGEST_SKIP)) if given.what == SKIP else given.figure
    _did(practice, given.what, figure)
    shown = machine.followed(practice.done).live(_now(practice))
    return shown.model_copy(update={"turn": practice.turn})


def _now(practice: Practice) -> float:
    """The stand-in's own time now, s."""
    return not_before(practice.done, clock(practice.started_at, practice.skipped))


def _did(practice: Practice, what: str, figure: float) -> float:
    """Notes an act with its time on the stand-in's clock, and gives that time. Raises Problem where it may not be done."""
    if not practice.job.is_open:
        raise Problem(409, "This practice is closed", "Begin it again with the same seed, or another one.")
    if len(practice.actions) >= MOST_ACTIONS:
        raise Problem(
            409, "That is enough", f"A practice takes at most {MOST_ACTIONS} acts. Close it, and begin another."
        )
    now = _now(practice)
    practice.actions = [*practice.actions, Action(written(now), what, figure).as_json()]
    if what == SKIP:
        practice.skipped += figure
    practice.turn += 1
    practice.save(update_fields=["actions", "skipped", "turn"])
    return now


@router.post("jobs/{job_id}/stand-in/ticket", response={200: Ticket, 409: ProblemDocument, 422: ProblemDocument})
@transaction.atomic
def ticket(request: HttpRequest, job_id: UUID, scale: Annotated[str, Query(max_length=30)] = "") -> Ticket:
    """What an outside scale prints now; without a name it is the first that stands there."""
    practice = _practice(person(request), job_id, lock=True)
    machine = practice.machine
    names = [one.name for one in machine.scales]
    if not names or (scale and scale not in names):
        text = f"expected one of {', '.join(names)}" if names else "there is no outside scale here"
        raise Problem(422, "Nothing to weigh on", errors=[{"path": "scale", "text": text}])
    place = names.index(scale) if scale else 0
    now = _did(practice, TICKET, place)
    return machine.ticket(practice.done[:-1], now, machine.scales[place])


@router.post(
    "jobs/{job_id}/stand-in/look", response={200: schemas.SeenView, 409: ProblemDocument, 422: ProblemDocument}
)
@transaction.atomic
def look(request: HttpRequest, job_id: UUID, at: Annotated[str, Query(max_length=30)] = "") -> Answer:
    """What an eye, a hand or a level finds at a look; it takes its minutes on the stand-in's clock."""
    practice = _practice(person(request), job_id, lock=True)
    known = looks_of(practice.job.channel.system.machine)
    if at not in known:
        text = f"expected one of {', '.join(sorted(known))}"
        raise Problem(422, "Nothing that can be looked at here", errors=[{"path": "at", "text": text}])
    asked = known[at][0]
    found = practice.machine.inspect(practice.done, asked)
    _did(practice, f"{INSPECT}{at}", 0.0)
    _did(practice, SKIP, asked.minutes * 60)
    return vars(found)


@router.get("jobs/{job_id}/live", response={200: str})
async def live(request: HttpRequest, job_id: UUID) -> StreamingHttpResponse:
    """The stand-in's readings as server-sent events, until the reader goes away or ten minutes are over."""

    def found() -> tuple[Practice, StandIn, Listener]:
        try:
            practice = _practice(person(request), job_id)
            of = practice.job.channel.system.site.organisation_id
            return practice, practice.machine, listener(request, of)
        finally:
            given_back()

    return streamed(readings(*await sync_to_async(found)()))


@router.get("jobs/{job_id}/truth", response={200: schemas.TruthView, 409: ProblemDocument})
def truth(request: HttpRequest, job_id: UUID) -> Answer:
    """What was true of the stand-in, once the practice is closed, beside what was done step by step."""
    practice = _practice(person(request), job_id)
    if practice.job.is_open:
        raise Problem(409, "Not yet", "What was true is shown when the practice is closed.")
    true = practice.machine.truth(practice.done)
    found, whole = score_of(practice), story_of(practice)
    system = practice.job.channel.system
    keys = ("fault", "text", "sign", "right", "right_figure")
    return {key: getattr(true, key) for key in keys} | {
        "job": practice.job_id,
        "system": system.name,
        "kind": system.machine.title,
        "seed": practice.seed,
        "level": practice.level,
        "verdict": found.verdict,
        "good": found.good,
        "would_have_told": would_have_told(practice),
        "judged": [vars(one) | {"title": TITLES[one.decision]} for one in found.judged],
        "rows": whole.rows,
        "known": whole.known,
    }
