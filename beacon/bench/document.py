"""A job as a job file: the fold turned into the open format, read and assessed by the core."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import UTC
from typing import Any
from zoneinfo import ZoneInfo

from beacon.bench.fold import Fold, live_rows, text_at
from beacon.bench.models import Job
from beacon.bench.paths import REFERENCE_KINDS, REFERENCES, VALUE, Place, joined, lists, place, scalars, split
from beacon.plant.models import LimitProfile, System
from wary.call import ADJUST, LEAVE
from wary.document import FORMAT, VERSION, Refused, read
from wary.document import Job as ReadJob
from wary.method import Assessment
from wary.methods import all_methods
from wary.quantities import decimals_of
from wary.typed import as_in_a_file


@dataclass
class Assessed:
    """A job file, what the core says of it, and the sentence for each field that cannot be read.

    `paths` leads from a place in the file back to the entry's path. `parts` holds the other
    methods of a visit by their keys, each assessed by itself.
    """

    file: dict[str, Any]
    read: ReadJob
    assessment: Assessment
    problems: dict[str, str] = field(default_factory=dict)
    paths: dict[str, str] = field(default_factory=dict)
    parts: dict[str, "Assessed"] = field(default_factory=dict)


def about(system: System) -> dict[str, Any]:
    """What was tested, for people to read."""
    return {
        "organisation": system.site.organisation.name,
        "site": system.site.name,
        "name": system.name,
        "kind": system.get_kind_display(),
        "material": system.material,
        "serial": system.serial,
        "factor_name": system.factor_name,
        "correction": system.correction,
        "plates": system.plates,
        "profile": system.profile.title,
    }


class _Building:
    """The job file of one part in the making; `paths` leads from a place in it back to the entry's path."""

    def __init__(self, job: Job, fold: Fold, part: str, method: str) -> None:
        self.job, self.fold, self.part, self.method = job, fold, part, method
        self.paths: dict[str, str] = {}
        self.file: dict[str, Any] = {"format": FORMAT, "version": VERSION, "method": method}

    def value(self, where: Place) -> Any:
        entry = self.fold["fields"][where.path]
        return as_in_a_file(entry["text"], where.kind, entry["unit"])

    def build(self) -> dict[str, Any]:
        system = self.job.channel.system
        file = self.file
        inputs: dict[str, Any] = {}
        profile = dict(self._profile())
        plates: dict[str, Any] = {}
        blocks = {"inputs": inputs, "plates": plates, "profile": profile}
        inside = {"inputs": "inputs", "plates": "inputs.plates", "profile": "profile"}
        # What a part has of its own comes last, and stands over what the visit shares.
        for path, entry in sorted(self.fold["fields"].items(), key=lambda row: "/" in row[0]):
            where = place(self.job.parts, path)
            if where is None or where.list or entry["text"] == "" or where.part not in ("", self.part):
                continue
            block, _, key = split(path)[1].partition(".")
            if block not in blocks or (block == "inputs" and key not in scalars(self.method)):
                continue
            blocks[block][key] = self.value(where)
            self.paths[f"{inside[block]}.{key}"] = path
        if text_at(self.fold, "occasion"):
            file["occasion"] = text_at(self.fold, "occasion")
            self.paths["occasion"] = "occasion"
        file["profile"] = profile
        if plates and "plates" in all_methods()[self.method].inputs.model_fields:
            inputs["plates"] = plates
        for name in lists(self.method):
            rows = live_rows(self.fold, joined(self.part, name))
            if rows:
                keys: Iterable[str] = lists(self.method)[name]
                inputs[name] = [self._row(self.part, name, keys, row, number) for number, row in enumerate(rows)]
        file["inputs"] = inputs
        zone = ZoneInfo(system.site.time_zone)
        file["date"] = self.job.touched_at.astimezone(UTC).astimezone(zone).date().isoformat()
        named = live_rows(self.fold, REFERENCES)
        if named:
            keys = [key for key in REFERENCE_KINDS if key != "id"]
            file["references"] = [self._row("", REFERENCES, keys, row, number) for number, row in enumerate(named)]
        file["system"] = about(system)
        return file

    def _profile(self) -> dict[str, Any]:
        """The system's own limits for the methods of its kind; for the others the organisation's of that name."""
        own = self.job.channel.system.profile
        wanted = all_methods()[self.method].profile
        family = wanted.partition("-")[0]
        if own.key == wanted or own.key.partition("-")[0] == family:
            return own.as_given()
        found = LimitProfile.objects.filter(organisation_id=own.organisation_id, key=wanted).first()
        return found.as_given() if found else {"name": wanted}

    def _row(self, part: str, name: str, keys: Iterable[str], row: str, number: int) -> Any:
        read: dict[str, Any] = {}
        inside = f"{name}[{number}]" if name == REFERENCES else f"inputs.{name}[{number}]"
        for key in keys:
            path = joined(part, f"{name}.{row}.{key}")
            where = place(self.job.parts, path)
            if where and text_at(self.fold, path):
                read[key] = self.value(where)
                self.paths[inside if key == VALUE else f"{inside}.{key}"] = path
        return read.get(VALUE, read)


def assess(job: Job, fold: Fold) -> Assessed:
    """Folds, reads, asks the core, each part of the visit in its order; the main part is what comes back."""
    done: dict[str, Assessed] = {}
    zero_done = False
    for key, method in job.parts:
        done[key] = _assess_part(job, fold, key, method, zero_done)
        zero_done = zero_done or (method == "belt-zero" and _zero_done(fold, key, done[key]))
    main = done.pop("")
    main.parts = done
    return main


def _zero_done(fold: Fold, part: str, zero: Assessed) -> bool:
    """Whether a zero in the visit counts as done: it holds, or it was off and has been stored."""
    stored = text_at(fold, joined(part, "tick.new-zero.stored")) == "yes"
    return zero.assessment.call == LEAVE or (zero.assessment.call == ADJUST and stored)


def _assess_part(job: Job, fold: Fold, part: str, method: str, zero_done: bool = False) -> Assessed:
    """A field that cannot be read is left out, and said in `problems`.

    A zero done in the visit counts as done for the methods after it, unless something else was typed.
    """
    building = _Building(job, fold, part, method)
    file = building.build()
    if zero_done and "zero_done" in scalars(method):
        file["inputs"].setdefault("zero_done", "job")
    problems: dict[str, str] = {}
    for _ in range(3):
        try:
            found = read(file)
            break
        except Refused as refused:
            for refusal in refused.refusals:
                problems[building.paths.get(refusal.path, refusal.path)] = refusal.text
                _drop(file, refusal.path)
            for name in lists(method):
                # A plain list loses what cannot be read; the places of a list of blocks stay.
                file["inputs"][name] = [row for row in file["inputs"].get(name, []) if row is not None]
                if not file["inputs"][name]:
                    del file["inputs"][name]
    else:
        raise AssertionError(f"a job file that stays unreadable: {problems}")
    answer = found.assess()
    if _keyed_otherwise(file, fold, answer):
        found = read(file)
        answer = found.assess()
    return Assessed(file, found, answer, problems, building.paths)


def _keyed_otherwise(file: dict[str, Any], fold: Fold, answer: Assessment) -> bool:
    """Takes the read-back as the factor of the as-left runs where it is not the one worked out."""
    keyed = as_in_a_file(text_at(fold, "read_back"), "number")
    found = answer.as_found or answer
    worked_out = found.results.get("new_factor", {}).get("value")
    if not isinstance(keyed, (int, float)) or keyed <= 0 or keyed == worked_out or "as_left" not in file["inputs"]:
        return False
    if file["system"]["correction"] != "factor":
        return False
    file["inputs"]["as_left_factor"] = float(keyed)
    return True


COMPARING = ("runs", "as_left", "passes", "points", "positions", "cells", "revolution_times", "idle", "settings")


def begun(fold: Fold, part: str) -> bool:
    """Whether a person typed anything into a part of a visit; of the main one, into one of its lists."""
    prefix = f"{part}/"
    for path, field_ in fold["fields"].items():
        mine = path.startswith(prefix) if part else "/" not in path and path.partition(".")[0] in COMPARING
        if mine and field_["text"] and field_["source"] != "record":
            return True
    return False


def judged(job: Job, assessed: Assessed) -> Assessed:
    """The part of the visit that speaks for it: the main one, or where that was not begun the last that was."""
    if not assessed.parts or begun(job.fold, ""):
        return assessed
    found = [part for key, part in assessed.parts.items() if begun(job.fold, key)]
    return found[-1] if found else assessed


def read_back_question(fold: Fold, answer: Assessment) -> str | None:
    """A quiet question where the instrument shows something else than was worked out."""
    text = text_at(fold, "read_back")
    found = answer.as_found or answer
    worked_out = (found.key_in or {}).get("factor")
    if not text or worked_out is None:
        return None
    keyed = as_in_a_file(text, "number")
    if not isinstance(keyed, (int, float)):
        return f"“{text}” is not a number: type what the instrument shows."
    if keyed == float(worked_out):
        return None
    decimals = len(worked_out.partition(".")[2])
    if decimals_of(float(keyed)) > decimals:
        return f"{text} has more decimals than the {decimals} that the instrument takes. Read it again."
    for factor in (10, 0.1):
        if abs(keyed / (float(worked_out) * factor) - 1) < 1e-6:
            return f"{text} against {worked_out}: has the decimal point moved?"
    if sorted(text.replace(",", ".")) == sorted(worked_out):
        return f"{text} against {worked_out}: have two digits changed places?"
    return (
        f"The instrument shows {text}; worked out was {worked_out}. What it shows is what the as-left runs start from."
    )


def _drop(file: Any, path: str) -> None:
    """Takes a refused value out of the file."""
    parts: list[str | int] = []
    for part in path.split("."):
        name, *rest = part.replace("]", "").split("[")
        parts += [name, *(int(number) for number in rest)]
    *way, last = parts
    for step in way:
        file = file[step]
    if isinstance(file, dict):
        file.pop(last, None)
    elif isinstance(file, list) and isinstance(last, int):
        file[last] = None
