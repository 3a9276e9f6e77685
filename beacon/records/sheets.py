"""Papers beside the certificate: the work sheet with every reading, stickers, and the label of a system."""

import json
from collections.abc import Iterator
from typing import Any
from zoneinfo import ZoneInfo

from django.conf import settings

from beacon.plant.models import System
from beacon.records.certificate import parts_of, when
from beacon.records.models import Record
from beacon.records.printing import pdf, qr
from wary.job.places import Parts, list_at, split
from wary.job.titles import belongs_to
from wary.methods import all_methods

Content = dict[str, Any]
STICKERS = {"62x29": ("62mm", "29mm"), "a7": ("105mm", "74mm")}
"""The sizes of a sticker, by name: width and height."""
SOURCES = {"typed": "", "captured": "from the display", "imported": "brought in", "record": "on record"}


def work_sheet(record: Record) -> bytes:
    """Every reading of a sealed job with who and when, as PDF."""
    return pdf("work_sheet", about_work_sheet(record))


def about_work_sheet(record: Record) -> Content:
    """What a work sheet says: the entries in their order, part by part, each where it stands and whether it still does."""
    content = json.loads(record.content)
    zone = ZoneInfo(record.job.channel.system.site.time_zone)
    visit = content.get("visit") or []
    methods = {one["part"]: one["method"] for one in visit} | {"": content["method"]}
    titles = {one["part"]: one.get("title") or all_methods()[one["method"]].title for one in visit}
    parts: Parts = tuple(methods.items())
    replaced = _replaced(content["trail"])
    numbers: dict[tuple[str, str], int] = {}
    sections: dict[str, list[Content]] = {}
    for entry in content["trail"]:
        part, _ = split(entry["path"])
        part = part if part in methods else ""
        sections.setdefault(part, []).append(
            {
                "where": where(parts, entry["path"], numbers),
                "text": "taken back" if entry["undoes"] else f"{entry['text']} {entry['unit']}".strip() or "emptied",
                "who": entry["who"],
                "at": when(entry["at"], zone),
                "source": SOURCES.get(entry["source"], entry["source"]),
                "gone": entry["id"] in replaced,
            }
        )
    order = [key for key, _ in parts_of(content)]
    return {
        "record": record,
        "system": content["system"],
        "closing": content["closing"],
        "closed": when(content["closing"]["closed_at"], zone),
        "sections": [
            {"title": titles.get(key) or all_methods()[methods[key]].title, "rows": sections[key]}
            for key in sorted(sections, key=lambda key: order.index(key) if key in order else len(order))
        ],
        "papers": content.get("papers", []),
        "supersedes": content.get("supersedes"),
    }


def _replaced(trail: list[Content]) -> set[str]:
    """The ids of entries that a later one at the same place took the place of."""
    latest: dict[str, str] = {}
    gone = set()
    for entry in trail:
        if entry["undoes"]:
            gone.add(entry["supersedes"])
            continue
        if entry["path"] in latest:
            gone.add(latest[entry["path"]])
        latest[entry["path"]] = entry["id"]
    return gone


def where(parts: Parts, path: str, numbers: dict[tuple[str, str], int]) -> str:
    """A place in words, its rows by their number: `Runs 2, gross`. `numbers` remembers the rows that were met."""
    part, rest = split(path)
    words = rest.split(".")
    rows = [f"{title} {number}" for title, number in _rows(parts, part, words, numbers)]
    last = belongs_to(parts, path) or rest.replace(".", " ").replace("_", " ")
    if rest.startswith("references."):
        return f"Reference, {words[-1].replace('_', ' ')}"
    if rest.startswith(("tick.", "caution.", "loose.")):
        return f"{words[0].capitalize()}: {words[-1].replace('-', ' ')}"
    return ", ".join([*rows, last.lower() if rows else last])


def _rows(parts: Parts, part: str, words: list[str], numbers: dict[tuple[str, str], int]) -> Iterator[tuple[str, int]]:
    for place in range(1, len(words)):
        full = f"{part}/{'.'.join(words[:place])}" if part else ".".join(words[:place])
        listed = list_at(parts, full)
        if listed is None:
            continue
        row = (full, words[place])
        if row not in numbers:
            numbers[row] = 1 + sum(1 for known, _ in numbers if known == full)
        yield listed.title, numbers[row]


def sticker(record: Record, size: str) -> bytes:
    """What is stuck on the machine: date, due, by whom, factor, and a QR code to the record."""
    content = json.loads(record.content)
    zone = ZoneInfo(record.job.channel.system.site.time_zone)
    system, closing = record.job.channel.system, content["closing"]
    width, height = STICKERS[size]
    summary = record.job.summary or {}
    return pdf(
        "sticker",
        {
            "width": width,
            "height": height,
            "large": size == "a7",
            "record": record,
            "system": content["system"],
            "closed": when(closing["closed_at"], zone)[:10],
            # The next date belongs to the latest record; an older sticker does not promise it.
            "due": system.due.isoformat() if system.due and (system.last or {}).get("record") == str(record.id) else "",
            "by": closing["closed_by"],
            "words": closing["words"],
            "factor_name": content["system"].get("factor_name", "factor"),
            "factor": summary.get("factor_after") or summary.get("factor_before") or "",
            "qr": qr(f"{settings.PUBLIC_URL}/records/{record.id}"),
        },
    )


def label(system: System) -> bytes:
    """The label of a system, whose QR code opens its page."""
    return pdf("label", {"system": system, "qr": qr(f"{settings.PUBLIC_URL}/systems/{system.id}")})
