"""Papers beside the certificate: the work sheet with every reading, stickers, and the label of a system."""

from collections.abc import Iterator
from typing import Any
from zoneinfo import ZoneInfo

from django.conf import settings

from beacon.plant.models import Reference, System
from beacon.printing.pdf import pdf, qr
from beacon.records.models import Record
from beacon.records.wording import AT_ONCE, Content, paper_in, said_in, sheets_of, when

STICKERS = {"62x29": ("62mm", "29mm"), "a7": ("105mm", "74mm")}
"""The sizes of a sticker, by name: width and height."""
SOURCES = {"typed": "", "captured": "from the display", "imported": "brought in", "record": "on record"}


def work_sheet(record: Record, number: int = 1) -> bytes:
    """Every reading of a sealed job with who and when, as PDF; of a long job the sheet of this number, from 1."""
    return pdf("work_sheet", about_work_sheet(record, number))


def about_work_sheet(record: Record, number: int = 1) -> Content:
    """What a work sheet says: the entries in their order, part by part, each where it stands and whether it still does."""
    content, paper = paper_in(record)
    zone = ZoneInfo(paper["zone"])
    trail, gone = content["trail"], _replaced(content["trail"])
    first, last = (number - 1) * AT_ONCE, number * AT_ONCE
    place = 0
    sections = []
    for section in paper["sections"]:
        rows = []
        for one in section["entries"]:
            if first <= place < last:
                rows.append(_row(trail[one], paper["places"][one], said_in(paper, one), zone, gone))
            place += 1
        if rows:
            sections.append({"title": section["title"], "rows": rows})
    return {
        "record": record,
        "system": content["system"],
        "closing": content["closing"],
        "closed": paper["closed"],
        "sections": sections,
        "number": number,
        "sheets": sheets_of(len(trail)),
        "papers": content.get("papers", []),
        "supersedes": content.get("supersedes"),
    }


def _row(entry: Content, where: str, said: str | None, zone: ZoneInfo, gone: set[str]) -> Content:
    typed = f"{entry['text']} {entry['unit']}".strip()
    return {
        "where": where,
        "text": "taken back" if entry["undoes"] else (said or typed) or "emptied",
        "who": entry["who"],
        "at": when(entry["at"], zone),
        "source": SOURCES.get(entry["source"], entry["source"]),
        "gone": entry["id"] in gone,
    }


READINGS = ("where", "as it was typed", "by", "when", "where from", "still stands")


def readings(record: Record) -> Iterator[list[Any]]:
    """Every entry of a record as rows of a table, in the order in which they were kept."""
    content, paper = paper_in(record)
    zone, gone = ZoneInfo(paper["zone"]), _replaced(content["trail"])
    for entry, where in zip(content["trail"], paper["places"], strict=True):
        row = _row(entry, where, None, zone, gone)
        yield [
            row["where"],
            row["text"],
            row["who"],
            entry["at"],
            row["source"] or "typed",
            "no" if row["gone"] else "yes",
        ]


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


def sticker(record: Record, size: str) -> bytes:
    """What is stuck on the machine: date, due, by whom, factor, and a QR code to the record."""
    content, paper = paper_in(record)
    closing = content["closing"]
    width, height = STICKERS[size]
    latest = (record.job.channel.system.last or {}).get("record") == str(record.id)
    return pdf(
        "sticker",
        {
            "width": width,
            "height": height,
            "large": size == "a7",
            "record": record,
            "system": content["system"],
            "closed": paper["closed"][:10],
            # The next date belongs to the latest record; an older sticker does not promise it.
            "due": paper["due"] if latest else "",
            "by": closing["closed_by"],
            "words": closing["words"],
            "factor_name": content["system"].get("factor_name", "factor"),
            "factor": paper["factor"],
            "qr": qr(f"{settings.PUBLIC_URL}/records/{record.id}"),
        },
    )


def label(system: System) -> bytes:
    """The label of a system, whose QR code opens its page."""
    says = "its page: what it is, how it has behaved, when it is due"
    lines = [line for line in (system.site.name, system.serial, says) if line]
    return pdf("label", {"title": system.name, "lines": lines, "qr": qr(f"{settings.PUBLIC_URL}/systems/{system.id}")})


def reference_label(reference: Reference) -> bytes:
    """The label of a reference, whose QR code names it wherever one is chosen, and opens its page."""
    size = reference.nominal or reference.tare or reference.range
    lines = [line for line in (reference.label, size, reference.certificate) if line]
    address = f"{settings.PUBLIC_URL}/references/{reference.id}"
    return pdf("label", {"title": reference.name, "lines": lines, "qr": qr(address)})
