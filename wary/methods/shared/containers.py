"""Containers that an organisation knows, for the search of slips: one of them may stand in a reading."""

from collections.abc import Sequence

from wary.fields import Inputs, PositiveMass, Words, field
from wary.methods.method import RowsFrom
from wary.rules.reading_slips import Container

CONTAINERS_ON_RECORD = RowsFrom("containers", {"name": "name", "tare": "tare"})
"""The containers that the organisation has on record, each with its tare."""


class KnownContainer(Inputs):
    """A container: its name, and its tare."""

    name: Words | None = field("Container")
    tare: PositiveMass | None = field("Tare")


def known_containers(given: Sequence[KnownContainer] | None) -> tuple[Container, ...]:
    """Those of which the tare is known."""
    return tuple(Container(one.name or "a container", one.tare.si) for one in given or [] if one.tare)
