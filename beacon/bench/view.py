"""A job as the screen shows it."""

from typing import Any

from beacon.bench.document import Assessed, read_back_question
from beacon.bench.fold import live_rows
from beacon.bench.keeping import Kept
from beacon.bench.loose import is_complete, loose_ends
from beacon.bench.models import Job
from beacon.bench.paths import REFERENCES, VALUE, joined, lists
from beacon.people.access import is_lead
from beacon.people.models import Person
from beacon.plant.plates import figures
from wary.call import Profile
from wary.forms import in_form
from wary.quantities import decimals_of, percent_shown, quantity, shown
from wary.visits import sections


def job_view(user: Person, job: Job, assessed: Assessed) -> dict[str, Any]:
    """All that one look at the bench needs, in one answer."""
    system = job.channel.system
    record = getattr(job, "record", None) if not job.is_open else None
    return {
        "id": job.id,
        "state": job.state,
        "method": job.method,
        "practice": job.practice,
        "system": {
            "id": system.id,
            "name": system.name,
            "kind": system.get_kind_display(),
            "channel": job.channel.name if system.channels.count() > 1 else "",
            "material": system.material,
            "site": system.site.name,
            "time_zone": system.site.time_zone,
            "factor_name": system.factor_name,
            "correction": system.correction,
            "notes": system.notes,
            "plates": {key: str(value) for key, value in system.plates.items()},
        },
        "opened_by": str(job.opened_by),
        "opened_at": job.opened_at,
        "entries": job.fold["count"],
        "fields": _fields(job, assessed),
        "rows": _all_rows(job, assessed),
        "sheet": sections(job.visit or [{"key": "", "method": job.method}]),
        "parts": [_part(job, assessed, key) for key, _ in job.parts],
        "loose_ends": loose_ends(job, assessed),
        "complete": is_complete(job, assessed),
        "read_back_question": read_back_question(job.fold, assessed.assessment)
        if system.correction == "factor"
        else None,
        "may_lead": is_lead(user, system.site.organisation),
        "record": record.id if record else None,
        "closing": job.closing,
    }


def _part(job: Job, assessed: Assessed, key: str) -> dict[str, Any]:
    """One method of the visit: what it comes to, its drawing's figures, its limits."""
    part = assessed.parts[key] if key else assessed
    system = job.channel.system
    method = part.read.method
    answer = part.assessment
    found = answer.as_found or answer
    if found.key_in:
        found.key_in |= in_form(system.correction, found, part.read.given)
    return {
        "key": key,
        "method": part.file["method"],
        "title": method.title if method else "",
        "assessment": part.assessment.as_json(),
        "figure": method.drawing(part.read.given, figures(system.kind, system.plates)) if method else {},
        "limits": _limits(job, part),
    }


def kept_view(user: Person, kept: Kept) -> dict[str, Any]:
    return {"kept": kept.kept, "refused": kept.refused, "job": job_view(user, kept.job, kept.assessed)}


def _fields(job: Job, assessed: Assessed) -> dict[str, Any]:
    asked: dict[str, str] = {}
    problems: dict[str, str] = {}
    for part in (assessed, *assessed.parts.values()):
        problems |= part.problems
        for question in part.assessment.questions:
            asked[part.paths.get(question["path"], "")] = question["text"]
    return {
        path: field | {"problem": problems.get(path), "question": asked.get(path)}
        for path, field in job.fold["fields"].items()
    }


COMPARED = ("runs", "as_left")


def _all_rows(job: Job, assessed: Assessed) -> dict[str, list[dict[str, Any]]]:
    """The rows of every list in the job; runs with their nets and errors, the others in their order."""
    found: dict[str, list[dict[str, Any]]] = {REFERENCES: [_plain(row) for row in live_rows(job.fold, REFERENCES)]}
    for part, method in job.parts:
        of = assessed.parts[part] if part else assessed
        for name, keys in lists(method).items():
            full = joined(part, name)
            if name in COMPARED:
                found[full] = _rows(part, name, job, of)
                continue
            # A row of a plain list that cannot be read has no place in the results.
            rows = live_rows(job.fold, full)
            found[full] = [
                _plain(row) | {"in_set": VALUE not in keys or f"{full}.{row}.{VALUE}" not in of.problems}
                for row in rows
            ]
    return found


def _plain(row: str) -> dict[str, Any]:
    return {"row": row, "in_set": True, "net": None, "shown": None, "error": None, "predicted_error": None}


def _rows(part: str, name: str, job: Job, assessed: Assessed) -> list[dict[str, Any]]:
    answer = assessed.assessment.as_json()
    stage: dict[str, Any] = answer
    if name == "runs" and assessed.file["inputs"].get("as_left"):
        stage = answer.get("as_found") or {"results": {}}
    elif name == "as_left" and not assessed.file["inputs"].get("as_left"):
        return []
    results = stage["results"].get("runs", [])
    given = assessed.file["inputs"].get(name) or []
    rows = []
    for number, row in enumerate(live_rows(job.fold, joined(part, name))):
        result = results[number] if number < len(results) else {}
        typed = given[number] if number < len(given) else {}
        rows.append(
            {
                "row": row,
                "in_set": result.get("in_set", {}).get("value", True),
                "net": _as_typed(result.get("reference"), typed, ("reference", "gross", "tare")),
                "shown": _as_typed(result.get("indicated"), typed, ("indicated", "total_start", "total_end")),
                "error": result.get("error", {}).get("value"),
                "predicted_error": result.get("predicted_error", {}).get("value"),
            }
        )
    return rows


def _as_typed(figure: dict[str, Any] | None, typed: dict[str, Any], keys: tuple[str, ...]) -> str | None:
    """A mass with as many decimals as were typed for it."""
    if figure is None:
        return None
    texts = [typed[key] for key in keys if isinstance(typed.get(key), str)]
    same_unit = [text for text in texts if text.endswith(f" {figure['unit']}") and " lb " not in text]
    if texts and len(same_unit) == len(texts):
        places = max(_places(text) for text in same_unit)
        number = f"{figure['value']:.{places}f}"
        return f"{number.replace('-', '−')} {figure['unit']}"
    return f"{shown(figure['value'], 5)} {figure['unit']}"


def _places(text: str) -> int:
    number = text.split()[0]
    plain = number if "e" not in number.lower() else ""
    return len(plain.partition(".")[2]) if plain else decimals_of(quantity(text, "mass").value)


def _limits(job: Job, assessed: Assessed) -> dict[str, Any]:
    results = assessed.assessment.results
    profile = assessed.read.setting.profile if assessed.read.setting else Profile(None, None, 1, None)
    loads = [
        row["reference"]["value"] * quantity(f"1 {row['reference']['unit']}", "mass").si
        for row in results.get("runs", [])
        if row.get("reference") and row["reference"]["value"] > 0
    ]
    percent = None
    if profile.accept:
        share = profile.accept.relative_at(sum(loads) / len(loads)) if loads else profile.accept.percentage
        percent = share * 100 if share is not None else None
    count = int(results.get("runs_in_set", {}).get("value", 0))
    repeat = profile.repeat_limit(count)
    changed = [path for path in job.fold["fields"] if path.startswith("profile.") and job.fold["fields"][path]["text"]]
    return {
        "profile": job.channel.system.profile.title,
        "accept": str(profile.accept) if profile.accept else "",
        "accept_percent": percent,
        "repeat": percent_shown(repeat) if repeat is not None else "",
        "minimum_runs": int(results.get("minimum_runs", {}).get("value", profile.minimum_runs)),
        "changed": bool(changed),
    }
