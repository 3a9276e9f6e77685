"""A log of loads: rows in from CSV, what a live weight says of where a load begins and ends.

A load is open while it is filled, recording once its weight is being read, and stored when it is
kept. One that moved before it was stored is marked, since what it showed then is not what was in it.
"""

import datetime
from collections import deque
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from wary.clean import on_a_clock
from wary.job.csv_in import lines_of
from wary.job.file import Refusal, Refused
from wary.live import Live, Readout
from wary.quantities import FAMILY_OF, NotAQuantity, from_si, quantity, shown, to_si
from wary.typed import as_in_a_file

MOST_ROWS = 20_000
MOST_NUMBER = 2**31 - 1
COLUMNS = ("number", "start", "end", "indicated", "operator", "destination", "material", "ticket", "moved")
ALSO = {
    "no": "number", "no.": "number", "load": "number", "begin": "start", "began": "start", "from": "start", "until": "end",
    "weight": "indicated", "shown": "indicated", "mass": "indicated", "driver": "operator", "who": "operator", "to": "destination",
    "product": "material", "certified": "ticket",
}  # fmt: skip
"""Header names that people use, and the column that each means."""


@dataclass(frozen=True)
class LoadRow:
    """One load from a file: masses as a job file writes them, empty where nothing is given; times aware."""

    line: int
    number: int | None
    start: datetime.datetime
    end: datetime.datetime | None
    indicated: str
    operator: str
    destination: str
    material: str
    ticket: str
    moved: bool


def mass_text(text: str, unit: str) -> str:
    """A mass as it was typed, as a job file writes it. Raises NotAQuantity with a sentence; below zero is no load."""
    found = quantity(as_in_a_file(text, "mass", unit), "mass")
    if found.si < 0:
        raise NotAQuantity(f"“{text}” is below zero; expected a mass of zero or more")
    return found.text


def loads_in(content: bytes, unit: str, zone: datetime.tzinfo, now: datetime.datetime) -> list[LoadRow]:
    """The loads of a CSV file; `unit` is for a bare figure, `zone` for a time without one, `now` what no load is far ahead of.

    Raises Refused with every row that cannot be taken, by its line; then none is.
    """
    lines = lines_of(content, MOST_ROWS)
    rows = [row for _, row in lines]
    header = [_column(title) for title in rows[0]]
    unknown = [
        title.strip() for title, key in zip(rows[0], header, strict=True) if title.strip() and key not in COLUMNS
    ]
    if unknown or not {"start", "indicated"} <= set(header):
        said = (
            f"{', '.join(unknown)} is no column of a load log" if unknown else "start and indicated are wanted at least"
        )
        raise Refused([Refusal("line 1", f"{said}; expected {', '.join(COLUMNS)}")])
    refusals: list[Refusal] = []
    found = []
    for line, row in lines[1:]:
        cells = dict(zip(header, (cell.strip() for cell in row), strict=False))
        read = _row(line, cells, unit, zone, now, refusals)
        if read:
            found.append(read)
    if refusals:
        raise Refused(refusals)
    return found


def _column(title: str) -> str:
    key = title.strip().lower()
    return key if key in COLUMNS else ALSO.get(key, key)


def _row(
    line: int, cells: dict[str, str], unit: str, zone: datetime.tzinfo, now: datetime.datetime, refusals: list[Refusal]
) -> LoadRow | None:
    before = len(refusals)

    def refuse(key: str, text: str) -> None:
        refusals.append(Refusal(f"line {line}, {key}", text))

    def at(key: str) -> datetime.datetime | None:
        text = cells.get(key, "")
        if not text:
            return None
        try:
            moment = datetime.datetime.fromisoformat(text)
        except ValueError:
            refuse(key, f"“{text}” is no time; expected one such as 2031-05-04 14:20")
            return None
        try:
            return on_a_clock(moment if moment.tzinfo else moment.replace(tzinfo=zone), now)
        except ValueError as beyond:
            refuse(key, f"“{text}” {beyond}")
            return None

    def mass(key: str) -> str:
        text = cells.get(key, "")
        try:
            return mass_text(text, unit) if text else ""
        except NotAQuantity as unread:
            refuse(key, str(unread))
            return ""

    number = cells.get("number", "")
    if number and not (number.isascii() and number.isdecimal() and int(number[:20]) <= MOST_NUMBER):
        refuse("number", f"“{number[:40]}” is no number of a load; expected a whole number up to {MOST_NUMBER}")
    start, end = at("start"), at("end")
    if not cells.get("start"):
        refuse("start", "when did the load begin? Expected a time such as 2031-05-04 14:20")
    if start and end and end < start:
        refuse("end", "the load ends before it begins")
    indicated, ticket = mass("indicated"), mass("ticket")
    if len(refusals) > before or start is None:
        return None
    words = {key: cells.get(key, "")[:80] for key in ("operator", "destination", "material")}
    moved = cells.get("moved", "").lower() in ("yes", "true", "1", "x")
    return LoadRow(line, int(number) if number else None, start, end, indicated, ticket=ticket, moved=moved, **words)


@dataclass(frozen=True)
class Rise:
    """What a live weight came to: a load from second `start` to second `end`, its mass in kg, whether it moved before the end."""

    start: float
    end: float
    mass: float
    moved: bool


class LoadWatch:
    """Loads that a live weight tells of, reading by reading: from one steady stretch to the next that is heavier by `least`.

    A stretch is steady where readings stay within `band` (kg) for so many seconds. A rise that falls
    back by more than the band before it has stood so long had moved before it could be stored.
    """

    def __init__(self, band: float, least: float, seconds: float = 3.0) -> None:
        self.band, self.least, self.seconds = band, least, seconds
        self.began: float | None = None
        self._base: float | None = None
        self._highest: float | None = None
        self._stretch: deque[tuple[float, float]] = deque(maxlen=4096)

    @property
    def base(self) -> float | None:
        """What it stood at last, in kg; None before it has stood once."""
        return self._base

    def resume(self, base: float | None) -> None:
        """Goes on from what it stood at when it was last looked at, in kg."""
        self._base = base

    def take(self, at: float, weight: float) -> Rise | None:
        """A reading (seconds, kg), later than the one before; the load that is over by it, if one is.

        `began` says whether one is under way.
        """
        stretch, band = self._stretch, self.band
        while stretch and any(abs(one[1] - weight) > band for one in stretch):
            stretch.popleft()
        stretch.append((at, weight))
        base = self._base
        if base is not None and weight > base + self.least:
            self.began = at if self.began is None else self.began
            self._highest = weight if self._highest is None else max(self._highest, weight)
        if at - stretch[0][0] < self.seconds:
            return None
        mean = sum(one[1] for one in stretch) / len(stretch)
        rise = self._over(at, mean)
        self._base, self.began, self._highest = mean, None, None
        return rise

    def _over(self, at: float, mean: float) -> Rise | None:
        if self._base is None or self.began is None or self._highest is None:
            return None
        if mean > self._base + self.least:
            return Rise(self.began, at, mean - self._base, self._highest > mean + 2 * self.band)
        return Rise(self.began, at, self._highest - self._base, True)


def steady_changes(
    readings: Iterable[tuple[float, float]], band: float, least: float, seconds: float = 3.0
) -> list[Rise]:
    """The loads that readings (seconds, kg) in their order tell of, as a `LoadWatch` finds them."""
    watch = LoadWatch(band, least, seconds)
    return [rise for at, weight in readings if (rise := watch.take(at, weight))]


# --- what a log of loads keeps ----------------------------------------------------------------

LOAD_DIVISIONS, LOAD_SHARE, USUAL_DIVISION = 20, 0.01, 10.0
"""A rise is a load from so many divisions, or from this share of the capacity on; a division in kg where none is on record."""


def least_load(plates: Mapping[str, object]) -> tuple[float, float]:
    """The division of a machine and the least rise that is a load on it, both in kg, by its plates."""
    division = _kg(plates.get("indicated_division")) or USUAL_DIVISION
    return division, max(LOAD_DIVISIONS * division, LOAD_SHARE * (_kg(plates.get("capacity")) or 0.0))


def _kg(text: object) -> float | None:
    try:
        return kg_of(str(text or ""))
    except NotAQuantity:
        return None


def kg_of(text: str) -> float | None:
    """A mass in kg; None for an empty text. Raises NotAQuantity for what is no mass."""
    return quantity(text, "mass").si if text else None


def mass_of(live: Live) -> Readout | None:
    """The readout that is a mass and can be taken."""
    return next((one for one in live.readouts if FAMILY_OF.get(one.unit) == "mass" and not one.fault), None)


def kg_shown(readout: Readout) -> float:
    """What a readout of a mass shows, in kg."""
    return to_si(readout.value, readout.unit)


def in_words(kg: float, unit: str, division: float = 0.0) -> str:
    """A mass in a unit as a log writes it, in whole divisions (kg) where one is given."""
    whole = round(kg / division) * division if division else kg
    return f"{shown(from_si(whole, unit), 6)} {unit}"
