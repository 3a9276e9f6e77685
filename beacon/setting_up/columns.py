"""The columns of a plant's spreadsheet: what each is called, what it is kept as, and an example."""

import re
from dataclasses import dataclass

from wary.machines import all_machines
from wary.machines.machine import Machine


@dataclass(frozen=True)
class Column:
    """One column: its header, the field that it is kept in, what to write there, and whether it must be filled."""

    title: str
    key: str
    say: str = ""
    needed: bool = False


SYSTEM = (
    Column("Name", "name", "as it is called on site", needed=True),
    Column("Site", "site", "a site that is not there yet is made", needed=True),
    Column("Material", "material", "what runs over it"),
    Column("Serial number", "serial"),
    Column("Channels", "channels", "what is calibrated by itself, with commas between; nothing for the usual ones"),
    Column("Factor", "factor", "the one in the instrument now"),
    Column("Decimals of the factor", "factor_decimals", "as many as the instrument takes"),
    Column("The factor", "direction", "multiplies or divides"),
    Column("Factor it should be near", "nominal_factor"),
    Column("Days between visits", "interval_days"),
    Column("Reference", "reference", "by its name: on record, or on the sheet References"),
    Column("Notes", "notes"),
)
KIND = Column("Kind", "kind", "where one table holds several kinds", needed=True)
REFERENCE = (
    Column("Name", "name", "as it is called on site", needed=True),
    Column("Kind", "kind", "scale, weights or container", needed=True),
    Column("Division", "division", "of a scale: 20 kg"),
    Column("Range", "range", "of a scale: 60 t"),
    Column("Uncertainty", "uncertainty", "expanded, from its certificate: 10 kg or 0.05 %"),
    Column("Nominal", "nominal", "of weights, all of them together: 500 kg"),
    Column("Tare", "tare", "of a container: 42 kg"),
    Column("Certificate", "certificate"),
    Column("In date until", "due", "2031-05-04"),
    Column("Checked by", "checked_by"),
    Column("Lent by", "lent_by"),
    Column("Written on it", "label"),
)
PERSON = (
    Column("Name", "name", needed=True),
    Column("Address", "username", "of their mail: they sign in with it", needed=True),
    Column("Role", "role", "technician, lead or reader", needed=True),
    Column("Sites", "sites", "of a reader: with commas between; nothing for all"),
)
REFERENCES, PEOPLE = "References", "People"


def plate_columns(machine: Machine) -> tuple[Column, ...]:
    """The plates of a kind of machine as columns, by what they are called there."""
    titles = machine.titles()
    return tuple(Column(titles[plate.key], f"plates.{plate.key}", _unit(plate.units)) for plate in machine.plates)


def _unit(units: tuple[str, ...]) -> str:
    return f"with its unit, or a bare number in {units[0]}" if units and units[0] else ""


_UNIT = re.compile(r"\s*[(\[].*[)\]]\s*$")


def bare(header: str) -> str:
    """A header as it is compared: without a unit in brackets, and without case."""
    return _UNIT.sub("", header).strip().lower()


SHEET_TITLE = 31
"""A sheet's title holds so many letters."""


def kind_of(words: str) -> Machine | None:
    """A kind of machine by its title, as far as a sheet's title holds it, or by its key."""
    wanted = words.strip().lower()
    known = all_machines().values()
    return next((one for one in known if wanted in (one.title.lower(), one.title[:SHEET_TITLE].lower(), one.key)), None)
