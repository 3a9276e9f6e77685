"""All certificates of a period in one file: a ZIP with a PDF of each, or one PDF of all of them."""

import datetime
import io
import re
import zipfile
from collections.abc import Iterable, Iterator

from django.db.models import QuerySet

from beacon.printing.certificate import certificate
from beacon.problems import Problem
from beacon.records.models import Record

MOST_IN_A_ZIP, MOST_IN_A_PDF = 200, 60
"""So many certificates are put together while somebody waits."""


def in_period(records: QuerySet[Record], since: datetime.date | None, until: datetime.date | None) -> QuerySet[Record]:
    """Those of these records that were sealed from a day to a day (UTC), without those that another has put right."""
    records = records.filter(superseded_by=None)
    if since:
        records = records.filter(sealed_at__gte=_begin(since))
    if until and until < datetime.date.max:
        records = records.filter(sealed_at__lt=_begin(until + datetime.timedelta(days=1)))
    return records.order_by("sealed_at")


def _begin(day: datetime.date) -> datetime.datetime:
    return datetime.datetime.combine(day, datetime.time(), datetime.UTC)


def chosen(records: QuerySet[Record], most: int) -> list[Record]:
    """The records that are put together. Raises Problem 422 where there is none, or more than go into one file."""
    found = list(records[: most + 1])
    if not found:
        raise Problem(422, "No certificate in this period", "Nothing was closed there. Choose other days.")
    if len(found) > most:
        raise Problem(422, "Too many certificates for one file", f"There are more than {most}. Choose a shorter period, or one site.")  # fmt: skip
    return found


def as_zip(records: Iterable[Record]) -> Iterator[bytes]:
    """A ZIP as it grows: one certificate is printed after the other, so that it begins to come at once."""
    kept = _Handed()
    with zipfile.ZipFile(kept, "w", zipfile.ZIP_STORED) as packed:
        for record in records:
            name = _name(record)
            try:
                packed.writestr(f"{name}.pdf", certificate(record))
            except Problem as problem:
                # One that cannot be printed says so in its place, and the others come.
                packed.writestr(f"{name}.txt", f"{problem.title}. {problem.detail}")
            yield kept.taken()
    yield kept.taken()


def as_pdf(records: Iterable[Record]) -> Iterator[bytes]:
    """One PDF of all of them, with a bookmark for each: nothing while each is printed, and then the whole."""
    from pypdf import PdfReader, PdfWriter

    whole = PdfWriter()
    for record in records:
        system = record.job.channel.system
        whole.append(PdfReader(io.BytesIO(certificate(record))), outline_item=f"{record.number}, {system.name}")
        yield b""
    kept = io.BytesIO()
    whole.write(kept)
    yield kept.getvalue()


def _name(record: Record) -> str:
    """A file name that says which machine it is of, whatever that is called."""
    words = re.sub(r"[^\w-]+", "-", record.job.channel.system.name).strip("-")[:60]
    return f"{record.sealed_at:%Y-%m-%d}-{record.number}-{words}"


class _Handed(io.RawIOBase):
    """What was written since it was last taken; nothing is kept, and nothing is gone back to."""

    def __init__(self) -> None:
        self._parts: list[bytes] = []
        self._at = 0

    def writable(self) -> bool:
        return True

    def write(self, data: object) -> int:
        part = bytes(data)  # type: ignore[call-overload]
        self._parts.append(part)
        self._at += len(part)
        return len(part)

    def tell(self) -> int:
        return self._at

    def seekable(self) -> bool:
        return False

    def taken(self) -> bytes:
        parts, self._parts = self._parts, []
        return b"".join(parts)
