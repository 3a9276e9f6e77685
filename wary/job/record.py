"""What a machine's record knows, as the first entries of a job on it, and what naming a reference brings."""

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from wary.job.places import PLATE_KINDS, REFERENCES, Parts, joined, place, scalars_of
from wary.log import Fold
from wary.methods import all_methods
from wary.references import ReferenceOnRecord
from wary.rules.risk import LEAST_FREEDOM

SAME_PLATE = {"indicated_division": "division", "division": "indicated_division"}
"""Plates of which one stands for the other where the other is not on record."""


_BARE = re.compile(r"^[-+−]?[\d.,\s]+$")


@dataclass(frozen=True)
class Record:
    """What is on record of a machine and one of its channels, as texts.

    `texts` are single figures by name (`factor`, `zero`, and each plate by its key), `rows` lists
    of them: `cells`, `earlier_zeros` and `settings`. `scatter` is how runs of a method scattered within
    each of the last visits: per cent, degrees of freedom.
    """

    texts: Mapping[str, str] = field(default_factory=dict)
    scatter: Mapping[str, Sequence[tuple[float, int]]] = field(default_factory=dict)
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
    for part, method_key in parts:
        for key, text in pooled_scatter(record.scatter.get(method_key, [])).items():
            known[joined(part, f"history_scatter.{key}")] = text
    known |= {f"plates.{key}": record.texts[key] for key in PLATE_KINDS if record.texts.get(key)}
    return {path: text for path, text in known.items() if place(parts, path)}


def pooled_scatter(visits: Sequence[tuple[float, int]]) -> dict[str, str]:
    """The scatter within visits, pooled, as a job file gives it; empty where there is too little of it."""
    freedom = sum(own for _, own in visits)
    if freedom < LEAST_FREEDOM:
        return {}
    deviation = math.sqrt(sum(own * one * one for one, own in visits) / freedom)
    return {"standard_deviation": f"{deviation:.4g} %", "degrees_of_freedom": str(freedom)}


def remembered(before: Fold, parts_before: Parts, parts: Parts, known: Mapping[str, str]) -> dict[str, str]:
    """Texts by path of what an earlier job of this machine typed, and one of these parts would type again.

    What the record knows stands before it: a list of which it fills any row is left to it.
    """
    was = {method: part for part, method in reversed(parts_before)}
    found: dict[str, str] = {}
    for part, method_key in parts:
        if method_key not in was:
            continue
        for name in all_methods()[method_key].remembers:
            listed, _, key = name.partition(".")
            if not key:
                typed = _typed(before, joined(was[method_key], f"inputs.{name}")) or _typed(before, f"inputs.{name}")
                found.setdefault(f"inputs.{name}", typed)
            elif not any(path.startswith(f"{joined(part, listed)}.") for path in known):
                full = joined(was[method_key], listed)
                for number, row in enumerate(before.live_rows(full), 1):
                    path = f"{joined(part, listed)}.{listed[0]}{number}.{key}"
                    found[path] = _typed(before, f"{full}.{row}.{key}")
    return {path: text for path, text in found.items() if text and path not in known and place(parts, path)}


def _typed(fold: Fold, path: str) -> str:
    """What was typed at a path, with the unit of its field where it was a bare number."""
    entry = fold.fields.get(path)
    if entry is None or not entry.text:
        return ""
    text, unit = entry.text.strip(), entry.unit
    return f"{text} {unit}" if unit and _BARE.match(text) else text


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
            "inputs.check_mass": reference.nominal,
            "inputs.test_load_uncertainty": "" if relative else reference.uncertainty,
            "inputs.weights": reference.nominal,
            "inputs.weights_uncertainty": "" if relative else reference.uncertainty,
        }
    else:
        texts["plates.tare"] = reference.tare
    return {path: text for path, text in texts.items() if place(parts, path)}
