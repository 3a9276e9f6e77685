"""One walk through every method: on which machine, what is typed, and what it comes to.

The same walk is made in the core, over HTTP, in the browser and onto a certificate.
"""

from dataclasses import dataclass, field
from typing import Any

from wary.rules.assessment import Call

BELT = {
    "idler_spacing": "0.9 m",
    "weigh_idlers": 1,
    "angle": "0 deg",
    "belt_speed": "2 m/s",
    "rated_rate": "300 t/h",
    "revolution_time": "30 s",
}
VESSEL = {"capacity": "1500 kg", "division": "0.5 kg"}


@dataclass(frozen=True)
class Walk:
    """`texts` by path in the order of the work; `paper` are words that the certificate must hold."""

    method: str
    kind: str
    plates: dict[str, Any]
    texts: dict[str, str]
    call: Call
    headline: str
    results: dict[str, float] = field(default_factory=dict)
    paper: tuple[str, ...] = ()
    outcome: str = "complete"
    profile: str = "vessel"


def _runs(*pairs: tuple[str, str], unit: str = "t") -> dict[str, str]:
    texts = {}
    for number, (weighed, shows) in enumerate(pairs, 1):
        texts |= {f"runs.r{number}.reference": f"{weighed} {unit}", f"runs.r{number}.indicated": f"{shows} {unit}"}
    return texts


WALKS = (
    Walk(
        "belt-length",
        "belt",
        BELT,
        {f"revolution_times.r{n}.value": f"{s} s" for n, s in enumerate((30.1, 30.0, 29.9), 1)}
        | {"inputs.speed": "2 m/s"},
        "leave",
        "Measured",
        {"belt_length": 60.0},
        ("60 m",),
        profile="belt-fine",
    ),
    Walk(
        "belt-zero",
        "belt",
        BELT,
        {"idle.r1.value": "0.4 kg", "idle.r2.value": "0.5 kg"},
        "leave",
        "The zero holds",
        paper=("The zero holds",),
        profile="belt-fine",
    ),
    Walk(
        "belt-test-weight",
        "belt",
        BELT,
        {
            "inputs.zero_done": "job",
            "inputs.weight_kind": "hung",
            "inputs.test_mass": "36 kg",
            "inputs.indicated_rate": "288.3 t/h",
            "inputs.revolutions": "4",
        },
        "leave",
        "Verified: leave it alone",
        {"expected_rate": 288.0},
        ("36 kg", "288 t/h"),
        profile="belt-fine",
    ),
    Walk(
        "belt-material-test",
        "belt",
        BELT,
        {"inputs.zero_done": "job"} | _runs(("21.34", "21.36"), ("19.87", "19.87"), ("20.61", "20.62")),
        "leave",
        "Leave it alone",
        {"mean_error": 0.047413616044604},
        ("Leave it alone", "verified, left as found", "21.34", "Weighbridge"),
        profile="belt-fine",
    ),
    Walk(
        "cell-check",
        "vessel",
        VESSEL,
        {
            **{f"cells.c{n}.label": name for n, name in enumerate(("north", "east", "west"), 1)},
            **{f"cells.c{n}.capacity": "1000 kg" for n in (1, 2, 3)},
            **{f"cells.c{n}.sensitivity": "2 mV/V" for n in (1, 2, 3)},
            **{f"cells.c{n}.empty": "0.21 mV/V" for n in (1, 2, 3)},
            **{f"cells.c{n}.pressed": "0.26 mV/V" for n in (1, 2, 3)},
            **{f"cells.c{n}.released": "0.21 mV/V" for n in (1, 2, 3)},
        },
        "leave",
        "The cells are in order",
        paper=("The cells are in order", "north"),
    ),
    Walk(
        "corner-test",
        "platform",
        VESSEL,
        {
            "inputs.test_load": "400 kg",
            **{f"positions.p{n}.label": name for n, name in enumerate(("front", "middle", "back"), 1)},
            **{f"positions.p{n}.indicated": f"{kg} kg" for n, kg in enumerate((400.0, 400.5, 400.0), 1)},
        },
        "leave",
        "Leave it alone",
        {"range": 0.5},
        ("0.5 kg",),
    ),
    Walk(
        "data-sheet-span",
        "vessel",
        VESSEL,
        {
            **{f"cells.c{n}.capacity": "1000 kg" for n in (1, 2, 3, 4)},
            **{f"cells.c{n}.sensitivity": "2 mV/V" for n in (1, 2, 3, 4)},
            **{f"cells.c{n}.sensitivity_source": "plate" for n in (1, 2, 3, 4)},
            "inputs.dead_load": "400 kg",
            "inputs.live_capacity": "1200 kg",
        },
        "leave",
        "Key it in: provisional",
        paper=("provisional",),
    ),
    Walk(
        "known-load",
        "vessel",
        VESSEL,
        _runs(("1000", "1000.5"), ("1100", "1100.5"), ("1050", "1050"), unit="kg"),
        "leave",
        "Leave it alone",
        paper=("Leave it alone", "1000"),
    ),
    Walk(
        "output-check",
        "vessel",
        VESSEL,
        {
            "inputs.full_load": "1500 kg",
            **{f"points.p{n}.load": f"{kg} kg" for n, kg in enumerate((0, 750, 1500), 1)},
            **{f"points.p{n}.measured": f"{ma} mA" for n, ma in enumerate((4.0, 12.005, 20.0), 1)},
        },
        "leave",
        "Leave it alone",
        paper=("12.005",),
    ),
    Walk(
        "set-up-sheet",
        "vessel",
        VESSEL,
        {"settings.s1.name": "filter", "settings.s1.found": "4", "settings.s1.left": "6"},
        "leave",
        "Recorded",
        paper=("filter",),
    ),
    Walk(
        "span-points",
        "bench",
        VESSEL,
        {
            **{f"points.p{n}.load": f"{kg} kg" for n, kg in enumerate((0, 500, 1000), 1)},
            **{f"points.p{n}.raw": raw for n, raw in enumerate(("8000", "139000", "270000"), 1)},
        },
        "leave",
        "Measured",
        {"counts_per_unit": 262.0},
        ("262",),
    ),
    Walk(
        "zero-span",
        "platform",
        VESSEL,
        {
            "inputs.test_load": "500 kg",
            "passes.p1.zero": "0 kg",
            "passes.p1.span": "500 kg",
            "passes.p1.zero_after": "0 kg",
        },
        "leave",
        "Leave it alone",
        {"divisions_tested": 1000.0},
        ("Leave it alone", "500 kg"),
    ),
)
"""One for each method that ships."""
