"""The certificate of a sealed record: made from what was sealed and nothing else."""

import base64
import datetime
import json
from collections.abc import Iterator
from typing import Any
from zoneinfo import ZoneInfo

from django.conf import settings

from beacon.papers.keeping import file_of
from beacon.papers.models import Paper
from beacon.records.models import Record
from beacon.records.printing import pdf, qr
from wary.fields import limit
from wary.job.places import inputs_of, joined
from wary.methods import all_methods
from wary.methods.method import Method
from wary.methods.steps import Listed, Rows
from wary.methods.tree import Input
from wary.quantities import percent_shown, shown
from wary.rules.call import HEADLINES
from wary.rules.correction import as_keyed

Content = dict[str, Any]


def certificate(record: Record) -> bytes:
    """The certificate as PDF."""
    return pdf("certificate", about(record))


def about(record: Record) -> Content:
    """What the certificate says, by the names that its template uses."""
    content = json.loads(record.content)
    closing, system = content["closing"], content["system"]
    zone = ZoneInfo(record.job.channel.system.site.time_zone)
    decides = (record.job.summary or {}).get("method", content["method"])
    parts = [_part(content, key, part, part["method"] == decides) for key, part in parts_of(content)]
    return {
        "record": record,
        "title": all_methods()[decides].title,
        "system": system,
        "plates": [(key.replace("_", " "), str(value)) for key, value in system.get("plates", {}).items()],
        "references": content.get("references", []),
        "against": list(_against(content)),
        "parts": parts,
        "limits": _limits(content["profile"]),
        "loosened": [entry for entry in content["trail"] if entry["path"].startswith("profile.") and entry["text"]],
        "occasion": content.get("occasion", "routine"),
        "conditions": typed(content, "conditions"),
        "note": typed(content, "note"),
        "closing": closing,
        "opened": when(closing["opened_at"], zone),
        "closed": when(closing["closed_at"], zone),
        "people": sorted({entry["who"] for entry in content["trail"]}),
        "papers": content.get("papers", []),
        "shown": list(_shown(record, content)),
        "supersedes": content.get("supersedes"),
        "superseded_by": getattr(record, "superseded_by", None),
        "qr": qr(f"{settings.PUBLIC_URL}/records/{record.id}#{record.sha256}"),
    }


def _shown(record: Record, content: Content) -> Iterator[Content]:
    """The photographs that were chosen for the certificate, as pictures to stand in a page."""
    chosen = {one["id"]: one for one in content.get("papers", []) if one["on_certificate"] and not one["set_aside"]}
    for paper in record.job.papers.filter(id__in=chosen).exclude(kind=Paper.Kind.PDF):
        try:
            picture = base64.b64encode(file_of(paper)).decode()
        except OSError:
            continue
        yield chosen[str(paper.id)] | {"picture": f"data:{paper.kind};base64,{picture}"}


def parts_of(content: Content) -> Iterator[tuple[str, Content]]:
    """The parts of a sealed job in the order of the visit, each with its file; a single method is one part."""
    visit = content.get("visit") or []
    there = False
    for part in visit:
        there = there or part["part"] == ""
        yield part["part"], (content | {"before": part.get("before", "")} if part["part"] == "" else part)
    if not there and (not visit or content["assessment"]["call"] != "not-ready"):
        yield "", content


def when(text: str, zone: ZoneInfo) -> str:
    """A time as people at a site read it."""
    return datetime.datetime.fromisoformat(text).astimezone(zone).strftime("%Y-%m-%d %H:%M %Z")


def typed(content: Content, path: str) -> str:
    """What was in force at a path at the end of the trail."""
    undone = {entry["supersedes"] for entry in content["trail"] if entry["undoes"]}
    texts = [
        entry["text"]
        for entry in content["trail"]
        if entry["path"] == path and not entry["undoes"] and entry["id"] not in undone
    ]
    return texts[-1] if texts else ""


def _against(content: Content) -> Iterator[tuple[str, str]]:
    """What it was compared with, as each method names it."""
    said = set()
    for _, part in parts_of(content):
        titles = {key: one.title for key, one in inputs_of(part["method"]).items()}
        for key in all_methods()[part["method"]].against:
            line = (titles[key].lower(), str(part["inputs"].get(key, "")))
            if line[1] and line not in said:
                said.add(line)
                yield line


def figure_text(result: Any, name: str = "error") -> str:
    """A result for reading, an error or a change in per cent with its sign; empty for what is no figure."""
    if not isinstance(result, dict) or "value" not in result:
        return ""
    number = result["value"]
    if isinstance(number, bool):
        return "yes" if number else "no"
    if not isinstance(number, (int, float)):
        return str(number)
    if result["unit"] == "%":
        return percent_shown(number / 100, sign="error" in name or "change" in name)
    return f"{shown(number, 5)} {result['unit']}".strip()


def _part(content: Content, key: str, part: Content, whole: bool) -> Content:
    """One method of the visit: in full where it decides the closing, else in a line."""
    answer = part["assessment"]
    found = answer.get("as_found") or answer
    stages = [("As found", found, part["inputs"].get("runs", []))]
    if answer.get("as_found"):
        stages.append(("As left", answer, part["inputs"].get("as_left", [])))
    method = all_methods()[part["method"]]
    compares_runs = "runs" in answer["results"]
    line = [(name.replace("_", " "), figure_text(answer["results"].get(name), name)) for name in method.line]
    adjustment, differs = _adjustment(content, key, part, found)
    return {
        "title": part.get("title") or method.title,
        "call": answer["headline"],
        "whole": whole or compares_runs,
        "stages": [_stage(name, stage, runs) for name, stage, runs in stages] if whole or compares_runs else [],
        "reasons": [reason["text"] for reason in answer["reasons"]],
        "line": [(name, text) for name, text in line if text],
        "tables": [*_tables(method, part["inputs"])] if whole else [],
        "figures": _figures(answer) if whole else [],
        "adjustment": adjustment,
        "differs": differs,
    }


def _tables(method: Method, inputs: Content) -> Iterator[Content]:
    """What was read in each list of a method, laid out as its steps lay it out; columns without a figure are left out."""
    known = {one.key: one for one in method.describe().inputs}
    for step in method.steps:
        if not isinstance(step, Listed) or not inputs.get(step.rows.list):
            continue
        rows, layout = inputs[step.rows.list], step.rows
        inside = {one.key: one for one in known[layout.list].inside()}
        columns = [column for column in layout.columns if not column.told and column.key != _inner_of(layout)]
        texts = [[_cell(row, column.key, inside) for column in columns] for row in rows]
        filled = [place for place in range(len(columns)) if any(row[place] for row in texts)]
        inner = layout.inner
        yield {
            "title": step.title,
            "heads": [columns[place].title for place in filled] + ([f"{inner.name}s"] if inner else []),
            "rows": [
                [text[place] for place in filled] + ([_inner(row, inner)] if inner else []) + _why(row)
                for row, text in zip(rows, texts, strict=True)
            ],
        }


def _inner_of(layout: Rows) -> str:
    """The key of the list inside a row; empty where there is none."""
    return layout.inner.list if layout.inner else ""


def _cell(row: Any, key: str, inside: dict[str, Input]) -> str:
    found = row.get(key) if isinstance(row, dict) else row
    words = {one.word: one.says for one in inside[key].words}
    return "" if found is None else words.get(str(found), str(found))


def _inner(row: Any, layout: Rows) -> str:
    """The rows inside a row, one after the other; those set aside with their reason."""
    texts = []
    for one in row.get(layout.list) or []:
        text = (
            " ".join(str(one[key]) for key in layout.typed if one.get(key) is not None)
            if isinstance(one, dict)
            else str(one)
        )
        texts.append(f"{text} ({why[0]})" if isinstance(one, dict) and (why := _why(one)) else text)
    return "; ".join(texts)


def _why(row: Any) -> list[str]:
    aside = row.get("set_aside") if isinstance(row, dict) else None
    return [f"set aside: {aside}"] if aside else []


def _stage(name: str, stage: Content, runs: list[Content]) -> Content:
    results = stage["results"]
    rows = []
    for number, run in enumerate(results.get("runs", [])):
        given = runs[number] if number < len(runs) else {}
        rows.append(
            {
                "number": number + 1,
                "reference": figure_text(run.get("reference")),
                "indicated": figure_text(run.get("indicated")),
                "error": figure_text(run.get("error")),
                "aside": given.get("set_aside", ""),
            }
        )
    for column in ("reference", "indicated"):
        _same_decimals(rows, column)
    return {
        "name": name,
        "call": stage.get("headline") or HEADLINES[stage["call"]],
        "reasons": [reason["text"] for reason in stage["reasons"]],
        "rows": rows,
        "mean": figure_text(results.get("mean_error")),
        "uncertainty": figure_text(results.get("expanded_uncertainty")).lstrip("+"),
        "spread": figure_text(results.get("spread")).lstrip("+"),
        "coverage": figure_text(results.get("coverage_factor")),
        "budget": stage.get("budget", []),
    }


def _same_decimals(rows: list[Content], column: str) -> None:
    """Gives the masses of a column as many decimals as the one with most."""
    most = max((len(row[column].partition(" ")[0].partition(".")[2]) for row in rows), default=0)
    for row in rows:
        number, space, unit = row[column].partition(" ")
        whole, _, decimals = number.partition(".")
        if most and number:
            row[column] = f"{whole}.{decimals:0<{most}}{space}{unit}"


def _in_words(result: Any, key: str) -> str:
    """A result, or what it is made of, for reading."""
    if isinstance(result, list):
        return ", ".join(_in_words(one, key) for one in result)
    if isinstance(result, dict) and "value" not in result:
        return ", ".join(f"{name.replace('_', ' ')} {figure_text(one, name)}" for name, one in result.items())
    return figure_text(result, key)


def _figures(answer: Content) -> list[tuple[str, str]]:
    """The results of a method that compares no runs, each with its figure."""
    if "runs" in answer["results"]:
        return []
    rows = []
    for key, result in answer["results"].items():
        words = key.replace("_", " ")
        text = "; ".join(_in_words(one, key) for one in result) if isinstance(result, list) else _in_words(result, key)
        if text:
            rows.append((words, text))
    return rows


def _adjustment(content: Content, key: str, part: Content, found: Content) -> tuple[list[tuple[str, str]], str]:
    """The adjustment of a part in lines, and a sentence where the read-back is not what was worked out."""
    inputs, results = part["inputs"], found["results"]
    read_back = typed(content, joined(key, "read_back"))
    if not results.get("new_factor") and not read_back and not results.get("percent_change"):
        return [], ""
    name = content["system"].get("factor_name", "factor")
    rows = []
    if inputs.get("factor"):
        rows.append((f"{name} in force", as_keyed(inputs["factor"], inputs.get("factor_decimals"))))
    worked_out = (found.get("key_in") or {}).get("factor", "")
    if worked_out:
        rows.append(("worked out", worked_out))
    if results.get("percent_change"):
        rows.append(("change", figure_text(results["percent_change"])))
    rows.append(("read back from the instrument", read_back or "nothing"))
    differs = ""
    latest = (part["assessment"].get("key_in") or {}).get("factor", worked_out)
    if read_back and worked_out and not {_number(worked_out), _number(latest)} & {_number(read_back)}:
        differs = f"What was read back, {read_back}, is not what was worked out, {worked_out}."
    return rows, differs


def _number(text: str) -> float | None:
    try:
        return float(text.replace(",", "."))
    except ValueError:
        return None


def _limits(profile: Content) -> str:
    words = []
    if profile.get("accept"):
        words.append(f"accept {limit(profile['accept'])}")
    if profile.get("repeat"):
        words.append(f"repeat {profile['repeat']} for three runs")
    if profile.get("minimum_runs"):
        words.append(f"at least {profile['minimum_runs']} runs")
    return " · ".join(words)
