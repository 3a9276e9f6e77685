"""What the papers of a record say, as plain data: worked out once when it is sealed, and sealed with it.

Paper is made from the record alone (`paper` in it), so that it says the same for ever. Records of
before had none: theirs is made with the words of their day, which stand in `words_before.json`.
"""

import datetime
import json
from collections.abc import Iterator
from functools import lru_cache
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from beacon.bench.models import Job
from beacon.records.figures import called as called_figure
from beacon.records.figures import figure_text, figures, limits_in_words, number_in, same_decimals
from beacon.records.models import Record
from beacon.records.trail_words import places, says
from wary.drawings import RateTable
from wary.job.file import Refused, read
from wary.job.places import joined, split
from wary.job.words import WRITTEN, MethodWords, TableWords, Words, words_of
from wary.methods import all_methods
from wary.methods.method import Seen
from wary.methods.within import drawn
from wary.rules.call import HEADLINES
from wary.rules.correction import as_keyed

Content = dict[str, Any]
BEFORE = Path(__file__).with_name("words_before.json")


def paper_of(content: Content, job: Job, words: Words = words_of) -> Content:
    """What the papers of a job say that is being sealed, or was sealed before; `words` are today's unless given."""
    closing, system = content["closing"], content["system"]
    zone = ZoneInfo(job.channel.system.site.time_zone)
    summary = job.summary or {}
    decides = str(summary.get("method", content["method"]))
    parts = [_part(content, key, part, part["method"] == decides, words) for key, part in parts_of(content)]
    methods = {part.key: part.method for part in job.parts} | {"": content["method"]}
    return {
        "zone": zone.key,
        "title": words(decides).title,
        "plates": [[key.replace("_", " "), str(value)] for key, value in system.get("plates", {}).items()],
        "against": [list(one) for one in _against(content, words)],
        "parts": parts,
        "machine": _machine(content, summary),
        "limits": limits_in_words(content["profile"]),
        "conditions": typed(content, "conditions"),
        "note": typed(content, "note"),
        "opened": when(closing["opened_at"], zone),
        "closed": when(closing["closed_at"], zone),
        "places": list(places(content, methods, words)),
        **({"says": list(says(content, methods, words))} if words is words_of else {}),
        "sections": list(_sections(content, methods, words)),
        "factor": summary.get("factor_after") or summary.get("factor_before") or "",
        "due": _due(job),
        "chart": _chart(content, job),
    }


def paper_in(record: Record) -> tuple[Content, Content]:
    """A record's content, and what its papers say."""
    content = json.loads(record.content)
    if "paper" in content:
        return content, content["paper"]
    paper = paper_of(content, record.job, lambda key: words_before()[key])
    due = record.job.channel.system.due
    return content, paper | {"due": due.isoformat() if due else ""}


def said_in(paper: Content, place: int) -> str | None:
    """What an entry of a record's trail says in words; None in a record of before these were sealed."""
    return paper["says"][place] if "says" in paper else None


@lru_cache(maxsize=1)
def words_before() -> dict[str, MethodWords]:
    """The words of every method as they were while records did not yet hold their own."""
    return WRITTEN.validate_json(BEFORE.read_bytes())


def _machine(content: Content, summary: Content) -> Content | None:
    """What follows for the machine where that is more than its parts say: a suspect shown, what was not looked at,
    how likely something else was."""
    found = content["assessment"].get("machine")
    own = [reason["text"] for reason in found["reasons"] if reason["code"] in OF_THE_MACHINE] if found else []
    cured = (
        [one["title"] for one in found["suspects"] if {"suspect": one["key"]} in content.get("cured", [])]
        if found
        else []
    )
    own += [f"Put right in this visit: {title}. As found is what was read before it." for title in cured]
    if found and summary.get("otherwise"):
        own.append(f"Something other than the figure, when it was changed: {summary['otherwise']}.")
    return {"call": HEADLINES[found["call"]], "reasons": own} if found and own else None


def _due(job: Job) -> str:
    """Until when a job lets its machine be, as a day; empty where it was abandoned."""
    done = job.tested_at or job.closed_at
    if done is None or job.state == Job.State.ABANDONED:
        return ""
    system = job.channel.system
    return (system.site.day_of(done) + datetime.timedelta(days=system.interval_days)).isoformat()


def _chart(content: Content, job: Job) -> Content | None:
    """The table that a card for the cab shows, where the machine has such a card and the job drew one."""
    if not job.channel.system.machine.card:
        return None
    for _, part in parts_of(content):
        try:
            given = read({"method": part["method"], "inputs": part["inputs"]}).given
        except Refused:
            # An input that is called otherwise by now: what was drawn then cannot be drawn again.
            continue
        found = drawn(all_methods()[part["method"]], given, Seen()) if given else None
        if isinstance(found, RateTable) and found.rows:
            return found.model_dump(mode="json")
    return None


OF_THE_MACHINE = frozenset({"suspect", "put-back", "unexplained", "not-looked-at", "cured"})
"""Reasons that no part gives: they are the machine's."""
AT_ONCE = 500
"""So many entries stand on one work sheet; a longer job has several, one after the other."""


def sheets_of(entries: int) -> int:
    """How many work sheets so many entries take."""
    return max(1, -(-entries // AT_ONCE))


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


def _sections(content: Content, methods: dict[str, str], words: Words) -> Iterator[Content]:
    """The parts under which the work sheet lists the entries, each with its title and the places of its entries."""
    visit = content.get("visit") or []
    titles = {one["part"]: one.get("title") or words(one["method"]).title for one in visit}
    found: dict[str, list[int]] = {}
    for number, entry in enumerate(content["trail"]):
        part, _ = split(entry["path"])
        found.setdefault(part if part in methods else "", []).append(number)
    order = [key for key, _ in parts_of(content)]
    for key in sorted(found, key=lambda key: order.index(key) if key in order else len(order)):
        yield {"title": titles.get(key) or words(methods[key]).title, "entries": found[key]}


def _against(content: Content, words: Words) -> Iterator[tuple[str, str]]:
    """What it was compared with, as each method names it."""
    said = set()
    for _, part in parts_of(content):
        for key, title in words(part["method"]).against:
            line = (title, str(part["inputs"].get(key, "")))
            if line[1] and line not in said:
                said.add(line)
                yield line


def _part(content: Content, key: str, part: Content, whole: bool, words: Words) -> Content:
    """One method of the visit: in full where it decides the closing, else in a line."""
    answer = part["assessment"]
    found = answer.get("as_found") or answer
    stages = [("As found", found, part["inputs"].get("runs", []))]
    if answer.get("as_found"):
        stages.append(("As left", answer, part["inputs"].get("as_left", [])))
    method = words(part["method"])
    compares_runs = "runs" in answer["results"]
    titles = {one.key: one for one in method.results}
    line = [
        (called_figure(name, titles), figure_text(answer["results"].get(name), name, titles.get(name)))
        for name in method.line
    ]
    adjustment, differs = _adjustment(content, key, part, found)
    return {
        "title": part.get("title") or method.title,
        "call": answer["headline"],
        "whole": whole or compares_runs,
        "stages": [_stage(name, stage, runs) for name, stage, runs in stages] if whole or compares_runs else [],
        "reasons": [reason["text"] for reason in answer["reasons"]],
        "line": [[name, text] for name, text in line if text],
        "tables": [*_tables(method, part["inputs"])] if whole else [],
        "figures": figures(answer, titles) if whole else [],
        "adjustment": adjustment,
        "differs": differs,
    }


def _tables(method: MethodWords, inputs: Content) -> Iterator[Content]:
    """What was read in each list of a method, laid out as its steps lay it out; columns without a figure are left out."""
    for table in method.tables:
        rows = inputs.get(table.list)
        if not rows:
            continue
        texts = [[_cell(row, column.key, column.words) for column in table.columns] for row in rows]
        filled = [place for place in range(len(table.columns)) if any(row[place] for row in texts)]
        yield {
            "title": table.title,
            "heads": [table.columns[place].title for place in filled]
            + ([f"{table.inner.name}s"] if table.inner else []),
            "rows": [
                [text[place] for place in filled] + ([_inner(row, table)] if table.inner else []) + _why(row)
                for row, text in zip(rows, texts, strict=True)
            ],
        }


def _cell(row: Any, key: str, words: dict[str, str]) -> str:
    found = row.get(key) if isinstance(row, dict) else row
    return "" if found is None else words.get(str(found), str(found))


def _inner(row: Any, table: TableWords) -> str:
    """The rows inside a row, one after the other; those set aside with their reason."""
    texts = []
    assert table.inner
    for one in row.get(table.inner.list) or []:
        text = (
            " ".join(str(one[key]) for key in table.inner.typed if one.get(key) is not None)
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
        same_decimals(rows, column)
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
        "risk": stage.get("risk", ""),
    }


def _adjustment(content: Content, key: str, part: Content, found: Content) -> tuple[list[list[str]], str]:
    """The adjustment of a part in lines, and a sentence where the read-back is not what was worked out."""
    inputs, results = part["inputs"], found["results"]
    read_back = typed(content, joined(key, "read_back"))
    if not results.get("new_factor") and not read_back and not results.get("percent_change"):
        return [], ""
    name = content["system"].get("factor_name", "factor")
    rows = []
    if inputs.get("factor"):
        rows.append([f"{name} in force", as_keyed(inputs["factor"], inputs.get("factor_decimals"))])
    worked_out = (found.get("key_in") or {}).get("factor", "")
    if worked_out:
        rows.append(["worked out", worked_out])
    if results.get("percent_change"):
        rows.append(["change", figure_text(results["percent_change"])])
    rows.append(["read back from the instrument", read_back or "nothing"])
    differs = ""
    latest = (part["assessment"].get("key_in") or {}).get("factor", worked_out)
    if read_back and worked_out and not {number_in(worked_out), number_in(latest)} & {number_in(read_back)}:
        differs = f"What was read back, {read_back}, is not what was worked out, {worked_out}."
    return rows, differs
