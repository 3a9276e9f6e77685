"""The instruments of a system as its benches name them, and where one of them is."""

from typing import Any

from django.http import Http404

from beacon.links.hub import Where
from beacon.links.models import Link
from beacon.plant.models import System
from wary.reading import Taught


def links_of(system: System) -> list[dict[str, Any]]:
    """The instruments from which the benches of a system may take their readings."""
    keys = ("id", "name", "way", "baud")
    return [{key: getattr(link, key) for key in keys} for link in system.links.filter(off=False)]


def where_of(link: Link) -> Where:
    """Where an instrument on the network is read. Raises Http404 for one that is off, or not on it."""
    if link.way != Link.Way.NETWORK or link.address is None or link.off:
        raise Http404
    return Where(str(link.id), link.address, link.port, Taught.of(link.pattern, link.unit, link.most))
