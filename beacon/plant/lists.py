"""Lists that a site writes for its machines, and that methods begin with."""

from collections.abc import Mapping

from beacon.plant.models import System
from wary.machines.machine import OwnList

MOST_ROWS = 100


def lists_of(system: System) -> dict[str, tuple[OwnList, list[dict[str, str]]]]:
    """What the lists of this kind of machine are, each with the rows that its site wrote, or the plain ones."""
    return {
        name: (own, system.lists.get(name, [dict(row) for row in own.rows]))
        for name, own in system.machine.lists.items()
    }


def own_rows(system: System, given: Mapping[str, list[dict[str, str]]]) -> dict[str, list[dict[str, str]]]:
    """The lists that a site wrote, of those that its kind of machine has; rows of nothing are left out."""
    kept = {}
    for name, rows in given.items():
        if name in system.machine.lists:
            keys = [key for key, _ in system.machine.lists[name].columns]
            written = [{key: row[key].strip() for key in keys if row.get(key, "").strip()} for row in rows[:MOST_ROWS]]
            kept[name] = [row for row in written if row]
    return kept


def in_words(rows: list[dict[str, str]]) -> str:
    """The rows of a list in one line, for the trail."""
    return "; ".join(", ".join(row.values()) for row in rows)
