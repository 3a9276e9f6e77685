"""How people fare at practice: the page of a learner, sets of scenarios, and what a lead sees."""

import random
from typing import Any
from uuid import UUID

from django.db import transaction
from django.http import Http404, HttpRequest
from ninja import Router

from beacon.people.access import WORKING, is_lead, nobodys_program, organisation, person
from beacon.people.models import Organisation, Person, Role
from beacon.practice import schemas
from beacon.practice.models import Practice, Scenario, ScenarioSet
from beacon.practice.scoring import Answer, kept_score, practices, progress
from beacon.problems import Problem, ProblemDocument
from wary.machines import all_machines
from wary.practising import SEEDS, drawn, kinds
from wary.simulators import stand_in_of
from wary.simulators.stand_in import LEVELS

router = Router(tags=["practice"])
LATEST = 20
MOST_COUNTED = 1000


def _row(practice: Practice) -> Answer:
    job = practice.job
    kept = {} if job.is_open else kept_score(practice)
    return {
        "job": job.id,
        "kind": job.channel.system.machine.title,
        "level": practice.level,
        "began": practice.started_at,
        "open": job.is_open,
        "abandoned": job.state == job.State.ABANDONED,
        "good": kept.get("good"),
        "verdict": kept.get("verdict", ""),
    }


def _mine(of: Organisation, who: Person) -> list[Practice]:
    return list(practices(of, who)[:MOST_COUNTED])


@router.get("practice/page", response=schemas.PracticeView)
def page(request: HttpRequest) -> Answer:
    """What can be practised, what was given to this person, and their latest."""
    user = person(request)
    of = organisation(user)
    mine = _mine(of, user)
    counted = {row["key"]: row for row in progress(one for one in mine if not one.job.is_open)["kinds"]}
    listed = []
    for key in kinds():
        machine = stand_in_of(all_machines()[key])
        levels = [hidden.level for hidden in machine.faults.values()]
        count = counted.get(key, {"right": 0, "of": 0})
        listed.append(
            {
                "key": key,
                "title": all_machines()[key].title,
                "states": {level: levels.count(level) for level in LEVELS},
                "minutes": machine.minutes,
                "right": count["right"],
                "of": count["of"],
            }
        )
    return {
        "kinds": listed,
        "given": [_given(one, mine) for one in _sets(of).filter(people=user)],
        "mine": [_row(one) for one in mine[:LATEST]],
        "may_lead": is_lead(user, of),
    }


def _sets(of: Organisation) -> Any:
    found = ScenarioSet.objects.filter(organisation=of, taken_back=False).select_related("given_by")
    return found.prefetch_related("scenarios", "people")


def _latest(scenario: Scenario, found: list[Practice]) -> Practice | None:
    """Somebody's practice on a scenario: the first that they closed, since the same seed again is no surprise; or the open one."""
    of = [one for one in found if one.scenario_id == scenario.id]
    done = [one for one in of if not one.job.is_open]
    return done[-1] if done else (of[0] if of else None)


def _given(one: ScenarioSet, mine: list[Practice]) -> Answer:
    rows = []
    for scenario in one.scenarios.all():
        practice = _latest(scenario, mine)
        title = all_machines()[scenario.kind].title
        rows.append({"id": scenario.id, "kind": title, "level": scenario.level, "practice": _row(practice) if practice else None})  # fmt: skip
    return {"id": one.id, "name": one.name, "given_by": str(one.given_by), "until": one.until, "scenarios": rows}


@router.get("practice/progress", response=schemas.ProgressView)
def progress_of(request: HttpRequest, username: str = "") -> Answer:
    """What somebody is good at and what they miss; of others only a lead may ask."""
    user = person(request)
    who = user
    if username and username != user.username:
        of = organisation(user, Role.LEAD)
        found = Person.objects.filter(nobodys_program(), username=username[:150], memberships__organisation=of).first()
        if found is None:
            raise Http404
        who = found
    else:
        of = organisation(user)
    mine = _mine(of, who)
    latest = [_row(one) for one in mine[:LATEST]]
    return progress(one for one in mine if not one.job.is_open) | {"name": str(who), "latest": latest}


@router.get("practice/instructor", response=schemas.InstructorView)
def instructor(request: HttpRequest) -> Answer:
    """How the people of the organisation fare, and the sets that were given; only for leads."""
    of = organisation(person(request), Role.LEAD)
    found = list(practices(of).select_related("job__opened_by")[: 5 * MOST_COUNTED])
    people = Person.objects.filter(
        nobodys_program(), memberships__organisation=of, memberships__role__in=WORKING
    ).order_by("name")
    by_person: dict[int, list[Practice]] = {}
    for practice in found:
        by_person.setdefault(practice.job.opened_by_id, []).append(practice)
    rows = []
    for one in people:
        count = progress(practice for practice in by_person.get(one.pk, []) if not practice.job.is_open)
        keys = ("practices", "right", "missed", "overlooked")
        rows.append({"username": one.username, "name": str(one)} | {key: count[key] for key in keys})
    return {"people": rows, "sets": [_set_view(one, by_person) for one in _sets(of)]}


def _set_view(one: ScenarioSet, by_person: dict[int, list[Practice]]) -> Answer:
    scenarios = list(one.scenarios.all())
    people = []
    for who in sorted(one.people.all(), key=str):
        found = [_latest(scenario, by_person.get(who.pk, [])) for scenario in scenarios]
        done = [practice for practice in found if practice and not practice.job.is_open]
        people.append(
            {
                "username": who.username,
                "name": str(who),
                "done": len(done),
                "right": sum(bool(kept_score(practice).get("good")) for practice in done),
                "rows": [_row(practice) if practice else None for practice in found],
            }
        )
    titles = [f"{all_machines()[scenario.kind].title}, {scenario.level}" for scenario in scenarios]
    keys = ("id", "name", "given_at", "until")
    return {key: getattr(one, key) for key in keys} | {"given_by": str(one.given_by), "scenarios": titles, "people": people}  # fmt: skip


@router.post("practice/sets", response={201: schemas.SetView, 422: ProblemDocument})
@transaction.atomic
def give(request: HttpRequest, given: schemas.SetIn) -> tuple[int, Answer]:
    """Gives a set of scenarios to people; what is hidden is drawn now, and is the same for all of them. Only a lead may."""
    user = person(request)
    of = organisation(user, Role.LEAD)
    names = {name.strip().lower() for name in given.people}
    people = list(
        Person.objects.filter(
            nobodys_program(), username__in=names, memberships__organisation=of, memberships__role__in=WORKING
        ).distinct()
    )
    wrong = []
    if not given.name.strip():
        wrong.append({"path": "name", "text": "What is the set called? Type a name."})
    if not names or len(people) < len(names):
        unknown = sorted(names - {one.username for one in people})
        text = f"{', '.join(unknown)} does not work here." if unknown else "Choose who is to do it."
        wrong.append({"path": "people", "text": text})
    if not given.scenarios:
        wrong.append({"path": "scenarios", "text": "Choose at least one machine."})
    for place, scenario in enumerate(given.scenarios):
        if scenario.kind not in kinds():
            wrong.append({"path": f"scenarios[{place}].kind", "text": f"expected one of {', '.join(kinds())}"})
    if wrong:
        raise Problem(422, "This set cannot be given yet", "Nothing was changed.", wrong)
    draw = random.SystemRandom()
    one = ScenarioSet.objects.create(organisation=of, name=given.name.strip(), given_by=user, until=given.until)
    one.people.set(people)
    for place, scenario in enumerate(given.scenarios):
        fault = drawn(scenario.kind, scenario.level, draw)
        Scenario.objects.create(of=one, place=place, kind=scenario.kind, level=scenario.level, seed=draw.randrange(SEEDS), fault=fault)  # fmt: skip
    return 201, _set_view(one, {})


@router.delete("practice/sets/{set_id}", response={204: None})
def take_back(request: HttpRequest, set_id: UUID) -> tuple[int, None]:
    """Takes a set back: nobody begins it any more; what was practised stays. Only a lead may."""
    of = organisation(person(request), Role.LEAD)
    if not ScenarioSet.objects.filter(id=set_id, organisation=of).update(taken_back=True):
        raise Http404
    return 204, None
