"""Starting limits by profile. An organisation edits its own; these are starting values, not law."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Any

from wary.fields import Count, Flag, Inputs, Kind, LimitField, Parser, Percentage, choice, field, limit
from wary.quantities import quantity
from wary.rules.call import Profile
from wary.typed import as_in_a_file


def _starting(accept: Any, repeat: str | None, minimum: int, plausible: str) -> Profile:
    return Profile(
        accept=limit(accept) if accept else None,
        repeat=quantity(repeat, "percentage").si if repeat else None,
        minimum_runs=minimum,
        plausible=quantity(plausible, "percentage").si,
    )


STARTING: dict[str, Profile] = {
    "belt-fine": _starting("0.5 %", "0.5 %", 3, "10 %"),
    "belt-plain": _starting("1 %", "1 %", 3, "10 %"),
    "vessel": _starting("0.1 %", "0.1 %", 1, "10 %"),
    "vessel-fill": _starting("0.5 %", "0.5 %", 1, "10 %"),
    "axle": _starting({"smaller": ["1 %", "150 kg"]}, "1 %", 1, "15 %"),
    "lift-arm": _starting("2 %", "2 %", 3, "15 %"),
    "load-cart": _starting("1 %", "1.5 %", 3, "15 %"),
    "metered-feed": _starting("1 %", "2 %", 2, "15 %"),
    "filling": _starting(None, None, 3, "10 %"),
}


TITLES = {
    "belt-fine": "Belt scale, fine",
    "belt-plain": "Belt scale, plain",
    "vessel": "Vessel and platform",
    "vessel-fill": "Vessel against a known fill",
    "axle": "On-board axle",
    "lift-arm": "Lift arm",
    "load-cart": "Load cart",
    "metered-feed": "Metered feed",
    "filling": "Filling and dosing",
}
"""What the starting profiles are called."""


@dataclass(frozen=True)
class StartingLimits:
    """Limits that a kind of machine brings of its own: what they are called, and as a job file gives each."""

    title: str
    accept: str
    repeat: str
    minimum_runs: int
    plausible: str = "10 %"


def starts_with(name: str, limits: StartingLimits) -> None:
    """Adds a starting profile under this name, for as long as the program runs."""
    STARTING[name] = _starting(limits.accept, limits.repeat, limits.minimum_runs, limits.plausible)
    TITLES[name] = limits.title


def _name(found: Any) -> str:
    if not isinstance(found, str) or found not in STARTING:
        raise ValueError(f"{found!r} is not a profile known here; expected {', '.join(STARTING)}")
    return found


class ProfileGiven(Inputs):
    """The profile of a job file: a name, or limits, or a name with limits of its own."""

    name: Annotated[str, Parser(_name, {"type": "string", "enum": list(STARTING)}, "word")] | None = field("Name")
    accept: LimitField | None = field("Accept limit")
    repeat: Percentage | None = field("Repeat limit")
    minimum_runs: Count | None = field("Minimum number of runs")
    plausible: Percentage | None = field("Plausible limit")
    look_minutes: Count | None = field(
        "Longest look", "minutes: one that takes longer is not asked for before an adjustment"
    )
    skip_looks: Flag | None = field("Looks may be skipped", "for a reason that stands on the record")
    looks: Annotated[str, choice(worth="those that are worth their minutes", all="all that could tell")] | None = field(
        "Looks before an adjustment"
    )
    harm_minutes: Count | None = field(
        "What a figure set over a fault costs", "minutes; those of a visit where nothing is said"
    )

    def filled(self, otherwise: str) -> Profile:
        """The limits given, and the rest from the named starting profile, or from `otherwise`."""
        name = self.name or otherwise
        start = STARTING[name]
        return Profile(
            accept=self.accept or start.accept,
            repeat=self.repeat.si if self.repeat else start.repeat,
            minimum_runs=self.minimum_runs or start.minimum_runs,
            plausible=self.plausible.si if self.plausible else start.plausible,
            name=name,
            look_minutes=start.look_minutes if self.look_minutes is None else float(self.look_minutes),
            skip_looks=start.skip_looks if self.skip_looks is None else self.skip_looks,
            all_looks=start.all_looks if self.looks is None else self.looks == "all",
            harm_minutes=start.harm_minutes if self.harm_minutes is None else float(self.harm_minutes),
        )


LIMIT_KINDS: dict[str, Kind] = {
    "accept": "limit",
    "repeat": "percentage",
    "minimum_runs": "integer",
    "plausible": "percentage",
}
"""What is typed for each limit of a profile."""


def loosens(given: Mapping[str, Any], path: str, text: str, unit: str) -> bool:
    """Whether what was typed at `profile.…` lets more pass than a profile; what cannot be read changes no limit."""
    key = path.removeprefix("profile.")
    try:
        typed = as_in_a_file(text, LIMIT_KINDS[key], unit or "%")
        if key == "minimum_runs":
            return float(typed) < int(given[key])
        if key == "accept":
            old, new = limit(given[key]), limit(typed)
            if old.which != "one" or new.which != "one" or old.parts[0].family != new.parts[0].family:
                return True
            return new.parts[0].si > old.parts[0].si
        before = given.get(key)
        return not before or quantity(typed, "percentage").si > quantity(before, "percentage").si
    except (KeyError, ValueError, TypeError):
        return False
