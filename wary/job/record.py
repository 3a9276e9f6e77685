"""What a machine's record knows, as the first entries of a job on it, and what naming a reference brings."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from wary.job.places import PLATE_KINDS, REFERENCES, Parts, joined, place, scalars_of
from wary.methods import all_methods
from wary.quantities import Quantity, from_si, quantity

SAME_PLATE = {"indicated_division": "division", "division": "indicated_division"}
"""Plates of which one stands for the other where the other is not on record."""


@dataclass(frozen=True)
class Record:
    """What is on record of a machine and one of its channels, as texts.

    `texts` are single figures by name (`factor`, `zero`, and each plate by its key), `rows` lists
    of them: `cells`, `earlier_zeros` and `settings`.
    """

    texts: Mapping[str, str] = field(default_factory=dict)
    rows: Mapping[str, list[Mapping[str, str]]] = field(default_factory=dict)


def first_entries(record: Record, parts: Parts) -> dict[str, str]:
    """Texts by path, of every place that a job of these parts has and the record fills."""
    known: dict[str, str] = {}
    for part, method_key in parts:
        method = all_methods()[method_key]
        for key in scalars_of(method_key):
            name = method.takes.get(key, key)
            text = record.texts.get(name) or record.texts.get(SAME_PLATE.get(name, ""), "")
            if not name or not text:
                continue
            # What all parts take alike is typed once for the visit.
            path = f"inputs.{key}"
            if known.setdefault(path, text) != text:
                known[joined(part, path)] = text
        for key, name in method.takes.items():
            # A place in a block is filled only where the method names it.
            if "." in key and record.texts.get(name):
                known[f"inputs.{key}"] = record.texts[name]
        for name, source in method.takes_rows.items():
            for number, row in enumerate(record.rows.get(source.record, []), 1):
                for key, come in source.keys.items():
                    if row.get(come):
                        known[joined(part, f"{name}.{source.record[0]}{number}.{key}")] = row[come]
    known |= {f"plates.{key}": record.texts[key] for key in PLATE_KINDS if record.texts.get(key)}
    return {path: text for path, text in known.items() if place(parts, path)}


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


def brought_by(reference: ReferenceOnRecord, parts: Parts, row: str) -> dict[str, str]:
    """What follows from naming a reference, as texts by path: its own row, and the inputs that take its figures."""
    reference = reference.of_those_used()
    texts = {
        f"{REFERENCES}.{row}.name": reference.name,
        f"{REFERENCES}.{row}.certificate": reference.certificate,
        f"{REFERENCES}.{row}.due": reference.due,
        f"{REFERENCES}.{row}.range": reference.range,
        f"{REFERENCES}.{row}.allowed_by": "",
    }
    if reference.kind in ("scale", "system"):
        texts |= {
            "inputs.reference_division": reference.division,
            "inputs.reference_uncertainty": reference.uncertainty,
            "inputs.reference_readings": "2",
            "inputs.ticket_division": reference.division,
        }
    elif reference.kind == "weights":
        relative = reference.uncertainty.endswith("%")
        texts |= {
            "inputs.test_load": reference.nominal,
            "inputs.test_mass": reference.nominal,
            "inputs.test_load_uncertainty": "" if relative else reference.uncertainty,
        }
    else:
        texts["plates.tare"] = reference.tare
    return {path: text for path, text in texts.items() if place(parts, path)}
