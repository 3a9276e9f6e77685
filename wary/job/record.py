"""What a machine's record knows, as the first entries of a job on it, and what naming a reference brings."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from wary.job.places import PLATE_KINDS, REFERENCES, Parts, joined, place, scalars_of
from wary.methods import all_methods
from wary.references import ReferenceOnRecord

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
