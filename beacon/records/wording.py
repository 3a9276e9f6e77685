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
from wary.drawings import RateTable
from wary.fields import OCCASIONS
from wary.job.file import Refused, read
from wary.job.places import joined, split
from wary.job.titles import WORDS
from wary.job.words import WRITTEN, MethodWords, TableWords, Words, called, choice_in_words, lists_on_the_way, words_of
from wary.machines import all_machines
from wary.methods import all_methods
from wary.methods.method import Seen
from wary.methods.within import drawn
from wary.rules.call import HEADLINES
from wary.rules.correction import as_keyed

Content = dict[str, Any]
BEFORE = Path(__file__).with_name("words_before.json")
UNTITLED = ("references.", "plates.", "profile.", "tick.", "caution.", "loose.")


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
        "machine": _machine(content),
        "limits": limits_in_words(content["profile"]),
        "conditions": typed(content, "conditions"),
        "note": typed(content, "note"),
        "opened": when(closing["opened_at"], zone),
        "closed": when(closing["closed_at"], zone),
        "places": list(_places(content, methods, words)),
        **({"says": list(_says(content, methods, words))} if words is words_of else {}),
        "sections": list(_sections(content, methods, words)),
        "factor": summary.get("factor_after") or summary.get("factor_before") or "",
        "due": _due(job, zone),
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


def _machine(content: Content) -> Content | None:
    """What follows for the machine where that is more than its parts say: a suspect shown, what was not looked at."""
    found = content["assessment"].get("machine")
    own = [reason["text"] for reason in found["reasons"] if reason["code"] in OF_THE_MACHINE] if found else []
    cured = (
        [one["title"] for one in found["suspects"] if {"suspect": one["key"]} in content.get("cured", [])]
        if found
        else []
    )
    own += [f"Put right in this visit: {title}. As found is what was read before it." for title in cured]
    return {"call": HEADLINES[found["call"]], "reasons": own} if found and own else None


def _due(job: Job, zone: ZoneInfo) -> str:
    """Until when a job lets its machine be, as a day; empty where it was abandoned."""
    done = job.tested_at or job.closed_at
    if done is None or job.state == Job.State.ABANDONED:
        return ""
    return (done.astimezone(zone).date() + datetime.timedelta(days=job.channel.system.interval_days)).isoformat()


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


def _places(content: Content, methods: dict[str, str], words: Words) -> Iterator[str]:
    """Where each entry of the trail stands, in words, its rows by their number: `Runs 2, gross`."""
    numbers: dict[tuple[str, str], int] = {}
    counts: dict[str, int] = {}
    for entry in content["trail"]:
        part, rest = split(entry["path"])
        if words is words_of:
            yield _place(_words_at(methods, part, rest, words), part, rest, numbers, counts)
        else:
            yield _place_before(words(methods[part]) if part in methods else None, part, rest, numbers, counts)


def _words_at(methods: dict[str, str], part: str, rest: str, words: Words) -> MethodWords | None:
    """The words of the method that knows a place: of what is typed for the visit as a whole, the first of its parts that does."""
    if part not in methods:
        return None
    way = rest.split(".")
    own = words(methods[part])
    if part or way[0] != "inputs" or called(own, way[1:]):
        return own
    return next((one for method in methods.values() if called(one := words(method), way[1:])), own)


def _says(content: Content, methods: dict[str, str], words: Words) -> Iterator[str]:
    """What each entry of the trail says, in words: a choice by what it means, a tick as ticked, a figure as it was typed."""
    ways = [(entry["path"].split("."), entry["text"]) for entry in content["trail"]]
    names = {way[1]: text for way, text in ways if way[0] == "references" and way[-1] == "name" and text}
    for entry in content["trail"]:
        part, rest = split(entry["path"])
        text = f"{entry['text']} {entry['unit']}".strip()
        yield _said(_words_at(methods, part, rest, words), rest, text, names)


TICKED = {
    "tick": ("ticked", "not ticked"),
    "caution": ("seen to", "not seen to"),
    "loose": ("put back", "not put back"),
}
"""What is said of a tick, of a caution and of what was put back: as it is, and as it is not."""


def _said(words: MethodWords | None, rest: str, text: str, names: dict[str, str]) -> str:
    way = rest.split(".")
    if way[0] in TICKED:
        return TICKED[way[0]][text not in ("yes", "done")]
    if way[0] == "cured":
        return "put right" if text else text
    if way[0] in OF_LOOKS:
        return {"fine": "fine", "not-fine": "not fine"}.get(text, text)
    if rest == "occasion":
        return OCCASIONS.get(text, text)
    if way[0] == "references" and way[-1] == "id":
        return names.get(way[1], "chosen") if text else text
    if rest.startswith(UNTITLED) or words is None:
        return text
    return choice_in_words(words, way[1:] if way[0] == "inputs" else way, text)


OF_LOOKS = {"looked": "Looked at", "look_noted": "Noted of", "skipped": "Not looked at", "cured": "Put right"}
"""What stands of looks in a trail, by the head of its path."""


@lru_cache(maxsize=1)
def _looks_in_words() -> dict[str, str]:
    """Looks and suspects by their keys, in words."""
    found = {}
    for kind in all_machines().values():
        for one in kind.all_suspects():
            found[one.key] = one.title
    for kind in all_machines().values():
        for one in kind.all_suspects():
            found |= {tell.look.key: tell.look.words for tell in one.tells}
    return found


def _look_in_words(key: str) -> str:
    return _looks_in_words().get(key, key.replace("-", " "))


def _place(
    words: MethodWords | None, part: str, rest: str, numbers: dict[tuple[str, str], int], counts: dict[str, int]
) -> str:
    way = rest.split(".")
    if way[0] in OF_LOOKS:
        return f"{OF_LOOKS[way[0]]}: {_look_in_words(way[-1])}"
    if rest.startswith("references."):
        return "Reference" if way[-1] == "id" else f"Reference, {way[-1].replace('_', ' ')}"
    if way[0] in TICKED:
        return _ticked(words, way)
    rows = _rows_on(words, part, way, numbers, counts)
    last = _last(words, rest, way) if words else rest.replace(".", " ").replace("_", " ")
    if rows and rows[-1].startswith(f"{last} "):
        # The element of a plain list is called as its list is.
        return ", ".join(rows)
    return ", ".join([*rows, last.lower() if rows else last])


def _place_before(
    words: MethodWords | None, part: str, rest: str, numbers: dict[tuple[str, str], int], counts: dict[str, int]
) -> str:
    """Where an entry stands, as records of before say it: their paper stays as it was."""
    way = rest.split(".")
    if way[0] in OF_LOOKS:
        return f"{OF_LOOKS[way[0]]}: {_look_in_words(way[-1])}"
    if rest.startswith("references."):
        return f"Reference, {way[-1].replace('_', ' ')}"
    if way[0] in TICKED:
        return f"{way[0].capitalize()}: {way[-1].replace('-', ' ')}"
    rows = _rows_on(words, part, way, numbers, counts)
    plain = way[-1].replace("_", " ")
    if words is None:
        last = rest.replace(".", " ").replace("_", " ")
    elif rest in WORDS or rest.startswith(UNTITLED):
        last = WORDS.get(rest, plain)
    else:
        last = called(words, way[1:] if way[0] == "inputs" else way) or plain
    return ", ".join([*rows, last.lower() if rows else last])


def _rows_on(
    words: MethodWords | None,
    part: str,
    way: list[str],
    numbers: dict[tuple[str, str], int],
    counts: dict[str, int],
) -> list[str]:
    """The rows that a way leads through, each as its list is called with its number: `Runs 2`."""
    rows = []
    for at, title in lists_on_the_way(words, way) if words else ():
        full = joined(part, ".".join(way[:at]))
        if (full, way[at]) not in numbers:
            counts[full] = counts.get(full, 0) + 1
            numbers[full, way[at]] = counts[full]
        rows.append(f"{title} {numbers[full, way[at]]}")
    return rows


def _ticked(words: MethodWords | None, way: list[str]) -> str:
    """What a tick, a caution or a loose end is called; by its key where its method is of before it named them."""
    plain = way[-1].replace("-", " ")
    step = words.steps.get(way[1], way[1].replace("-", " ")) if words else ""
    if way[0] == "tick" and words and ".".join(way[1:]) in words.ticks:
        return f"{step}: {words.ticks['.'.join(way[1:])]}"
    if way[0] == "caution" and step:
        return f"{step}: what to beware of"
    if way[0] == "loose":
        return f"Put back: {words.loose.get(way[-1], plain) if words else plain}"
    return plain.capitalize()


def _last(words: MethodWords, rest: str, way: list[str]) -> str:
    """What the last word of a path is called where the inputs of its method know it."""
    plain = way[-1].replace("_", " ")
    if rest in WORDS or rest.startswith(UNTITLED):
        return WORDS.get(rest, plain[:1].upper() + plain[1:])
    return called(words, way[1:] if way[0] == "inputs" else way) or plain


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
