"""One worked job of every method: on which machine, what is typed, and what it comes to.

The same job is worked in the core, over HTTP, in the browser and onto a certificate.
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
AXLE = {"capacity": "26000 kg"}
ARM = {"capacity": "3 t", "indicated_division": "10 kg"}
LIFT = {"capacity": "600 kg", "indicated_division": "1 kg"}
METER = {"capacity": "500 kg"}
SPREADER = {"capacity": "9 t"}
FILLER = {"division": "1 g", "capacity": "5 kg"}
PACK = {"inputs.target": "1000 g", "inputs.over": "10 g", "inputs.under": "10 g", "inputs.division": "1 g"}
CART = {"capacity": "14 t", "indicated_division": "20 kg"}


@dataclass(frozen=True)
class Worked:
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


WORKED = (
    Worked(
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
    Worked(
        "belt-zero",
        "belt",
        BELT,
        {"idle.r1.value": "0.4 kg", "idle.r2.value": "0.5 kg"},
        "leave",
        "The zero holds",
        paper=("The zero holds",),
        profile="belt-fine",
    ),
    Worked(
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
    Worked(
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
    Worked(
        "axle-two-load",
        "axle",
        AXLE,
        {
            "inputs.ticket_division": "20 kg",
            **{f"groups.g{n}.name": name for n, name in enumerate(("steer", "drive"), 1)},
            **{f"groups.g{n}.empty_ticket": f"{kg} kg" for n, kg in enumerate((6200, 5400), 1)},
            **{f"groups.g{n}.empty_shown": f"{kg} kg" for n, kg in enumerate((6200, 5410), 1)},
            **{f"groups.g{n}.heavy_ticket": f"{kg} kg" for n, kg in enumerate((7100, 16200), 1)},
            **{f"groups.g{n}.heavy_shown": f"{kg} kg" for n, kg in enumerate((7110, 16200), 1)},
            **{f"groups.g{n}.proof_ticket": f"{kg} kg" for n, kg in enumerate((6600, 11000), 1)},
            **{f"groups.g{n}.proof_shown": f"{kg} kg" for n, kg in enumerate((6620, 11080), 1)},
        },
        "leave",
        "Proven: leave it alone",
        {"total_payload": 11700.0, "proof_error": 100.0},
        ("Proven: leave it alone", "16200 kg", "steer"),
        profile="axle",
    ),
    Worked(
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
    Worked(
        "constant-catch",
        "spreader",
        SPREADER,
        {
            "inputs.reference_division": "0.1 kg",
            "runs.r1.constant": "8000",
            "runs.r1.controller": "100 kg",
            "runs.r1.net": "105 kg",
            "runs.r2.constant": "7619",
            "runs.r2.controller": "100 kg",
            "runs.r2.net": "100.2 kg",
        },
        "leave",
        "Closed: leave it alone",
        paper=("7619",),
        profile="metered-feed",
    ),
    Worked(
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
    Worked(
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
    Worked(
        "density-check",
        "spreader",
        SPREADER,
        {
            "inputs.volume": "10 L",
            "inputs.density_keyed": "0.9 kg/L",
            "fills.f1.net": "9 kg",
            "fills.f2.net": "9.05 kg",
        },
        "leave",
        "Leave it alone",
        {"density": 0.9025},
        ("9.05 kg",),
        profile="metered-feed",
    ),
    Worked(
        "dose-check",
        "doser",
        {"division": "0.1 g"},
        {
            "inputs.check_mass": "400 g",
            **{f"readings_before.r{n}.value": f"{g} g" for n, g in enumerate((400.2, 400.4, 400.3), 1)},
        },
        "leave",
        "It weighs right: leave it alone",
        {"error_before": 0.3, "error_before_share": 0.075},
        ("400.4 g",),
        profile="filling",
    ),
    Worked(
        "feed-trim",
        "meter",
        METER,
        {
            "inputs.mix_value": "10 g/count",
            **{
                f"samples.s{n}.{key}": text
                for n, row in enumerate((("0 s", "100 kg", "0"), ("2 s", "99.5 kg", "50"), ("4 s", "99 kg", "100")), 1)
                for key, text in zip(("time", "vessel_mass", "count"), row, strict=True)
            },
        },
        "leave",
        "Leave it alone",
        {"measured": 10.0},
        ("99.5 kg",),
        profile="metered-feed",
    ),
    Worked(
        "fill-check",
        "filler",
        FILLER,
        {
            **PACK,
            "inputs.bench_division": "0.1 g",
            **{f"samples.s{n}.machine": f"{g} g" for n, g in enumerate((1001, 1003, 1002, 1004, 1001, 1002), 1)},
            **{f"samples.s{n}.bench": f"{g} g" for n, g in enumerate((1001, 1003, 1002, 1004, 1001, 1002), 1)},
        },
        "leave",
        "It fills right: leave it alone",
        {"mean_error_mass": 13 / 6, "giveaway_per_pack": 13 / 6},
        ("1004 g",),
        profile="filling",
    ),
    Worked(
        "fill-precheck",
        "filler",
        FILLER,
        {
            **{
                f"parts.c{n}.{key}": text
                for n, name in enumerate(
                    ("Fast stage", "Medium stage", "Fine stage", "Feeder", "Clamp", "Discharge"), 1
                )
                for key, text in (("name", name), ("expected", "as it should"), ("as_expected", "yes"))
            },
            **{
                f"supplies.s1.{key}": text
                for key, text in (("name", "air"), ("low", "5"), ("high", "7"), ("unit", "bar"), ("read", "6.2"))
            },
        },
        "leave",
        "Ready for product",
        paper=("Clamp",),
        profile="filling",
    ),
    Worked(
        "fill-tuning",
        "filler",
        FILLER,
        {
            **PACK,
            "trials.t1.fast": "300 g",
            "trials.t1.medium": "100 g",
            "trials.t1.fine": "20 g",
            **{f"trials.t1.fills.f{n}.weight": f"{g} g" for n, g in enumerate((1003, 1001, 998), 1)},
        },
        "leave",
        "Tuned: leave it alone",
        {"mean_error_mass": 2 / 3, "spread_mass": 5.0},
        ("300 g", "1003 g"),
        profile="filling",
    ),
    Worked(
        "grade-check",
        "grader",
        {"division": "1 g"},
        {
            "inputs.limit_kind": "lower",
            "inputs.reject_limit": "130 g",
            "inputs.outlets": "4",
            "inputs.scale_noise": "0.5 g",
            **{
                f"grades.g{n}.{key}": text
                for n, row in enumerate((("small", "60 g", "1"), ("medium", "80 g", "2"), ("large", "100 g", "3")), 1)
                for key, text in zip(("name", "limit", "outlet"), row, strict=True)
            },
            "inputs.batch_name": "tide 41",
            **{
                f"batch.b{n}.{key}": text
                for n, row in enumerate(
                    (("small", "10", "700 g"), ("medium", "20", "1800 g"), ("large", "5", "550 g")), 1
                )
                for key, text in zip(("grade", "count", "total_mass"), row, strict=True)
            },
        },
        "leave",
        "The grades are in order",
        {"misgraded_share": 7.619047619047617},
        ("medium", "tide 41"),
        profile="filling",
    ),
    Worked(
        "known-load",
        "vessel",
        VESSEL,
        _runs(("1000", "1000.5"), ("1100", "1100.5"), ("1050", "1050"), unit="kg"),
        "leave",
        "Leave it alone",
        paper=("Leave it alone", "1000"),
    ),
    Worked(
        "lift-repeat",
        "lift",
        LIFT,
        {
            "inputs.empty_weight": "200 kg",
            "inputs.heavy_weight": "340 kg",
            "inputs.seating_lifts": "10",
            **{f"heavy_lifts.h{n}.raw": str(raw) for n, raw in enumerate((1700, 1703, 1697, 1701, 1699), 1)},
            **{f"empty_lifts.e{n}.raw": str(raw) for n, raw in enumerate((1000, 1002, 998, 1001, 999), 1)},
        },
        "leave",
        "Set, not proven yet",
        {"mass_per_raw": 0.2, "repeatability": 1.2},
        ("340 kg", "1703"),
        profile="lift-arm",
    ),
    Worked(
        "lift-speed",
        "lift-arm",
        ARM,
        {
            "inputs.known_load": "1000 kg",
            "inputs.known_load_source": "weighed",
            **{
                f"lifts.l{n}.{key}": text
                for n, (load, speed, raw, time) in enumerate(
                    (
                        ("empty", "slow", "1000", "8 s"),
                        ("empty", "quick", "1100", "4 s"),
                        ("full", "slow", "3000", "8 s"),
                        ("full", "quick", "3180", "4 s"),
                        ("empty", "normal", "1050", "6 s"),
                        ("known", "normal", "2050", "6 s"),
                    ),
                    1,
                )
                for key, text in (("load", load), ("speed", speed), ("raw", raw), ("time", time))
            },
        },
        "leave",
        "Set, not proven yet",
        {"mass_per_raw": 1.0, "speed_effect_share": 18.0},
        ("1000 kg", "3180"),
        profile="lift-arm",
    ),
    Worked(
        "load-comparison",
        "cart",
        CART,
        _runs(("4.02", "4.04"), ("8.10", "8.12"), ("11.96", "11.98"), ("6.04", "6.04")),
        "leave",
        "Leave it alone",
        {"mean_error": 0.22791252458135847},
        ("Leave it alone", "11.98"),
        profile="load-cart",
    ),
    Worked(
        "meter-catch",
        "meter",
        METER,
        {
            "inputs.per": "revolution",
            "inputs.old_value": "0.1 kg/rev",
            **{
                f"runs.r{n}.{key}": text
                for n, row in enumerate((("20", "2.5 kg", "0.5 kg"), ("20", "2.51 kg", "0.5 kg")), 1)
                for key, text in zip(("amount", "gross", "tare"), row, strict=True)
            },
        },
        "leave",
        "Leave it alone",
        {"mean": 0.10025},
        ("0.1 kg/rev", "2.51 kg"),
        profile="metered-feed",
    ),
    Worked(
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
    Worked(
        "rate-chart",
        "free-spreader",
        SPREADER,
        {
            "inputs.target_low": "30 kg/km",
            "inputs.target_high": "40 kg/km",
            **{f"speeds.s{n}.value": f"{kmh} km/h" for n, kmh in enumerate((20, 30, 40), 1)},
            **{f"gate_readings.g{n}.value": f"{mm} mm" for n, mm in enumerate((40, 44), 1)},
            **{
                f"settings.s{n}.{key}": text
                for n, row in enumerate((("1", "6", "60"), ("2", "11", "60"), ("3", "16", "60")), 1)
                for key, text in zip(("setting", "revolutions", "seconds"), row, strict=True)
            },
            "catches.c1.revolutions": "10",
            "catches.c1.net": "16 kg",
        },
        "leave",
        "The gate is right: leave it",
        {"mass_per_revolution": 1.6, "gate_skew": 4.0},
        ("40 mm", "16 kg"),
        profile="metered-feed",
    ),
    Worked(
        "set-up-sheet",
        "vessel",
        VESSEL,
        {"settings.s1.name": "filter", "settings.s1.found": "4", "settings.s1.left": "6"},
        "leave",
        "Recorded",
        paper=("filter",),
    ),
    Worked(
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
    Worked(
        "substitution-test",
        "vessel",
        VESSEL,
        {
            "inputs.weights": "500 kg",
            "inputs.weights_uncertainty": "50 g",
            "rounds.r1.with_weights": "500 kg",
            "rounds.r1.substituted": "500.5 kg",
            "rounds.r2.with_weights": "1000.5 kg",
        },
        "leave",
        "Leave it alone",
        {"proven_up_to": 1000.5},
        ("1000.5 kg",),
    ),
    Worked(
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
