"""A plant's spreadsheet taken in: every row is tried as it would be kept, and either all are kept or none.

The organisation is locked meanwhile, so that the same file sent twice at once is taken once: the second
finds everything on record.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any

from django.conf import settings
from django.db import transaction
from pydantic import ValidationError

from beacon.people.access import locked
from beacon.people.keeping import PersonIn, invitation_link, take_in
from beacon.people.me import RoleWord
from beacon.people.models import Membership, Organisation, Person
from beacon.plant import schemas
from beacon.plant.keeping import keep_reference, new_system, site_named
from beacon.plant.models import Reference, Site, System
from beacon.problems import Problem
from beacon.setting_up.columns import (
    KIND,
    PEOPLE,
    PERSON,
    REFERENCE,
    REFERENCES,
    SYSTEM,
    Column,
    bare,
    kind_of,
    plate_columns,
)
from beacon.setting_up.reading import Row

READ_FIRST = "read first"
LONGEST_SITE = 120
ROLES: dict[str, RoleWord] = {"technician": "technician", "lead": "lead", "reader": "reader"}


@dataclass
class Line:
    """What became of one row: what it is and is called, or why it is refused."""

    sheet: str
    line: int
    what: str
    name: str
    where: str = ""
    refused: list[str] = field(default_factory=list)


@dataclass
class Taken:
    """What a file came to: its rows, the sites that are new, and the people who are invited."""

    lines: list[Line] = field(default_factory=list)
    sites: list[str] = field(default_factory=list)
    invited: list[tuple[str, str, str]] = field(default_factory=list)
    """Name, address and the secret of the link of each."""

    @property
    def refused(self) -> int:
        return sum(bool(line.refused) for line in self.lines)

    def view(self, keep: bool) -> dict[str, Any]:
        """What it came to, by the fields of SetUpView; with a link where one is to be handed over."""
        return {
            "taken": keep and not self.refused,
            "lines": [vars(line) for line in self.lines],
            "refused": self.refused,
            "new_sites": self.sites,
            "mailed": settings.BY_MAIL,
            "invited": [{"name": n, "address": a, "link": invitation_link(s)} for n, a, s in self.invited],
        }


class _OnlyTried(Exception):
    """Takes back what was kept for a trial."""


class Refused(ValueError):
    """A row that cannot be kept; `why` are its sentences."""

    def __init__(self, *why: str) -> None:
        super().__init__(" ".join(why))
        self.why = why


def take(
    user: Person,
    here: Organisation,
    rows: Sequence[Row],
    keep: bool,
    going: Callable[[int], None] = lambda done: None,
    done: Callable[[Taken], None] = lambda taken: None,
) -> Taken:
    """Tries every row as it would be kept; keeps all of them where that was asked for and none was refused.

    `going` hears how many rows were tried; `done` what it came to, in the transaction of what is kept.
    """
    taken = Taken()
    try:
        with transaction.atomic():
            _Taking(user, locked(here), taken, going).take(rows)
            if not keep or taken.refused:
                raise _OnlyTried
            done(taken)
    except _OnlyTried:
        taken.invited = []
        done(taken)
    return taken


class _Taking:
    def __init__(self, user: Person, here: Organisation, taken: Taken, going: Callable[[int], None]) -> None:
        self.user, self.here, self.taken, self.going = user, here, taken, going
        self.sites = {site.name.lower(): site for site in here.sites.all()}

    def take(self, rows: Sequence[Row]) -> None:
        """References first, since systems name them; then systems, then people."""
        order: list[tuple[Callable[[Row], None], list[Row]]] = [
            (self._reference, []),
            (self._system, []),
            (self._person, []),
        ]
        for row in rows:
            if row.sheet.strip().lower() != READ_FIRST:
                order[_table(row)][1].append(row)
        for keep, some in order:
            for row in some:
                keep(row)
                self.going(len(self.taken.lines))
        sheets = list(dict.fromkeys(row.sheet for row in rows))
        self.taken.lines.sort(key=lambda line: (sheets.index(line.sheet), line.line))

    def _kept(self, row: Row, what: str, name: str, where: str, keep: Callable[[], Any]) -> None:
        line = Line(row.sheet, row.line, what, name, where)
        self.taken.lines.append(line)
        try:
            # What is half kept when a row is refused is taken back with it.
            with transaction.atomic():
                keep()
        except Refused as refused:
            line.refused += refused.why
        except Problem as problem:
            line.refused += [error["text"] for error in problem.errors] or [problem.detail or problem.title]
        except ValidationError as unread:
            line.refused += [_in_words(error) for error in unread.errors()]

    def _reference(self, row: Row) -> None:
        name = row.cells.get("Name", "")

        def keep() -> None:
            given = _fields(row, REFERENCE)
            if Reference.objects.filter(organisation=self.here, name__iexact=given["name"], practice=False).exists():
                raise Refused(f"{given['name']} is on record already.")
            if given["kind"].lower() not in ("scale", "weights", "container"):
                raise Refused(f"“{given['kind']}” is no kind of reference; write scale, weights or container.")
            given["kind"] = given["kind"].lower()
            keep_reference(Reference(organisation=self.here), schemas.ReferenceIn(**given))

        self._kept(row, "reference", name, "", keep)

    def _system(self, row: Row) -> None:
        machine = kind_of(row.cells.get(_header(row, KIND), "") or row.sheet)
        cells = {bare(header): text for header, text in row.cells.items()}

        def keep() -> None:
            if machine is None:
                raise Refused(
                    "Which kind of machine is it? Put it on the sheet of its kind, or write the kind under “Kind”."
                )
            given = _fields(row, (*SYSTEM, KIND, *plate_columns(machine)))
            given.pop("kind", None)
            if len(given["site"]) > LONGEST_SITE:
                raise Refused(f"“Site” is longer than {LONGEST_SITE} letters.")
            site = self.sites[given.pop("site").strip().lower()]
            name = given["name"]
            if System.objects.filter(site=site, name__iexact=name, practice=False).exists():
                raise Refused(f"{name} is on record already at {site.name}.")
            plates = {key.removeprefix("plates."): given.pop(key) for key in list(given) if key.startswith("plates.")}
            channels = [one.strip() for one in given.pop("channels", "").split(",") if one.strip()]
            if reference := given.pop("reference", ""):
                given["reference"] = self._named(reference)
            if "direction" in given:
                given["direction"] = given["direction"].lower()
            asked = schemas.NewSystem(**given, site=site.id, kind=machine.key, channels=channels, plates=plates)
            new_system(self.user, site, asked)

        what = machine.title if machine else "system"
        if 0 < len(cells.get("site", "")) <= LONGEST_SITE:
            # Made outside of what is taken back with its row: the rows after it are at that site, too.
            self._site(cells["site"])
        self._kept(row, what, cells.get("name", ""), cells.get("site", ""), keep)

    def _site(self, name: str) -> Site:
        """A site by its name; one that is not there yet is made, in the zone of the others."""
        known = name.strip().lower()
        if known not in self.sites:
            self.sites[known] = site_named(self.here, name)
            self.taken.sites.append(self.sites[known].name)
        return self.sites[known]

    def _named(self, name: str) -> Any:
        found = Reference.objects.filter(organisation=self.here, name__iexact=name, practice=False).first()
        if found is None:
            raise Refused(f"There is no reference of the name “{name}”, on record or on the sheet {REFERENCES}.")
        return found.id

    def _person(self, row: Row) -> None:
        def keep() -> None:
            given = _fields(row, PERSON)
            role = given["role"].lower()
            if role not in ROLES:
                raise Refused(f"“{given['role']}” is no role; write technician, lead or reader.")
            address = given["username"].lower()
            if Membership.objects.filter(organisation=self.here, person__username=address).exists():
                raise Refused(f"{address} is here already.")
            if self.here.invitations.filter(address=address, used_at=None).exists():
                raise Refused(f"{address} is invited already.")
            named = [one.strip() for one in given.get("sites", "").split(",") if one.strip()]
            unknown = [one for one in named if one.lower() not in self.sites]
            if unknown:
                raise Refused(f"There is no site “{unknown[0]}”.")
            asked = PersonIn(
                username=address,
                name=given["name"],
                role=ROLES[role],
                sites=[self.sites[one.lower()].id for one in named],
            )
            kept = take_in(self.user, self.here, asked)
            if isinstance(kept, tuple):
                self.taken.invited.append((given["name"], address, kept[1]))

        self._kept(row, "person", row.cells.get("Name", ""), "", keep)


def _table(row: Row) -> int:
    """Which of the three a row belongs to: by its sheet's name, or by what only one of them has."""
    sheet = row.sheet.strip().lower()
    headers = {bare(header) for header in row.cells}
    if sheet == REFERENCES.lower() or (
        kind_of(sheet) is None and headers & {"certificate", "in date until", "nominal"}
    ):
        return 0
    if sheet == PEOPLE.lower() or (kind_of(sheet) is None and "role" in headers):
        return 2
    return 1


def _header(row: Row, column: Column) -> str:
    return next((header for header in row.cells if bare(header) == column.title.lower()), column.title)


def _fields(row: Row, columns: Iterable[Column]) -> dict[str, str]:
    """A row by the fields of its columns. Raises Refused for a header that is none, and where one that is needed is empty."""
    by_title = {bare(column.title): column for column in columns}
    found: dict[str, str] = {}
    why = []
    for header, text in row.cells.items():
        column = by_title.get(bare(header))
        if column is None:
            why.append(f"“{header}” is no column here. Name it as in the template, or leave it out.")
        else:
            found[column.key] = text
    why += [
        f"“{column.title}” is empty."
        for column in by_title.values()
        if column.needed and not found.get(column.key) and column is not KIND
    ]
    if why:
        raise Refused(*why)
    return found


def _in_words(error: Any) -> str:
    """What is wrong with a field, as a sentence."""
    name = str(error["loc"][0]).replace("_", " ").capitalize() if error["loc"] else "It"
    said = error.get("ctx", {}).get("error") or error["msg"]
    return f"{name}: {str(said)[:1].lower()}{str(said)[1:]}."
