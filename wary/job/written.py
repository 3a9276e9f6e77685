"""A job written in the open format: its main part's file, with the other parts that were begun beside it."""

from typing import Any

from wary import WRITTEN_BY
from wary.job.assess import Snapshot, case_of
from wary.job.places import MAIN
from wary.job.subject import Subject
from wary.job.visit import Assessed
from wary.results import JSON
from wary.suspects.suspect import FINE


def written(snapshot: Snapshot) -> dict[str, Any]:
    """The job file of a job as it stands, without its trail.

    `visit` lists the parts that were begun in the order of the visit, each with its own file,
    assessment, and the factor in force when it began; in the main part's place stands only that the
    file itself comes there.
    """
    content: dict[str, Any] = dict(snapshot.main.built.file)
    content["machine"] = snapshot.subject.machine.key
    content |= _looks(snapshot)
    history = _history(snapshot.subject)
    if history:
        content["history"] = history
    content["assessment"] = snapshot.main.assessment.as_json() | {"machine": snapshot.machine.as_json()}
    content["written_by"] = WRITTEN_BY
    if len(snapshot.parts) > 1:
        content["visit"] = [_part(snapshot, part) for part in snapshot.parts.values() if part.begun]
    return content


def _history(subject: Subject) -> dict[str, JSON]:
    """What was known of the machine before the visit, as far as it weighs: so that anybody comes to the same
    chances."""
    plain: dict[str, JSON] = dict(subject.past.as_json())
    if subject.found:
        plain["found"] = dict(subject.found)
    if subject.drifts:
        plain["drifts"] = True
    return plain


def _looks(snapshot: Snapshot) -> dict[str, Any]:
    """What was looked at and has no input: ticked in a list, or by itself; what was not, and why; what was put right."""
    case = case_of(snapshot)
    looked = {
        one.look: {"look": one.look, "result": one.result}
        | ({"note": one.note} if one.note else {})
        | ({"ticked": True} if one.ticked else {})
        for one in case.looked
    }
    for part in case.parts:
        for step in part.method.steps:
            for item in step.items:
                if f"{step.key}.{item.key}" in part.ticks:
                    for look in item.looks:
                        looked.setdefault(look, {"look": look, "result": FINE, "ticked": True})
    known = {tell.look.key for one in snapshot.subject.machine.all_suspects() for tell in one.tells}
    found = {
        "looked": [one for look, one in looked.items() if look in known],
        "skipped_looks": [{"look": look, "reason": reason} for look, reason in case.skipped.items() if look in known],
        "cured": [{"suspect": one} for one in sorted(case.cured)],
    }
    return {name: rows for name, rows in found.items() if rows}


def _part(snapshot: Snapshot, part: Assessed) -> dict[str, Any]:
    spec = next(one for one in snapshot.visit if one.key == part.key)
    head: dict[str, Any] = {"part": part.key, "method": part.method.key}
    if spec.title:
        head["title"] = spec.title
    if spec.before:
        head["before"] = spec.before
    if part.factor_in_force is not None:
        head["factor_in_force"] = part.factor_in_force
    if part.key == MAIN:
        return head
    return head | part.built.file | {"assessment": part.assessment.as_json()}
