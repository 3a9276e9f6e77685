"""What a kind of machine is: plates, usual visit, profile, channels, outline, events, care.

A kind of machine lives in one file under `wary/machines/`. Server and screen read what stands
there and have no list of kinds of their own.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar, Literal

from wary.fields import Kind
from wary.methods import all_methods
from wary.methods.method import AnyMethod
from wary.quantities import FAMILIES, NotAQuantity, Quantity, quantity
from wary.rules.profiles import StartingLimits
from wary.suspects.shared import EVERYWHERE
from wary.suspects.suspect import Suspect
from wary.typed import as_in_a_file


@dataclass(frozen=True)
class Plate:
    """One plate figure: its key, what it is called, and what kind of thing it is."""

    key: str
    title: str
    kind: Kind

    @property
    def units(self) -> tuple[str, ...]:
        return FAMILIES.get(self.kind, ())


@dataclass(frozen=True)
class Part:
    """One method of a visit; the main one has an empty key.

    `before` names the step of the main part that it goes before. An `optional` part is done only
    now and then, and its place in the sheet is one line until it is begun.
    """

    key: str
    method: str
    title: str = ""
    before: str = ""
    optional: bool = False


@dataclass(frozen=True)
class EventKind:
    """Something that happens to a machine: in words, and which methods it makes stale."""

    words: str
    stale: tuple[str, ...] = ()


@dataclass(frozen=True)
class OwnList:
    """A list that a site writes for a machine: what it is called, its columns, and the plain rows to begin with."""

    title: str
    columns: tuple[tuple[str, str], ...]
    rows: tuple[Mapping[str, str], ...] = ()


class Machine:
    """Base of all kinds of machine. Subclasses fill the class variables.

    `profile` is the name of its starting limits, `limits` what they are where it brings its own; `does`
    are the methods that are for it. `traits` are what methods ask of a machine (`runs`: its band is never equally heavy all along).
    `channels` are the names of what a new one has to be calibrated by itself; `mass_unit` is what
    its loads are usually spoken of in; `stand_in` is the kind whose stand-in behaves like it, where it has none of its own;
    `channel_plates` are the figures that each channel has of its own, and `channel_name` what a
    channel is called, a recipe for one; `fixed` fills inputs that are the same for all of a kind;
    `says` gives inputs and results the names that this kind has for them; `lists` are what a
    method's lists begin with, by their name on record; a site writes its own.
    `people` is how many a visit takes, `minutes` how long it takes somebody who knows the work; `bulk` says that
    real material has to be arranged for it.
    `card` are the lines of the card in its cab, in the order in which they are done;
    `loads_into` is the method of which logged loads with a ticket become the runs, where a log of
    loads is kept. `suspects` is what else could make it read so, beside what every machine may have.
    """

    key: ClassVar[str]
    title: ClassVar[str]
    profile: ClassVar[str]
    plates: ClassVar[tuple[Plate, ...]]
    limits: ClassVar[StartingLimits | None] = None
    does: ClassVar[tuple[str, ...]]
    visit: ClassVar[tuple[Part, ...]]
    events: ClassVar[Mapping[str, EventKind]]
    channels: ClassVar[tuple[str, ...]] = ("main",)
    channel_name: ClassVar[str] = "channel"
    channel_plates: ClassVar[tuple[Plate, ...]] = ()
    fixed: ClassVar[Mapping[str, str]] = {}
    says: ClassVar[Mapping[str, str]] = {}
    lists: ClassVar[Mapping[str, OwnList]] = {}
    outline: ClassVar[Literal["round", "square"]] = "square"
    traits: ClassVar[frozenset[str]] = frozenset()
    mass_unit: ClassVar[str] = "kg"
    care: ClassVar[tuple[str, ...]] = ()
    people: ClassVar[int] = 1
    minutes: ClassVar[float] = 30
    bulk: ClassVar[bool] = False
    card: ClassVar[tuple[str, ...]] = ()
    stand_in: ClassVar[str] = ""
    loads_into: ClassVar[str] = ""
    suspects: ClassVar[tuple[Suspect, ...]] = ()

    def all_suspects(self) -> tuple[Suspect, ...]:
        """What else could make one of this kind read so: what it names itself, then what every machine may have."""
        return (*self.suspects, *EVERYWHERE)

    @property
    def asked_of(self) -> frozenset[str]:
        """What a method's steps may be kept to: its traits, and each of its plates as `plate:` and its key."""
        return self.traits | {f"plate:{plate.key}" for plate in (*self.plates, *self.channel_plates)}

    def profile_for(self, plates: Mapping[str, Any]) -> str:
        """The starting limits of one with these plates."""
        return self.profile

    def methods(self) -> dict[str, AnyMethod]:
        """The methods that are for this kind of machine, by their keys. Raises KeyError where it names one that is not there."""
        return {key: all_methods()[key] for key in sorted(self.does)}

    def takes(self, *inputs: str) -> bool:
        """Whether a method of its usual visit takes one of these inputs."""
        methods = self.methods()
        return any(name in methods[part.method].inputs.model_fields for part in self.visit for name in inputs)

    def stale_by(self, kind: str) -> list[str]:
        """The methods that an event makes stale on a machine of this kind."""
        event = self.events.get(kind)
        return [method for method in (event.stale if event else ()) if method in self.methods()]

    def copied(self, figures: Mapping[str, Any], plates: Mapping[str, Any]) -> dict[str, Any]:
        """The figures of a channel that begins as a copy of another, once its own target stands in them."""
        return dict(figures)

    def titles(self) -> dict[str, str]:
        """What its plates and those of its channels are called."""
        return {plate.key: self.says.get(plate.key, plate.title) for plate in (*self.plates, *self.channel_plates)}

    def plate(self, key: str) -> Plate | None:
        """The plate of this key, of the machine or of a channel; None where machines of this kind have none."""
        return next((plate for plate in (*self.plates, *self.channel_plates) if plate.key == key), None)

    def usual_mass(self, plates: Mapping[str, Any]) -> str:
        """The unit in which loads on this machine are spoken of, by its plates where they say so."""
        for key in ("division", "indicated_division", "capacity"):
            unit = str(plates.get(key, "")).rpartition(" ")[2]
            if unit in FAMILIES["mass"] and self.mass_unit == "kg":
                return unit
        rate = str(plates.get("rated_rate", "")).rpartition(" ")[2].partition("/")[0]
        return rate if rate in FAMILIES["mass"] else self.mass_unit

    def read_plates(
        self, typed: Mapping[str, Any], under: str = "plates"
    ) -> tuple[dict[str, Any], list[dict[str, str]]]:
        """Plates as typed, as a record keeps them, and a sentence for each that cannot be read.

        An empty text takes a plate away.
        """
        kept: dict[str, Any] = {}
        wrong = []
        for key, found in typed.items():
            path = f"{under}.{key}"
            plate = self.plate(key)
            if plate is None:
                known = ", ".join(one.key for one in self.plates)
                wrong.append({"path": path, "text": f"is not a plate of this kind; expected {known}"})
            elif str(found).strip() != "":
                try:
                    kept[key] = _read(plate, found)
                except NotAQuantity as unread:
                    wrong.append({"path": path, "text": str(unread)})
        return kept, wrong

    def figures(self, plates: Mapping[str, Any]) -> dict[str, Quantity | float]:
        """Plates of a record as quantities and numbers; what cannot be read is left out."""
        found: dict[str, Quantity | float] = {}
        for key, written in plates.items():
            plate = self.plate(key)
            if isinstance(written, (int, float)):
                found[key] = written
            elif plate and plate.units:
                try:
                    found[key] = quantity(written, plate.kind)
                except NotAQuantity:
                    continue
        return found


def _read(plate: Plate, found: Any) -> Any:
    if plate.kind == "string":
        return str(found).strip()
    read = as_in_a_file(str(found), plate.kind, plate.units[0] if plate.units else "")
    if plate.units:
        return quantity(read, plate.kind).text
    if not isinstance(read, (int, float)) or read <= 0 or (plate.kind == "integer" and read != int(read)):
        raise NotAQuantity(f"“{found}” cannot be used; expected {plate.title.lower()} as a number above zero")
    return read


CELLS = (
    Plate("cell_capacity", "Capacity of one load cell", "mass"),
    Plate("cell_count", "Number of load cells", "integer"),
    Plate("cell_sensitivity", "Sensitivity of the cells", "signal"),
)
"""Plates of every machine that stands on load cells."""

STATIC = (
    Plate("capacity", "Capacity", "mass"),
    Plate("division", "Division of the display", "mass"),
    Plate("dead_load", "Dead load", "mass"),
    Plate("live_capacity", "Most that is ever in or on it", "mass"),
    Plate("excitation", "Excitation", "voltage"),
    Plate("latitude", "Latitude of its place", "angle"),
    Plate("height", "Height of its place", "length"),
    *CELLS,
)
"""Plates of static scales, which stand still."""

SET_UP = Part("set-up", "set-up-sheet", optional=True)
"""Is the instrument told what the machine is? A part of a visit that is begun where it is wanted."""
OTHER = EventKind("something else")
CELL_CHANGED = "cell"
"""The event that replacing a cell amounts to, on every machine that stands on cells."""
