"""What is known of a machine in a visit, and what speaks for and against its suspects: evidence from all of its parts."""

import math
from collections.abc import Iterable, Iterator, Mapping, Sequence, Set
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Any

from pydantic import BaseModel

from wary.fields import Inputs
from wary.job.places import CURED, LOOK_NOTED, LOOKED, SKIPPED
from wary.machines import all_machines
from wary.machines.machine import Machine, Part
from wary.methods import all_methods
from wary.methods.method import AnyMethod
from wary.methods.reads import in_words
from wary.quantities import Quantity, shown
from wary.results import Results, value_of
from wary.rules.assessment import ADJUST, FIND_FAULT, LEAVE, Assessment
from wary.rules.drift import Moved, came_at_once
from wary.rules.slips import Slip
from wary.suspects import looks
from wary.suspects.suspect import EXPLAINED, FINE, NO_PAST, NOT_FINE, Finding, Look, Past, Sign
from wary.suspects.weighing import HISTORY, decides

SINCE_AN_EVENT = 4.0
"""By so much a suspect counts for more, where the event that it is logged as has happened since the machine was last right."""
FAR = 0.08
"""A cell that fails, or a wrong number of cells, makes more than this."""
OF_COUNT = frozenset({"cell_count"})
OF_PLATES = frozenset({"cell_capacity", "cell_sensitivity", "idler_spacing", "weigh_idlers", "angle", "speed", "belt_speed", "pulses_per_revolution", "roller", "width", "row_spacing", "passes_per_load"})  # fmt: skip


@dataclass(frozen=True)
class PartSeen:
    """A part of a visit as the machine is judged by it. `own`: the usual visit makes it anyway. `ticks` are `step.item`."""

    key: str
    method: AnyMethod
    given: Inputs
    assessment: Assessment[Results]
    own: bool = True
    ticks: frozenset[str] = frozenset()
    changed: bool = False


@dataclass(frozen=True)
class Looked:
    """A look that has no input of its own: what it came to, and what was noted; `ticked`: in a list, among others."""

    look: str
    result: str
    note: str = ""
    ticked: bool = False


@dataclass(frozen=True)
class Beside:
    """Another machine that was compared with the same reference within a week: what it came to, per cent, and what its uncertainty was."""

    name: str
    error: float
    uncertainty: float


@dataclass(frozen=True)
class Case:
    """All that is known of a machine in a visit.

    `visit` are all parts that this job has, `parts` those that were begun. `decides` is the key of the part whose call decides. `found` counts the faults found here before. `factor_before` is
    what the instrument was set to before this visit changed it. `repaired` are suspects that were found last and
    left for repair. `beside` are machines that were compared with the same reference, and whose own history does
    not explain what they came to. `again` is the part that is to be read again after a cure. `may_skip`: a look
    may be skipped with a reason; `all_looks`: all are asked for, and not only those that are worth their minutes;
    `harm_minutes` is what a figure set over a fault costs. `past` is what the visits before say; `never_set`:
    there is nothing that can have moved: it is the first calibration, or it was repaired. `drifts` and `moved` are
    what its history shows.
    """

    machine: Machine
    visit: Sequence[Part]
    parts: Sequence[PartSeen]
    decides: str
    plates: Mapping[str, Quantity | float] = field(default_factory=dict)
    looked: Sequence[Looked] = ()
    skipped: Mapping[str, str] = field(default_factory=dict)
    cured: frozenset[str] = frozenset()
    references: Sequence[Mapping[str, Any]] = ()
    found: Mapping[str, float] = field(default_factory=dict)
    factor_before: str = ""
    look_minutes: float = 10.0
    may_skip: bool = True
    all_looks: bool = False
    harm_minutes: float | None = None
    past: Past = NO_PAST
    never_set: bool = False
    drifts: bool = False
    moved: Moved | None = None
    repaired: tuple[str, ...] = ()
    again: str | None = None
    beside: Sequence[Beside] = ()


@lru_cache(maxsize=64)
def looks_of(machine: Machine) -> Mapping[str, tuple[Look, tuple[str, ...]]]:
    """Every look that tells of a machine's suspects, by its key, with those that it can show or rule out."""
    found: dict[str, tuple[Look, tuple[str, ...]]] = {}
    for one in machine.all_suspects():
        for tell in one.tells:
            look, of = found.get(tell.look.key, (tell.look, ()))
            more = (one.key,) if decides(tell) and one.key not in of else ()
            found[tell.look.key] = (look, of + more)
    return found


@lru_cache(maxsize=1)
def _lacking() -> Mapping[str, str]:
    every = [one for machine in all_machines().values() for one in machine.all_suspects() if one.part]
    return {tell.look.key: one.part for one in every for tell in one.tells if tell.sure}


def lacking_of(look: str) -> str:
    """What a machine may not have that a look looks at: “a shutter”; empty where every one has it."""
    return _lacking().get(look, "")


def can_be_looked_at(machine: Machine, path: str) -> bool:
    """Whether a place of looks and cures is one that a machine has; other places are none of these."""
    head, _, key = path.partition(".")
    if head in (LOOKED, LOOK_NOTED, SKIPPED):
        return key in looks_of(machine)
    return head != CURED or any(one.key == key for one in machine.all_suspects())


@lru_cache(maxsize=256)
def paths_of(visit: tuple[Part, ...]) -> Mapping[str, tuple[str, bool]]:
    """Where looks are entered in a visit: the first part that takes each, and whether the visit makes it anyway."""
    found: dict[str, tuple[str, bool]] = {}
    for part in visit:
        for one in all_methods()[part.method].reads:
            path = f"{part.key}/inputs.{one.at}" if part.key else f"inputs.{one.at}"
            found.setdefault(one.look.key, (path, not part.optional))
    return found


@lru_cache(maxsize=256)
def looks_in_lists(methods: tuple[str, ...]) -> frozenset[str]:
    """The looks that the lists of these methods make anyway."""
    steps = [step for key in methods for step in all_methods()[key].steps]
    return frozenset(look for step in steps for item in step.items for look in item.looks)


@lru_cache(maxsize=256)
def _ticked(method: str) -> tuple[tuple[str, str, tuple[str, ...]], ...]:
    """The items of a method that stand for looks: their tick, their text, the looks."""
    steps = all_methods()[method].steps
    return tuple((f"{s.key}.{i.key}", i.text, i.looks) for s in steps for i in s.items if i.looks)


def ticked_looks(method: str, ticks: Set[str]) -> list[str]:
    """The looks that these ticks stand for."""
    return [look for tick, _, looks_made in _ticked(method) if tick in ticks for look in looks_made] if ticks else []


def evidence(case: Case, part: PartSeen) -> Iterator[Sign]:
    """What was looked at in a visit, of which this part's readings are judged."""
    for one in case.parts:
        yield from signs_in(one)
    for tried in case.looked:
        look = looks_of(case.machine).get(tried.look)
        text = in_words(look[0], tried.result) if look else tried.result
        result = look[0].result_of(tried.result, tried.note) if look else tried.result
        if tried.look == looks.CAPTURED.key and tried.note:
            yield Sign(tried.look, result, tried.note)
        else:
            yield Sign(tried.look, result, f"{text} {tried.note}".strip(), said=True, ticked=tried.ticked)
    yield from _of_slips(part)
    yield from _of_the_reference(case)
    yield from _too_near(part)
    yield from _same_reference(case, part)


def signs_in(part: PartSeen) -> Iterator[Sign]:
    """What one part's inputs and ticks say."""
    at = f"{part.key}/" if part.key else ""
    for sign in part.method.signs(part.given, part.assessment):
        yield replace(sign, path=at + sign.path) if at else sign
    for tick, text, of in _ticked(part.method.key):
        if tick in part.ticks:
            yield from (Sign(look, FINE, f"{text}: ticked.", said=True, ticked=True) for look in of)


def _of_slips(part: PartSeen) -> Iterable[Sign]:
    """What arithmetic says of the entries: a usual slip explains the figure, or none does."""
    call = part.assessment.call
    if call not in (ADJUST, FIND_FAULT, LEAVE):
        return
    typed = False
    for slip in part.assessment.slips if call in (ADJUST, FIND_FAULT) else []:
        name = slip.parameter
        of = looks.SLIP_OF_COUNT if name in OF_COUNT else looks.SLIP_OF_PLATE if name in OF_PLATES else looks.SLIP
        typed = typed or of is looks.SLIP
        yield Sign(of.key, EXPLAINED if of is looks.SLIP and _in_the_job(slip, part) else NOT_FINE, slip.text)
    if not typed:
        yield Sign(looks.SLIP.key, FINE, "No usual slip of the typing explains it.")


OF_THE_JOB = frozenset({"tare", "container", "other_container", "test_load"})
"""Slips about something that stands in the job: a container, a load that was keyed beside the one that was meant."""
ROUNDED = 0.001
"""By so much of itself a ratio may miss what explains it, beside its uncertainty: what a display rounds away."""


def _in_the_job(slip: Slip, part: PartSeen) -> bool:
    """Whether a slip is about what stands in the job, and explains the finding within its uncertainty."""
    errors = part.method.errors(part.given, part.assessment)
    off = error_of(part)
    if off is None or off <= -100 or slip.predicted_ratio <= 0:
        return False
    spread = (errors.uncertainty_left or errors.uncertainty_found or 0.0) / 100 if errors else 0.0
    apart = abs(math.log(slip.predicted_ratio * (1 + off / 100)))
    if apart > spread + ROUNDED:
        return False
    if slip.parameter in ("gross_unit", "tare_unit", "mass_unit"):
        return slip.likely in _units_in(part.given) and slip.entered in _units_in(part.given)
    return slip.parameter in OF_THE_JOB


def _units_in(given: object) -> set[str]:
    """The units of all figures of some inputs."""
    if isinstance(given, Quantity):
        return {given.unit}
    if isinstance(given, BaseModel):
        return {unit for name in type(given).model_fields for unit in _units_in(getattr(given, name))}
    if isinstance(given, list):
        return {unit for one in given for unit in _units_in(one)}
    return set()


def _of_the_reference(case: Case) -> Iterable[Sign]:
    """A reference that is named with its certificate and in date is said to be right."""
    named = [one for one in case.references if one.get("certificate")]
    if named and len(named) == len(case.references):
        names = ", ".join(str(one.get("name") or "the reference") for one in named)
        yield Sign(looks.REFERENCE_READ.key, FINE, f"{names}: named with its certificate.", said=True, ticked=True)


def _same_reference(case: Case, part: PartSeen) -> Iterable[Sign]:
    """Machines that are off the same way by the same share against one reference speak for the reference."""
    off = error_of(part)
    if not case.beside or not off or part.assessment.call not in (ADJUST, FIND_FAULT):
        return
    errors = part.method.errors(part.given, part.assessment)
    own = (errors.uncertainty_left or errors.uncertainty_found or 0.0) if errors else 0.0
    alike = [one for one in case.beside if one.error * off > 0 and abs(one.error - off) <= own + one.uncertainty]
    if alike:
        said = ", ".join(f"{one.name} {shown(one.error, 2, sign=True)} %" for one in alike[:3])
        text = f"Against the same reference within a week: {said}; this one {shown(off, 2, sign=True)} %."
        yield Sign(looks.SAME_REFERENCE.key, NOT_FINE, text)


def _too_near(part: PartSeen) -> Iterable[Sign]:
    """So small an error is not made by a cell that fails, nor by a wrong number of cells."""
    off = error_of(part)
    if off is None or part.assessment.call not in (ADJUST, LEAVE) or abs(off) > FAR * 100:
        return
    text = f"Off by {shown(abs(off), 2)} %: a cell that fails, or a wrong number of cells, makes far more."
    yield Sign(looks.FAR.key, FINE, text)


def jump_of(case: Case, part: PartSeen) -> Sign | None:
    """What says that it came at once: it is off by far more than it ever moved between its last visits."""
    errors = part.method.errors(part.given, part.assessment)
    if case.moved is None or errors is None or errors.found is None:
        return None
    if part.assessment.call not in (ADJUST, FIND_FAULT) or not came_at_once(
        errors.found, case.moved, errors.uncertainty_found or 0.0
    ):
        return None
    moved = errors.found - case.moved.left
    text = f"It has moved by {shown(moved, 2, sign=True)} % since its last visit, and by {shown(case.moved.most, 2)} % at most between the {case.moved.visits + 1} before: it came at once."
    return Sign(HISTORY, NOT_FINE, text)


def drift_of(case: Case) -> Sign | None:
    """What says that it came slowly."""
    text = "It has moved the same way, by much the same, at each of its last visits."
    return Sign(HISTORY, NOT_FINE, text) if case.drifts else None


def error_of(part: PartSeen) -> float | None:
    """What a part's comparison came to last, in per cent; None where it compares nothing."""
    errors = part.method.errors(part.given, part.assessment)
    if errors is not None:
        return errors.left if errors.left is not None else errors.found
    change = value_of(getattr(part.assessment.results, "percent_change", None))
    return -change if change is not None else None


FIRST: tuple[Finding, ...] = ("scatter", "zero-moved", "curve")
"""What tells more than that it reads light or heavy, in the order in which it does."""
OF_RUNS: Mapping[str, Finding] = {"not-repeating": "scatter"}
"""What the reasons of the call itself amount to, whatever the method; a method's own say it in its file
(`passes_for`)."""


def finding_of(part: PartSeen) -> Finding | None:
    """What a part found, as suspects know it; None where it is off in no way that is told."""
    if part.assessment.call == LEAVE:
        return "in-order"
    known = {**OF_RUNS, **part.method.passes_for}
    found = {known[reason.code] for reason in part.assessment.reasons if reason.code in known}
    first = next((one for one in FIRST if one in found), None)
    if first:
        return first
    off = error_of(part)
    return None if not off else "heavy" if off > 0 else "light"
