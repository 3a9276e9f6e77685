"""What is tested, as far as a job needs to know of it."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from functools import cached_property
from typing import Any

from wary.job.evidence import Beside
from wary.machines import all_machines
from wary.machines.machine import Machine
from wary.methods.method import AnyMethod, Seen
from wary.quantities import Quantity
from wary.rules.drift import Moved
from wary.rules.forms import Form
from wary.suspects.suspect import NO_PAST, Past


@dataclass(frozen=True)
class Subject:
    """A machine on record: its plates as they are written, its limits, and the form in which it takes a correction.

    `profile` is the machine's own, as a job file gives it; `profiles` the organisation's by name,
    for the methods of a visit that are not of its kind. `about` is what a file says of it, for
    people to read. `found` says how often each suspect was found here and on its like, `repaired` what was
    found last and left for repair; `drifts`: its history shows the same slow drift at each visit; `moved` how far it
    moved at most from visit to visit; `past` what the visits before say of chances.
    """

    machine: Machine
    plates: Mapping[str, Any] = field(default_factory=dict)
    profile: Mapping[str, Any] = field(default_factory=dict)
    profiles: Mapping[str, Mapping[str, Any]] = field(default_factory=dict)
    profile_title: str = ""
    form: Form = "factor"
    factor_name: str = "factor"
    about: Mapping[str, Any] = field(default_factory=dict)
    found: Mapping[str, float] = field(default_factory=dict)
    repaired: tuple[str, ...] = ()
    beside: tuple[Beside, ...] = ()
    drifts: bool = False
    moved: Moved | None = None
    past: Past = NO_PAST

    def as_document(self) -> dict[str, Any]:
        """The subject as one JSON document, for a device that works without the database."""
        plain = {name: getattr(self, name) for name in _PLAIN}
        return plain | {
            "machine": self.machine.key,
            "repaired": list(self.repaired),
            "beside": [asdict(one) for one in self.beside],
            "moved": asdict(self.moved) if self.moved else None,
            "past": self.past.as_json(),
        }

    @classmethod
    def of_document(cls, document: Mapping[str, Any]) -> "Subject":
        """The subject that was written as such a document."""
        plain = {name: document[name] for name in _PLAIN if name in document}
        return cls(
            **plain
            | {
                "machine": all_machines()[document["machine"]],
                "repaired": tuple(document.get("repaired", ())),
                "beside": tuple(Beside(**one) for one in document.get("beside", ())),
                "moved": Moved(**document["moved"]) if document.get("moved") else None,
                "past": Past.of_json(document.get("past", {})),
            }
        )

    @cached_property
    def figures(self) -> dict[str, Quantity | float]:
        """Its plates as quantities and numbers."""
        return self.machine.figures(self.plates)

    @cached_property
    def seen(self) -> Seen:
        """What a drawing is made from beside the inputs."""
        return Seen(self.figures, self.machine.outline)

    def limits_for(self, method: AnyMethod) -> dict[str, Any]:
        """The profile for a method: the machine's own where it is of that family, or one that the method takes over."""
        wanted = method.profile
        if own_limits(self.machine, str(self.profile.get("name", wanted)), method):
            return dict(self.profile)
        return dict(self.profiles.get(wanted, {"name": wanted}))


_PLAIN = (
    "plates", "profile", "profiles", "profile_title", "form", "factor_name", "about", "found", "repaired", "drifts"
)  # fmt: skip
"""What of a subject is written as it is."""


def own_limits(machine: Machine, own: str, method: AnyMethod) -> bool:
    """Whether a method is judged by a machine's own limits, which are of this name: by those that it brings, always."""
    if machine.limits and own == machine.profile:
        return True
    return own.partition("-")[0] == method.profile.partition("-")[0] or own in method.also_profiles
