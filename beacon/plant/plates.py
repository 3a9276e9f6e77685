"""Which plates a system of each kind has, and how they are read."""

from typing import Any

from wary.quantities import FAMILIES, NotAQuantity, Quantity, quantity
from wary.typed import as_in_a_file

_BELT = {
    "idler_spacing": ("Idler spacing", "length"),
    "weigh_idlers": ("Weigh idlers", "integer"),
    "angle": ("Conveyor angle", "angle"),
    "belt_speed": ("Belt speed", "speed"),
    "belt_length": ("Belt length", "length"),
    "revolution_time": ("Time of one belt revolution", "time"),
    "pulses_per_revolution": ("Pulses in one revolution", "number"),
    "rated_rate": ("Rated rate", "rate"),
    "indicated_division": ("Division of the display", "mass"),
}
_CELLS = {
    "cell_capacity": ("Capacity of one load cell", "mass"),
    "cell_count": ("Number of load cells", "integer"),
    "cell_sensitivity": ("Sensitivity of the cells", "signal"),
}
_STILL = {
    "capacity": ("Capacity", "mass"),
    "division": ("Division of the display", "mass"),
    "dead_load": ("Dead load", "mass"),
    "live_capacity": ("Most that is ever in or on it", "mass"),
    "excitation": ("Excitation", "voltage"),
}
PLATES: dict[str, dict[str, tuple[str, str]]] = {
    "belt": {**_BELT, **_CELLS},
    "chain": {**_BELT, **_CELLS},
    "vessel": {**_STILL, **_CELLS},
    "platform": {**_STILL, **_CELLS},
    "pads": {**_STILL, **_CELLS},
    "bench": {**_STILL, **_CELLS},
}
"""Title and kind of each plate, by the kind of system, in the order in which they are read off."""


def fields_for(kind: str) -> list[dict[str, Any]]:
    """The plates that a system of this kind can have: key, title, kind, units."""
    return [
        {"key": key, "title": title, "kind": of, "units": list(FAMILIES.get(of, ()))}
        for key, (title, of) in PLATES[kind].items()
    ]


def read_plates(kind: str, typed: dict[str, Any]) -> tuple[dict[str, Any], list[dict[str, str]]]:
    """Plates as typed, as a record keeps them, and a sentence for each that cannot be read.

    An empty text takes a plate away.
    """
    kept: dict[str, Any] = {}
    wrong = []
    known = PLATES[kind]
    for key, found in typed.items():
        path = f"plates.{key}"
        if key not in known:
            wrong.append({"path": path, "text": f"is not a plate of this kind; expected {', '.join(known)}"})
            continue
        if str(found).strip() == "":
            continue
        title, of = known[key]
        units = FAMILIES.get(of, ("",))
        read = as_in_a_file(str(found), of, units[0])
        try:
            if of in ("number", "integer"):
                if not isinstance(read, (int, float)) or read <= 0 or (of == "integer" and read != int(read)):
                    raise NotAQuantity(f"“{found}” cannot be used; expected {title.lower()} as a number above zero")
                kept[key] = read
            else:
                kept[key] = quantity(read, of).text
        except NotAQuantity as unread:
            wrong.append({"path": path, "text": str(unread)})
    return kept, wrong


def figures(kind: str, plates: dict[str, Any]) -> dict[str, Quantity | float]:
    """A system's plates as quantities and numbers; what cannot be read is left out."""
    found: dict[str, Quantity | float] = {}
    for key, written in plates.items():
        of = PLATES[kind].get(key, ("", ""))[1]
        if isinstance(written, (int, float)):
            found[key] = written
        elif of in FAMILIES:
            try:
                found[key] = quantity(written, of)
            except NotAQuantity:
                continue
    return found
