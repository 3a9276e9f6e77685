"""What a system's record knows, as the first entries of a job on it."""

from collections.abc import Iterator

from beacon.bench.models import Job
from beacon.bench.paths import PLATE_KINDS, VALUE, Parts, joined, lists, place
from beacon.plant.models import Cell, Channel

FROM_PLATES = (
    "rated_rate", "revolution_time", "indicated_division", "division", "capacity", "dead_load", "live_capacity",
    "excitation", "idler_spacing", "weigh_idlers", "angle", "cell_count",
)  # fmt: skip
EARLIER_ZEROS = 12


def from_the_record(channel: Channel, parts: Parts) -> dict[str, str]:
    """Texts by path, of every place that a job of these parts has."""
    system = channel.system
    plates = {key: str(value) for key, value in system.plates.items()}
    known = {
        "inputs.factor": channel.factor,
        "inputs.factor_decimals": str(system.factor_decimals),
        "inputs.direction": system.direction,
        "inputs.nominal_factor": system.nominal_factor,
        "inputs.test_weight_factor": channel.test_weight_factor,
        "inputs.stored_zero": channel.zero,
        "inputs.speed": plates.get("belt_speed", ""),
        "inputs.sensitivity": plates.get("cell_sensitivity", ""),
        "inputs.pulses": plates.get("pulses_per_revolution", ""),
    }
    known |= {f"inputs.{key}": plates.get(key, "") for key in FROM_PLATES}
    known |= {f"plates.{key}": plates.get(key, "") for key in PLATE_KINDS}
    if any(method == "data-sheet-span" for _, method in parts):
        # There the capacity is that of one cell.
        known["inputs.capacity"] = plates.get("cell_capacity", "")
    if any(method == "belt-length" for _, method in parts):
        known.pop("inputs.speed")
    cells = list(Cell.objects.filter(channel=channel, removed=None))
    for part, method in parts:
        known |= dict(_of_cells(part, method, cells))
        known |= dict(_earlier_zeros(channel, part, method))
        if method == "corner-test":
            known |= {joined(part, f"positions.c{n}.label"): cell.label for n, cell in enumerate(cells, 1)}
        if method == "set-up-sheet":
            known |= dict(_settings(channel, part))
    return {path: text for path, text in known.items() if text and place(parts, path)}


def _of_cells(part: str, method: str, cells: list[Cell]) -> Iterator[tuple[str, str]]:
    if "cells" not in lists(method):
        return
    for number, cell in enumerate(cells, 1):
        row = joined(part, f"cells.c{number}")
        yield f"{row}.label", cell.label
        yield f"{row}.capacity", cell.capacity
        yield f"{row}.sensitivity", cell.sensitivity
        yield f"{row}.sensitivity_source", cell.source


def _earlier_zeros(channel: Channel, part: str, method: str) -> Iterator[tuple[str, str]]:
    if method != "belt-zero":
        return
    closed = Job.objects.filter(channel=channel, closed_at__isnull=False, practice=False, summary__zero__isnull=False)
    zeros = list(closed.order_by("-closed_at").values_list("summary__zero", flat=True)[:EARLIER_ZEROS])
    for number, zero in enumerate(reversed([zero for zero in zeros if zero]), 1):
        yield joined(part, f"history.h{number}.{VALUE}"), zero


def _settings(channel: Channel, part: str) -> Iterator[tuple[str, str]]:
    """The settings that this kind of instrument has beyond the usual ones."""
    instrument = channel.system.instrument
    for number, row in enumerate(instrument.fields if instrument else [], 1):
        yield joined(part, f"settings.x{number}.name"), row.get("title") or row.get("name", "")
        yield joined(part, f"settings.x{number}.digits"), row.get("digits", "")
