"""The certificate of a sealed record: made from what was sealed and nothing else."""

import base64
from collections.abc import Iterator
from typing import Any

from django.conf import settings

from beacon.attachments.keeping import file_of
from beacon.attachments.models import Attachment
from beacon.printing.pdf import pdf, qr
from beacon.records.models import Record
from beacon.records.wording import Content, paper_in


def certificate(record: Record) -> bytes:
    """The certificate as PDF."""
    return pdf("certificate", about(record))


def about(record: Record) -> Content:
    """What the certificate says, by the names that its template uses."""
    content, paper = paper_in(record)
    return {
        "record": record,
        "system": content["system"],
        "references": content.get("references", []),
        "loosened": [entry for entry in content["trail"] if entry["path"].startswith("profile.") and entry["text"]],
        "occasion": content.get("occasion", "routine"),
        "closing": content["closing"],
        "people": sorted({entry["who"] for entry in content["trail"]}),
        "papers": content.get("papers", []),
        "shown": list(_shown(record, content)),
        "supersedes": content.get("supersedes"),
        "written_by": content.get("written_by", ""),
        "superseded_by": getattr(record, "superseded_by", None),
        "qr": qr(f"{settings.PUBLIC_URL}/records/{record.id}#{record.sha256}"),
        **{key: paper[key] for key in PRINTED},
        "machine": paper.get("machine"),
        "parts": [_bounded(part) for part in paper["parts"]],
    }


PRINTED = ("title", "plates", "against", "limits", "conditions", "note", "opened", "closed")
MOST_ROWS = 120
"""So many rows of a list stand on a certificate; the others are in the readings of its record, as CSV."""


def _bounded(part: Content) -> Content:
    """A part with no more rows of each list than a certificate holds; where the rest is stands below them."""
    stages = [stage | {"rows": stage["rows"][:MOST_ROWS], "more": _more(stage["rows"])} for stage in part["stages"]]
    tables = [table | {"rows": table["rows"][:MOST_ROWS], "more": _more(table["rows"])} for table in part["tables"]]
    return part | {"stages": stages, "tables": tables}


def _more(rows: list[Any]) -> str:
    if len(rows) <= MOST_ROWS:
        return ""
    return f"{len(rows) - MOST_ROWS} more rows, up to row {len(rows)}, are in the readings of this record (CSV); all of them are sealed."


def _shown(record: Record, content: Content) -> Iterator[Content]:
    """The photographs that were chosen for the certificate, as pictures to stand in a page."""
    chosen = {one["id"]: one for one in content.get("papers", []) if one["on_certificate"] and not one["set_aside"]}
    for paper in record.job.attachments.filter(id__in=chosen).exclude(kind=Attachment.Kind.PDF):
        try:
            picture = base64.b64encode(file_of(paper)).decode()
        except OSError:
            continue
        yield chosen[str(paper.id)] | {"picture": f"data:{paper.kind};base64,{picture}"}
