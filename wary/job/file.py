"""The job file: reading, refusing, assessing, and its JSON Schema.

One JSON document holds one job's method, inputs and, when the application wrote it, what it was
assessed as and the trail of its entries. Malformed fields are refused, all at once, each by its path.
"""

import dataclasses
import json
import math
import re
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from itertools import islice
from typing import Annotated, Any

from pydantic import TypeAdapter, ValidationError

from wary.clean import unfit
from wary.fields import (
    Count,
    CountFromZero,
    Day,
    Flag,
    Inputs,
    Occasion,
    Parser,
    Percentage,
    PositiveMass,
    Words,
    choice,
    field,
)
from wary.job.evidence import Case, Looked, PartSeen
from wary.job.judging import judged
from wary.machines import all_machines
from wary.machines.machine import Machine, Part
from wary.methods import all_methods
from wary.methods.method import AnyMethod, Marks, Reference, Setting
from wary.methods.within import assessed
from wary.results import JSON, Results, schema_of
from wary.rules.assessment import NOT_READY, Assessment, Reason
from wary.rules.profiles import STARTING, ProfileGiven
from wary.rules.risk import Scatter
from wary.suspects.suspect import NO_PAST, Past

FORMAT, VERSION = "wary-beacon/job", 1
MOST_SAID = 100
"""So many refusals are said of one file; whoever mended those sees the next."""


@dataclass(frozen=True)
class Refusal:
    """One malformed field: its path, what was found and what was expected."""

    path: str
    text: str

    def as_json(self) -> dict[str, str]:
        return {"path": self.path, "text": self.text}


class Refused(ValueError):
    """A job file with malformed fields; `refusals` names every one of them."""

    def __init__(self, refusals: list[Refusal]) -> None:
        self.refusals = refusals
        super().__init__("; ".join(f"{r.path}: {r.text}" if r.path else r.text for r in refusals))


def _exactly(wanted: Any) -> Parser:
    def read(found: Any) -> Any:
        if found != wanted or isinstance(found, bool):
            raise ValueError(f"{found!r} is not read here; expected {json.dumps(wanted)}")
        return found

    return Parser(read, {"const": wanted}, "word")


def _method(found: Any) -> str:
    if not isinstance(found, str) or found not in all_methods():
        raise ValueError(f"{found!r} is not a method known here; expected one of {', '.join(all_methods())}")
    return found


def _block(found: Any) -> dict[str, Any]:
    if not isinstance(found, dict):
        raise ValueError("expected a block of fields in braces")
    return found


def _rows(found: Any) -> list[Any]:
    if not isinstance(found, list):
        raise ValueError("expected a list in square brackets")
    return found


Block = Annotated[dict[str, Any], Parser(_block, {"type": "object"}, "block")]
Rows = Annotated[list[Any], Parser(_rows, {"type": "array"}, "list")]


class ReferenceGiven(Inputs):
    """A reference that a job names: a scale or weights that say what it should have been."""

    name: Words | None = field("Name")
    certificate: Words | None = field("Certificate")
    due: Day | None = field("To be checked again by")
    range: PositiveMass | None = field("Range")
    used: Words | None = field("Which of the set were used")
    allowed_by: Words | None = field("Let pass although overdue, by")


class ScatterGiven(Inputs):
    """How the runs of this machine scattered within its last visits."""

    standard_deviation: Percentage | None = field("Scatter within earlier visits", "a standard deviation, relative")
    degrees_of_freedom: Count | None = field("Degrees of freedom of it")

    @property
    def known(self) -> Scatter | None:
        """The scatter; None where half of it is missing."""
        if self.standard_deviation is None or self.degrees_of_freedom is None:
            return None
        return Scatter(self.standard_deviation.si, self.degrees_of_freedom)


def _kind(found: Any) -> str:
    if not isinstance(found, str) or found not in all_machines():
        raise ValueError(
            f"{found!r} is no kind of machine known here; expected one of {', '.join(sorted(all_machines()))}"
        )
    return found


def _some_words(found: Any) -> str:
    if not isinstance(found, str) or not any(letter.isalpha() for letter in found):
        raise ValueError("says nothing; expected why, in words")
    return found


class LookedGiven(Inputs):
    """Something that was looked at and has no input of a method."""

    look: Words | None = field("Look")
    result: (
        Annotated[
            str, choice(fine="nothing wrong", **{"not-fine": "something wrong", "not-here": "this machine has none"})
        ]
        | None
    ) = field("Result")
    note: Words | None = field("Note")
    ticked: Flag | None = field("Ticked", "in a list, among others")


class SkippedGiven(Inputs):
    """A look that was not made, and why."""

    look: Words | None = field("Look")
    reason: Annotated[str, Parser(_some_words, {"type": "string"}, "string")] | None = field("Reason")


class CuredGiven(Inputs):
    """A suspect that was put right in this visit; the readings of the file are those taken since."""

    suspect: Words | None = field("Suspect")


def _counted(found: object) -> dict[str, float]:
    """How often each suspect was found, by its key."""
    if not isinstance(found, dict):
        raise ValueError("is no block of suspects; expected how often each was found, by its key")
    for key, times in found.items():
        if isinstance(times, bool) or not isinstance(times, (int, float)) or not 0 <= times <= MOST_FOUND:
            raise ValueError(
                f"says {times!r} of “{key}”; expected how often it was found, as a number from 0 to {MOST_FOUND}"
            )
    return found


def _dated(found: object) -> dict[str, str]:
    if not isinstance(found, dict) or not all(isinstance(one, str) for one in found.values()):
        raise ValueError("is no block of looks; expected when each was fine, in words, by its key")
    return found


def _keys(found: object) -> list[str]:
    if not isinstance(found, list) or not all(isinstance(one, str) for one in found):
        raise ValueError("is no list of looks; expected their keys")
    return found


MOST_FOUND = 100_000
Counted = Annotated[dict[str, float], Parser(_counted, {"type": "object"}, "block")]
Dated = Annotated[dict[str, str], Parser(_dated, {"type": "object"}, "block")]
Keys = Annotated[list[str], Parser(_keys, {"type": "array"}, "list")]


class HistoryGiven(Inputs):
    """What was known of the machine before the visit; the application writes it, and chances are worked out from it."""

    visits: CountFromZero | None = field("Visits to this machine")
    adjusted: CountFromZero | None = field("Visits that ended adjusted")
    found: Counted | None = field("Found here", "how often each suspect was, by its key")
    visits_alike: CountFromZero | None = field("Visits to others of its kind")
    found_alike: Counted | None = field("Found on others of its kind", "how often each suspect was, by its key")
    seen: Dated | None = field("Seen before", "when each look was fine, since when nothing was done")
    lacks: Keys | None = field("What it has not", "the looks that found nothing to look at")
    first: Flag | None = field("Never set before")
    drifts: Flag | None = field("Drifts", "the same way at each visit")


class JobFile(Inputs):
    """The document itself; `inputs` are read by the method that it names."""

    format: Annotated[str, _exactly(FORMAT)] | None = field("Format")
    version: Annotated[int, _exactly(VERSION)] | None = field("Version")
    method: Annotated[str, Parser(_method, {"type": "string"}, "word")] | None = field("Method")
    occasion: Occasion | None = field("Occasion")
    profile: ProfileGiven | None = field("Profile")
    inputs: Block | None = field("Inputs")
    date: Day | None = field("Day of the test")
    references: list[ReferenceGiven] | None = field("References")
    history_scatter: ScatterGiven | None = field("History's scatter", "of earlier visits, pooled")
    machine: Annotated[str, Parser(_kind, {"type": "string"}, "word")] | None = field("Kind of machine")
    history: HistoryGiven | None = field("History", "what was known of the machine before the visit")
    looked: list[LookedGiven] | None = field("Looked at", "what has no input of a method")
    skipped_looks: list[SkippedGiven] | None = field("Looks not made")
    cured: list[CuredGiven] | None = field("Put right in this visit")
    system: Block | None = field("System", "what was tested, for people to read")
    assessment: Block | None = field("Assessment", "written by the application, not read back")
    visit: Rows | None = field("Visit", "the other methods of the same visit, each as a job file")
    trail: Rows | None = field("Trail", "every entry as it was typed")
    papers: Rows | None = field("Papers", "photographs and papers with their hashes, for people to read")
    supersedes: Block | None = field("Supersedes", "the record that this one puts right, and why")
    closing: Block | None = field("Closing", "how the job was closed, by whom")
    chain: Block | None = field("Chain", "number of the sealed record, and the seal of the one before it")
    sealed: Block | None = field("Sealed", "what stood about the record where it was kept, for people to read")
    written_by: Words | None = field("Written by", "the program and its version, for people to read")
    paper: Block | None = field("Paper", "what its certificate and work sheet say, for people to read")


@dataclass(frozen=True)
class Given:
    """A job file that was read: what is malformed was refused, what is absent is None."""

    method: AnyMethod | None
    given: Inputs | None
    setting: Setting | None
    file: JobFile | None = None
    document: Mapping[str, Any] = dataclasses.field(default_factory=dict)

    def assess(self) -> Assessment[Results]:
        """The method's assessment; `not-ready` where the file names no method."""
        if self.method is None or self.setting is None or self.given is None:
            text = f"The file names no method; known here are {', '.join(all_methods())}."
            return Assessment("", NOT_READY, [Reason("missing", text, {"path": "method"})], Results(), "Not ready yet")
        return assessed(self.method, self.given, self.setting)

    def judge(self) -> dict[str, JSON]:
        """What is written of it: the method's assessment, and beside it the call of the machine where its kind is named or a visit is held."""
        answer = self.assess()
        found = answer.as_json()
        machine = self._machine()
        if machine and self.method and self.given and self.file:
            found["machine"] = judged(self._case(machine, answer)).as_json()
        return found

    def _machine(self) -> Machine | None:
        """The kind of machine: as named, or the one whose usual visit has these parts."""
        if self.file is None or self.method is None:
            return None
        if self.file.machine:
            return all_machines()[self.file.machine]
        parts = {(part.get("part", ""), part.get("method")) for part in self.document.get("visit") or []}
        if not parts:
            return None
        kinds = sorted(all_machines().values(), key=lambda kind: len(kind.visit))
        return next((kind for kind in kinds if parts <= {(one.key, one.method) for one in kind.visit}), None)

    def _case(self, machine: Machine, answer: Assessment[Results]) -> Case:
        assert self.file and self.method and self.given
        optional = {part.key for part in machine.visit if part.optional}
        seen = []
        for part in self.document.get("visit") or [{"part": ""}]:
            key = part.get("part", "")
            if key == "":
                seen.append(
                    PartSeen("", self.method, self.given, answer, changed=_changed(self.method, self.given, answer))
                )
                continue
            own = read({name: one for name, one in part.items() if name not in PART_KEYS})
            if own.method and own.given:
                said = own.assess()
                seen.append(
                    PartSeen(
                        key,
                        own.method,
                        own.given,
                        said,
                        key not in optional,
                        changed=_changed(own.method, own.given, said),
                    )
                )
        comparing = [one for one in seen if one.method.compares]
        plates = (self.document.get("inputs") or {}).get("plates") or {}
        factor = (self.document.get("inputs") or {}).get("factor")
        limits = self.setting.profile if self.setting else None
        history = self.file.history
        past = Past.of_json(history.model_dump(exclude_none=True)) if history else NO_PAST
        first = self.file.occasion == "first"
        if first and not past.first:
            past = dataclasses.replace(past, first=True)
        return Case(
            look_minutes=limits.look_minutes if limits else 10.0,
            may_skip=limits.skip_looks if limits else True,
            all_looks=limits.all_looks if limits else False,
            harm_minutes=limits.harm_minutes if limits else None,
            machine=machine,
            visit=machine.visit
            if any((one.key, one.method) == ("", self.method.key) for one in machine.visit)
            else (Part("", self.method.key),),
            parts=seen,
            decides=(comparing or seen)[-1].key,
            plates=machine.figures(plates),
            looked=[
                Looked(one.look, one.result or "", one.note or "", bool(one.ticked))
                for one in self.file.looked or []
                if one.look and one.result
            ],
            skipped={one.look: one.reason for one in self.file.skipped_looks or [] if one.look and one.reason},
            cured=frozenset(one.suspect for one in self.file.cured or [] if one.suspect),
            references=self.document.get("references") or [],
            factor_before=str(factor) if factor is not None else "",
            never_set=first or past.first or self.file.occasion == "repair",
            past=past,
            found=history.found or {} if history else {},
            drifts=bool(history and history.drifts),
        )


def _changed(method: AnyMethod, given: Inputs, answer: Assessment[Results]) -> bool:
    """Whether something was changed in the instrument, as far as a file says."""
    return answer.as_found is not None or method.changed(given, answer, Marks())


def read(document: Any) -> Given:
    """Reads a decoded job file. Raises Refused with every malformed field."""
    if not isinstance(document, dict):
        raise Refused([Refusal("", "the file is not a job: expected a block of fields in braces")])
    key = document.get("method")
    method = all_methods().get(key) if isinstance(key, str) else None
    profile = document.get("profile")
    named = profile.get("name") if isinstance(profile, dict) else None
    if not {named, method.profile if method else None} <= {None, *STARTING}:
        # It may be one that a kind of machine brings: they are known once all kinds are.
        list(all_machines())
    refusals: list[Refusal] = []
    file = _validated(JobFile, document, (), refusals)
    raw = document.get("inputs")
    given = None
    if method is not None and (raw is None or isinstance(raw, dict)):
        raw = raw or {}
        given = _validated(method.inputs, raw, ("inputs",), refusals)
        refusals += [Refusal(_path(("inputs", *place)), text) for place, text in method.contradictions(raw)]
    refusals += _of_parts(document.get("visit"))
    refusals += _of_looks(file)
    if refusals:
        raise Refused(refusals)
    assert isinstance(file, JobFile)
    if method is None:
        return Given(None, None, None)
    return Given(method, given, setting_of(file, method), file, document)


def setting_of(file: JobFile, method: AnyMethod) -> Setting:
    """What surrounds the inputs of a method in a file."""
    profile = (file.profile or ProfileGiven()).filled(method.profile)
    references = tuple(
        Reference(r.name or "The reference", r.certificate, r.due, r.range.si if r.range else None, r.allowed_by)
        for r in file.references or []
    )
    history = file.history_scatter.known if file.history_scatter else None
    return Setting(profile, file.occasion or "routine", file.date, references, history)


def _of_looks(file: Inputs | None) -> list[Refusal]:
    """What is malformed in what was looked at: a look that nobody can make, one that is skipped without a reason."""
    if not isinstance(file, JobFile) or not (file.looked or file.skipped_looks or file.cured):
        return []
    kinds = [all_machines()[file.machine]] if file.machine else all_machines().values()
    known = {tell.look.key for kind in kinds for one in kind.all_suspects() for tell in one.tells}
    names = {one.key for kind in kinds for one in kind.all_suspects()}
    found = []
    for place, looked in enumerate(file.looked or []):
        if looked.look not in known:
            found.append(
                Refusal(
                    f"looked[{place}].look",
                    f"{_brief(looked.look)} is no look on this machine; expected one of {', '.join(sorted(known))}",
                )
            )
        if looked.result is None:
            found.append(Refusal(f"looked[{place}].result", "is missing; expected fine or not-fine"))
    for place, skipped in enumerate(file.skipped_looks or []):
        if skipped.look not in known:
            found.append(
                Refusal(
                    f"skipped_looks[{place}].look",
                    f"{_brief(skipped.look)} is no look on this machine; expected one of {', '.join(sorted(known))}",
                )
            )
        if skipped.reason is None:
            found.append(
                Refusal(
                    f"skipped_looks[{place}].reason",
                    "is missing: a look is skipped for a reason; expected why, in words",
                )
            )
    for place, cured in enumerate(file.cured or []):
        if cured.suspect not in names:
            found.append(
                Refusal(
                    f"cured[{place}].suspect",
                    f"{_brief(cured.suspect)} is no suspect on this machine; expected one of {', '.join(sorted(names))}",
                )
            )
    return found


PART_KEYS = ("part", "title", "before", "factor_in_force", "assessment")
"""What stands beside a job file's own fields in a part of a visit."""


def _of_parts(visit: Any) -> list[Refusal]:
    """What is malformed in the other parts of a visit, each a job file of its own."""
    refusals: list[Refusal] = []
    for place, part in enumerate(visit if isinstance(visit, list) else []):
        where = f"visit[{place}]"
        if not isinstance(part, dict):
            refusals.append(Refusal(where, f"{_brief(part)} is not a part of a visit; expected fields in braces"))
            continue
        key = part.get("part", "")
        if not isinstance(key, str) or not re.fullmatch(r"[a-z0-9-]{0,20}", key):
            text = f"{_brief(key)} is not the name of a part; expected small letters, digits and hyphens"
            refusals.append(Refusal(f"{where}.part", text))
        try:
            read({name: found for name, found in part.items() if name not in PART_KEYS})
        except Refused as refused:
            refusals += [Refusal(f"{where}.{one.path}" if one.path else where, one.text) for one in refused.refusals]
    return refusals


def _validated(
    model: type[Inputs], raw: dict[str, Any], place: tuple[str | int, ...], refusals: list[Refusal]
) -> Inputs | None:
    try:
        return model.model_validate(raw)
    except ValidationError as invalid:
        for error in invalid.errors(include_url=False):
            refusals.append(Refusal(_path((*place, *error["loc"])), _sentence(error, model)))
        return None


def _path(place: tuple[str | int, ...]) -> str:
    text = ""
    for part in place:
        text += f"[{part}]" if isinstance(part, int) else f".{part}" if text else part
    return text


def _sentence(error: Any, model: type[Inputs]) -> str:
    kind = error["type"]
    if kind == "value_error":
        return str(error["ctx"]["error"])
    if kind == "extra_forbidden":
        return f"is not a field known here; expected {', '.join(_siblings(model, error['loc']))}"
    if kind == "list_type":
        return f"{_brief(error['input'])} is not a list; expected a list in square brackets"
    if kind in ("model_type", "model_attributes_type", "dict_type"):
        return f"{_brief(error['input'])} is not a block; expected fields in braces"
    return str(error["msg"])


def _brief(found: Any) -> str:
    text = json.dumps(found, ensure_ascii=False, default=str)
    return text if len(text) <= 40 else text[:37] + "…"


def _siblings(model: type[Inputs], loc: tuple[str | int, ...]) -> list[str]:
    """The keys that could stand where the unknown one stands."""
    for part in loc[:-1]:
        if isinstance(part, int):
            continue
        annotation = model.model_fields[part].annotation
        for candidate in [annotation, *getattr(annotation, "__args__", ())]:
            for inner in [candidate, *getattr(candidate, "__args__", ())]:
                if isinstance(inner, type) and issubclass(inner, Inputs):
                    model = inner
    return list(model.model_fields)


def decode(text: str) -> Any:
    """The JSON of a job file. Raises Refused where it is not JSON, or says one thing twice."""
    twice: list[str] = []

    def once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
        block = dict(pairs)
        if len(block) < len(pairs):
            counts = Counter(key for key, _ in pairs)
            twice.extend(sorted(key for key, count in counts.items() if count > 1)[:MOST_SAID])
        return block

    def not_finite(name: str) -> float:
        return math.inf if name != "NaN" else math.nan

    try:
        document = json.loads(text, object_pairs_hook=once, parse_constant=not_finite)
    except (json.JSONDecodeError, RecursionError, ValueError) as broken:
        raise Refused([Refusal("", f"the file is not JSON ({broken}); expected one job file")]) from None
    if twice:
        raise Refused([Refusal(key, "stands twice in one block; expected it once") for key in twice])
    wrong = [Refusal(path, said) for path, said in islice(unfit(document, numbers=False), MOST_SAID)]
    if wrong:
        raise Refused(wrong)
    return document


def answered(text: str) -> str:
    """What a job file comes to, on one line of JSON: its assessment, or `refused` with every malformed field."""
    try:
        answer: dict[str, Any] = dict(read(decode(text)).judge())
    except Refused as refused:
        answer = {"refused": [refusal.as_json() for refusal in refused.refusals]}
    return json.dumps(answer, ensure_ascii=False)


def schema() -> dict[str, Any]:
    """The JSON Schema of a job file, made from the types that read it."""
    whole = TypeAdapter(JobFile).json_schema(ref_template="#/$defs/{model}")
    definitions = whole.pop("$defs", {})
    rules = []
    for key, method in all_methods().items():
        # Two methods may have inner blocks of the same name: each stands under its method's key.
        inner = method.inputs.model_json_schema(ref_template=f"#/$defs/{key}.{{model}}")
        definitions |= {f"{key}.{name}": one for name, one in inner.pop("$defs", {}).items()}
        name = f"{key}.inputs"
        definitions[name] = inner
        definitions[f"{key}.results"] = schema_of(method.results)
        results = {"results": {"$ref": f"#/$defs/{key}.results"}}
        assessment = {"properties": {**results, "as_found": {"properties": results}}}
        rules.append(
            {
                "if": {"properties": {"method": {"const": key}}, "required": ["method"]},
                "then": {"properties": {"inputs": {"$ref": f"#/$defs/{name}"}, "assessment": assessment}},
            }
        )
    whole["properties"]["method"] = {"enum": list(all_methods())}
    list(all_machines())
    definitions["ProfileGiven"]["properties"]["name"] |= {"anyOf": [{"enum": list(STARTING)}, {"type": "null"}]}
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Wary Beacon job file",
        **{k: v for k, v in whole.items() if k != "title"},
        "allOf": rules,
        "$defs": definitions,
    }
