"""References: what one can show, whether it suits a machine, what a look with a check mass says of it, what a visit takes."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from functools import lru_cache
from typing import Any, Literal

from wary.fields import at_most
from wary.machines.machine import Machine
from wary.quantities import FAMILIES, FAMILY_OF, NotAQuantity, Quantity, from_si, percent_shown, quantity, shown
from wary.rules.call import Profile
from wary.rules.evidence import NORMAL_95
from wary.rules.planning import belt_plan, smallest_amount
from wary.typed import as_in_a_file

ReferenceKind = Literal["scale", "weights", "container", "system"]
WITH_WEIGHTS = ("test_load", "test_mass")
"""Inputs of methods that take test weights."""


@dataclass(frozen=True)
class Weight:
    """One weight of a set: its label, nominal mass and expanded uncertainty, and until when it is in date."""

    label: str
    nominal: str
    uncertainty: str = ""
    due: str = ""
    certificate: str = ""


@dataclass(frozen=True)
class ReferenceOnRecord:
    """A reference as texts: a scale (`division`, `uncertainty`), weights (`nominal`) or a container (`tare`).

    `weights` are those of a set; `used` the labels of those that a job used, all where none is named.
    """

    kind: str
    name: str
    certificate: str = ""
    due: str = ""
    range: str = ""
    division: str = ""
    uncertainty: str = ""
    nominal: str = ""
    tare: str = ""
    weights: tuple[Weight, ...] = ()
    used: str = ""

    def as_document(self) -> dict[str, object]:
        """The reference as one JSON document, for a device that works without the database."""
        return asdict(self) | {"weights": [asdict(one) for one in self.weights]}

    @classmethod
    def of_document(cls, document: Mapping[str, Any]) -> "ReferenceOnRecord":
        """The reference that was written as such a document."""
        return cls(**{**document, "weights": tuple(Weight(**one) for one in document.get("weights", ()))})

    def labels(self) -> list[str]:
        """The labels of the weights that were used."""
        return [label for label in (one.strip() for one in self.used.split(",")) if label]

    def unknown(self) -> list[str]:
        """Labels that are none of the set."""
        known = {one.label.lower() for one in self.weights}
        return [label for label in self.labels() if label.lower() not in known]

    def of_those_used(self) -> "ReferenceOnRecord":
        """The reference with the figures of the weights that were used, whose uncertainties add up.

        The weights of a set were compared with the same standard: what one is off, the others may
        be off too. It is in date for as long as the first of them is.
        """
        asked = {label.lower() for label in self.labels()}
        used = [one for one in self.weights if one.label.lower() in asked]
        if not used:
            return self
        masses = [quantity(one.nominal, "mass") for one in used]
        sure = [quantity(one.uncertainty, "mass") for one in used if one.uncertainty]
        dues = [one.due for one in used if one.due] + ([self.due] if self.due else [])
        certificates = dict.fromkeys(one.certificate for one in used if one.certificate)
        return replace(
            self,
            nominal=sum_of(masses),
            uncertainty=sum_of(sure) if len(sure) == len(used) else self.uncertainty,
            due=min(dues) if dues else "",
            certificate=", ".join(certificates) or self.certificate,
        )


def sum_of(masses: list[Quantity]) -> str:
    """Masses added up, in the unit of the first."""
    unit = masses[0].unit
    return f"{from_si(math.fsum(one.si for one in masses), unit):.10g} {unit}"


# --- figures of a reference -------------------------------------------------------------------


@lru_cache(maxsize=4096)
def mass(text: str) -> float | None:
    """A mass in kg; None where there is none to be read."""
    try:
        return quantity(text, "mass").si if text else None
    except NotAQuantity:
        return None


def relative(text: str) -> float:
    """A relative uncertainty as a fraction; nothing where it is none."""
    try:
        return quantity(text, "percentage").si if text else 0.0
    except NotAQuantity:
        return 0.0


def as_kept(text: str, is_uncertainty: bool = False) -> str:
    """A figure of a reference as it is kept: a mass above zero, or an uncertainty as a mass or in per cent.

    Raises NotAQuantity with a sentence that says what was expected.
    """
    text = text.strip()
    if not text:
        return ""
    family = "percentage" if is_uncertainty and text.endswith("%") else "mass"
    read = quantity(as_in_a_file(text, family, "kg"), family)
    if read.si < 0 or (not is_uncertainty and read.si == 0):
        raise NotAQuantity(f"“{text}” is not above zero")
    return read.text


def is_load(found: Quantity) -> bool:
    """Whether a mass is one that can lie on something."""
    return found.si > 0


def nominal_of(weights: Sequence[str]) -> str:
    """What the weights of a set come to, from their nominal masses."""
    return sum_of([quantity(one, "mass") for one in weights])


@dataclass(frozen=True)
class MassChecked:
    """A look at a scale with a check mass: both as they are kept, by how much it was off in kg, and whether it holds."""

    mass: str
    shown: str
    off: float
    holds: bool


def checked_with(on: Quantity, read: Quantity, division: str, uncertainty: str) -> MassChecked:
    """What a scale of this division and uncertainty showed (`read`) with a mass `on` it.

    It holds within one division, or within the scale's own uncertainty where that is more.
    """
    off = read.si - on.si
    within = max(mass(division) or 0.0, relative(uncertainty) * on.si)
    return MassChecked(on.text, read.text, off, at_most(abs(off), within))


def zero_read(text: str, unit: str, band: str) -> tuple[str, bool]:
    """What a machine shows with nothing on it as it is kept, a mass or a rate, and whether that lies within its band.

    Raises NotAQuantity for what is neither, and for what the band cannot be held against.
    """
    read = _zero_figure(text, unit)
    if not band:
        return read.text, True
    within = _zero_figure(band)
    if within.family != read.family:
        raise NotAQuantity(f"“{read.text}” cannot be held against a band of {band}; type it in the unit of the band")
    return read.text, at_most(abs(read.si), within.si)


def _zero_figure(text: str, unit: str = "") -> Quantity:
    """What an empty machine shows, or its band: a mass, or a rate. Raises NotAQuantity for what is neither."""
    own = text.strip().rpartition(" ")[2]
    given = own if own in FAMILY_OF else unit
    family = "rate" if given in FAMILIES["rate"] else "mass"
    return quantity(as_in_a_file(text, family, unit or "kg"), family)


def band_refused(text: str) -> str:
    """Why a band of zero checks cannot be kept, in a sentence; empty where it can."""
    try:
        if text.strip() and _zero_figure(text).si <= 0:
            return f"“{text}” is not above zero"
    except NotAQuantity as unread:
        return str(unread)
    return ""


def off_in(off_kg: float, text: str) -> tuple[float, str]:
    """How far something was off (kg), in the unit of a mass as it is written."""
    unit = text.rpartition(" ")[2]
    return from_si(off_kg, unit), unit


def what_it_shows(reference: ReferenceOnRecord) -> str:
    """What a scale can show of a net, `1.96·d·√(2/12)`, in words; empty where that is not its question."""
    if reference.kind not in ("scale", "system") or not reference.division:
        return ""
    own = relative(reference.uncertainty)
    division = quantity(reference.division, "mass")
    step = NORMAL_95 * division.si * (2 / 12) ** 0.5
    shows = f"a net weighed on it is good to ± {shown(from_si(step, division.unit), 2)} {division.unit}"
    return shows + (f" and ± {percent_shown(own)} of its own" if own else "")


def handed_down(last: Mapping[str, object], plates: Mapping[str, object], certificate: str) -> dict[str, str]:
    """What a proven machine hands to others: its division, its range, and how sure its last record left it.

    What it was off and was not taken away counts to what it may be off: `U = |error| + U(error)`.
    `last` is what its last closed job handed to the history, errors in per cent.
    """
    left = "left" if last.get("error_left") is not None else "found"
    error, sure = last.get(f"error_{left}"), last.get(f"uncertainty_{left}")
    apart = abs(error) + (sure if isinstance(sure, (int, float)) else 0.0) if isinstance(error, (int, float)) else None
    return {
        "division": str(plates.get("indicated_division") or plates.get("division") or ""),
        "range": str(plates.get("capacity") or ""),
        "uncertainty": f"{apart:.3g} %" if apart is not None else "",
        "certificate": certificate,
        "nominal": "",
        "tare": "",
    }


# --- what a visit takes -----------------------------------------------------------------------


def least_kg(reference: ReferenceOnRecord, profile: Profile) -> float | None:
    """`R_min` on this reference for an accept limit, in kg; None where it gives none."""
    accept = profile.accept
    if not reference.division or not accept or not accept.percentage:
        return None
    return _least(reference.division, reference.uncertainty, accept.percentage)


@lru_cache(maxsize=1024)
def _least(division: str, uncertainty: str, accept: float) -> float | None:
    one = mass(division)
    return smallest_amount(one, 2, relative(uncertainty) / 2, accept) if one else None


def least_words(reference: ReferenceOnRecord, least: float) -> str:
    """`at least 4.2 t a run`, in the unit in which the reference is read."""
    unit = reference.division.rpartition(" ")[2]
    unit = "t" if unit == "kg" and least >= 2000 else unit
    return f"at least {shown(from_si(least, unit), 3)} {unit} a run"


def why_unsuited(reference: ReferenceOnRecord, machine: Machine, profile: Profile, capacity: str) -> str:
    """Why a reference that is in date does not suit a machine of this capacity, in a few words; empty where it does."""
    most = mass(capacity)
    if reference.kind == "container":
        return "only a container"
    if reference.kind == "weights":
        nominal = mass(reference.nominal)
        if not machine.takes(*WITH_WEIGHTS):
            return "not tested with weights"
        return "heavier than it carries" if nominal and most and nominal > most else ""
    least = least_kg(reference, profile)
    if reference.division and profile.accept and profile.accept.percentage and least is None:
        return "too coarse for its limit"
    reach = mass(reference.range)
    if least and reach and least > reach:
        return "does not reach far enough"
    return "asks for more than it carries" if least and most and least > most else ""


@dataclass(frozen=True)
class Material:
    """Real material that is to be arranged for all runs of a visit: kg, and seconds of running."""

    amount: float = 0.0
    seconds: float = 0.0

    @property
    def words(self) -> str:
        """How much that is, and how long it takes; empty for none."""
        arranged = f"{shown(self.amount / 1000, 3)} t in all" if self.amount else ""
        return arranged + (f", {shown(self.seconds / 60, 2)} min of running" if self.seconds else "")


def material_for(machine: Machine, profile: Profile, least: float | None, plates: Mapping[str, object]) -> Material:
    """What real material a visit takes, `least` kg a run on its reference."""
    if not machine.bulk or not least:
        return Material()
    runs = profile.minimum_runs
    try:
        rate = quantity(str(plates["rated_rate"]), "rate").si
        turn = quantity(str(plates["revolution_time"]), "time").si if plates.get("revolution_time") else None
    except (KeyError, NotAQuantity):
        return Material(least * runs)
    plan = belt_plan(rate, turn, least)
    return Material(plan.amount * runs, plan.seconds * runs)
