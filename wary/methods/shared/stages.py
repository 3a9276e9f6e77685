"""One list of runs, as found or as left, read into evidence; what it lacks becomes reasons."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from wary.fields import (
    AboveZero,
    Flag,
    Percentage,
    Plates,
    PositiveMass,
    Readings,
    Run,
    at_most,
    field,
    plate,
)
from wary.methods.factor import LeftFactorInputs
from wary.methods.method import Reference, Setting
from wary.methods.shared.containers import KnownContainer
from wary.quantities import Quantity, mass_shown
from wary.rules.assessment import Reason, missing
from wary.rules.evidence import Evidence, Pair, reading_uncertainty


class ComparisonInputs(LeftFactorInputs):
    """The inputs that all comparison methods take."""

    nominal_factor: AboveZero | None = plate("Factor it should be near")
    runs: list[Run] | None = field("Runs")
    as_left: list[Run] | None = field("Runs after the adjustment")
    reference_division: PositiveMass | None = plate("Division of the reference scale")
    reference_readings: Readings | None = plate("Readings behind one reference", "2 where it is gross less tare")
    reference_uncertainty: Percentage | None = plate("Uncertainty of the reference", "expanded, from its certificate")
    indicated_division: PositiveMass | None = plate("Division of the display")
    plates: Plates | None = field("Plates")
    containers: list[KnownContainer] | None = field("Containers known here")
    plates_confirmed: Flag | None = field(
        "Plates looked at again", "on a first calibration, where a plate would explain it"
    )

    @property
    def after_change(self) -> bool:
        return bool(self.as_left)


@dataclass(frozen=True)
class Stage:
    """One list of runs (as found, or as left) with the factor that was in force while they ran."""

    name: str
    runs: Sequence[Run]
    evidence: Evidence
    absent: list[Reason]
    factor: float | None
    unit: str

    @property
    def aside(self) -> int:
        return sum(run.set_aside is not None for run in self.runs)


def read_stage(name: str, given: ComparisonInputs, setting: Setting, factor: float | None) -> Stage:
    """The runs of one list as evidence; what is missing or holds no load becomes a reason."""
    runs = (given.runs if name == "runs" else given.as_left) or []
    absent: list[Reason] = []
    pairs: list[Pair] = []
    ranges = [reference for reference in setting.references if reference.range]
    shows = shown_by(given)
    for place, run in enumerate(runs):
        if run.set_aside is not None:
            continue
        lacking = [] if run.is_complete else lacking_in(run, f"inputs.{name}[{place}]", place)
        pair = pair_of(run, place, shows) if run.is_complete else None
        if pair and pair.reference <= 0:
            lacking.append(_no_load(run, pair.reference, f"inputs.{name}[{place}]", place))
        elif pair:
            pairs.append(pair)
        absent += lacking
        if ranges:
            absent += _beyond_range(run, ranges, f"inputs.{name}[{place}]", place)
    own = given.reference_uncertainty.si / 2 if given.reference_uncertainty else 0.0
    return Stage(name, runs, Evidence(pairs, own), absent, factor, _unit(runs))


def _unit(runs: Sequence[Run]) -> str:
    for run in runs:
        mass = run.reference or run.gross or shown_first(run)
        if mass:
            return mass.unit
    return "kg"


def shown_first(run: Run) -> Quantity | None:
    """What a run indicated was first read as, for its unit; None where nothing was."""
    shown = run.readings_shown()
    return shown[0] if shown else run.total_end


def lacking_in(run: Run, path: str, place: int) -> list[Reason]:
    """What a run still lacks, each with its path."""
    lacking = []
    if run.reference is None:
        if run.gross is None:
            wanted = "gross" if run.tare is not None or run.zeroed else "reference"
            text = f"Run {place + 1}: weigh it on the reference, and type what it weighed."
            lacking.append(missing(f"{path}.{wanted}", text))
        elif run.tare is None and not run.zeroed:
            text = f"Run {place + 1}: type the tare, or that the scale was zeroed with the container on it."
            lacking.append(missing(f"{path}.tare", text))
    if not run.readings_shown():
        if run.total_start is None and run.total_end is None:
            lacking.append(missing(f"{path}.indicated", f"Run {place + 1}: type what it showed."))
        elif run.total_start is None:
            lacking.append(missing(f"{path}.total_start", f"Run {place + 1}: type the total at the start."))
        elif run.total_end is None:
            lacking.append(missing(f"{path}.total_end", f"Run {place + 1}: type the total at the end."))
    return lacking


def _no_load(run: Run, net: float, path: str, place: int) -> Reason:
    if run.gross and run.tare:
        text = (
            f"Run {place + 1}: {run.gross.text} less {run.tare.text} leaves {mass_shown(net, run.gross.unit)}, "
            "and a net must be above zero. Look whether gross and tare changed places."
        )
        return Reason("no-load", text, {"path": f"{path}.tare"})
    given = run.reference or run.gross
    text = f"Run {place + 1}: a reference of {given.text if given else net} is no load; it must be above zero."
    return Reason("no-load", text, {"path": f"{path}.{'reference' if run.reference else 'gross'}"})


def _beyond_range(run: Run, ranges: Sequence[Reference], path: str, place: int) -> list[Reason]:
    on_scale = run.gross or run.reference
    if not on_scale or any(at_most(on_scale.si, reference.range or 0) for reference in ranges):
        return []
    widest = max(ranges, key=lambda reference: reference.range or 0)
    text = (
        f"Run {place + 1}: {on_scale.text} is beyond the range of {widest.name}, "
        f"{mass_shown(widest.range or 0, on_scale.unit)}. Weigh less at a time, or on a larger scale."
    )
    return [Reason("reference-beyond-range", text, {"path": f"{path}.{'gross' if run.gross else 'reference'}"})]


@dataclass(frozen=True)
class Net:
    """What a load weighed on a reference: kg, and how many readings are behind it."""

    mass: float
    readings: int


def net_of(
    reference: Quantity | None, gross: Quantity | None, tare: Quantity | None, zeroed: bool | None, readings: int = 1
) -> Net | None:
    """`gross − tare`, or one reading on a scale zeroed with the container on it, or the reference as given; None if lacking."""
    if reference is not None:
        return Net(reference.si, readings)
    if gross is None:
        return None
    if tare is not None:
        return Net(gross.si - tare.si, 2)
    return Net(gross.si, 1) if zeroed else None


def net_of_run(run: Run, readings: int = 1) -> Net | None:
    """A run's reference as a net."""
    key = ("net", readings)
    if key not in run.remembered:
        run.remembered[key] = net_of(run.reference, run.gross, run.tare, run.zeroed, readings)
    found = run.remembered[key]
    return found if isinstance(found, Net) else None


@dataclass(frozen=True)
class Shows:
    """What the displays of a comparison show: divisions in kg, readings behind one reference, the container's tare in kg."""

    reference_division: float | None
    indicated_division: float | None
    readings: int
    tare: float | None


def shown_by(given: ComparisonInputs) -> Shows:
    """What the displays of these inputs show."""
    tare = given.plates.tare if given.plates else None
    return Shows(
        given.reference_division.si if given.reference_division else None,
        given.indicated_division.si if given.indicated_division else None,
        given.reference_readings or 1,
        tare.si if tare else None,
    )


def pair_of(run: Run, place: int, shows: Shows) -> Pair:
    """A run as a pair in kg. The run must be complete."""
    known = run.remembered.get((place, shows))
    if isinstance(known, Pair):
        return known
    net = net_of_run(run, shows.readings)
    assert net is not None
    shown = run.readings_shown()
    if shown:
        indicated, shown_readings = math.fsum(one.si for one in shown), len(shown)
    else:
        assert run.total_start is not None and run.total_end is not None
        indicated, shown_readings = run.total_end.si - run.total_start.si, 2
    pair = Pair(
        index=place,
        reference=net.mass,
        indicated=indicated,
        u_reference=reading_uncertainty(shows.reference_division, net.readings) if shows.reference_division else 0.0,
        u_indicated=reading_uncertainty(shows.indicated_division, shown_readings) if shows.indicated_division else 0.0,
        readings=net.readings,
        tare=run.tare.si if run.tare else shows.tare,
        duration=run.duration.si if run.duration else None,
        loads=run.stands_for,
    )
    run.remembered[place, shows] = pair
    return pair
