"""The visits of `./run entries`: what somebody writes down at each, on a machine that was visited before."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from wary.job.places import split
from wary.machines.machine import Machine, Part
from wary.references import ReferenceOnRecord

Texts = Mapping[str, str]


@dataclass(frozen=True)
class Written:
    """One visit: its machine's record, and the texts by path that the work comes to, in its order.

    `loosens` are the ticks of what is loosened for the test. `again` is what differs on the next visit. `most` and `taps` are how much may
    be typed and tapped, `by_hand` what people write.
    """

    words: str
    kind: str
    by_hand: int
    most: int
    taps: int
    plates: Texts
    texts: Texts
    again: Texts = field(default_factory=dict)
    known: Texts = field(default_factory=dict)
    rows: Mapping[str, list[Texts]] = field(default_factory=dict)
    reference: ReferenceOnRecord | None = None
    loosens: tuple[str, ...] = ()

    def opened(self, machine: Machine) -> tuple[tuple[Part, ...], dict[str, str], dict[str, str]]:
        """The parts that are opened, and `texts` and `again` by their paths there.

        Where only one of several methods is done it is opened alone; else the kind's visit is, as it is done anyway.
        """
        done = {split(path)[0] for path in self.texts}
        anyway = tuple(part for part in machine.visit if not part.optional)
        if len(done) > 1 or len(machine.visit) == 1:
            return anyway, dict(self.texts), dict(self.again)
        one = next(part for part in machine.visit if part.key in done)
        texts, again = ({split(path)[1]: text for path, text in of.items()} for of in (self.texts, self.again))
        return (Part("", one.method),), texts, again


def _rows(name: str, *rows: Texts) -> dict[str, str]:
    begins = name.rpartition("/")[2][0]
    return {f"{name}.{begins}{n}.{key}": text for n, row in enumerate(rows, 1) for key, text in row.items()}


def _values(name: str, *values: str) -> dict[str, str]:
    return _rows(name, *({"value": value} for value in values))


def _runs(*runs: tuple[str, str, str], zeroed: bool = False) -> dict[str, str]:
    return _rows("runs", *({"gross": g, "tare": t, "indicated": i} for g, t, i in runs))


def _cells(*rows: tuple[str, str, str]) -> dict[str, str]:
    return {
        f"cells/cells.c{n}.{key}": text
        for n, row in enumerate(rows, 1)
        for key, text in zip(("empty", "pressed", "released"), row, strict=True)
    }


BEGINS = "…"
"""What a further row begins with, as the call says."""

WEIGHBRIDGE = ReferenceOnRecord("scale", "Weighbridge at the gate", "C 31", division="20 kg", range="60 t")
FLOOR_SCALE = ReferenceOnRecord("scale", "Floor scale in the shed", "C 32", division="0.2 kg", range="1500 kg")
BENCH_SCALE = ReferenceOnRecord("scale", "Bench scale", "C 33", division="1 g", range="5 kg")
WEIGHTS = ReferenceOnRecord("weights", "Weights A", "C 34", nominal="1000 kg", uncertainty="50 g")
TON_WEIGHTS = ReferenceOnRecord("weights", "Weights B", "C 35", nominal="4000 kg", uncertainty="200 g")
CHECK_MASS = ReferenceOnRecord("weights", "Check mass", "C 36", nominal="400 g", uncertainty="10 mg")

PLATFORM = {"capacity": "1500 kg", "division": "0.5 kg", "dead_load": "220 kg", "live_capacity": "1500 kg", "excitation": "5 V", "cell_capacity": "1000 kg", "cell_count": "4", "cell_sensitivity": "2 mV/V"}  # fmt: skip
BELT = {"idler_spacing": "0.9 m", "weigh_idlers": "1", "angle": "6 deg", "belt_speed": "2 m/s", "belt_length": "60 m", "revolution_time": "30 s", "rated_rate": "300 t/h", "indicated_division": "10 kg"}  # fmt: skip
CHAIN = {"idler_spacing": "0.6 m", "weigh_idlers": "1", "angle": "0 deg", "belt_speed": "0.5 m/s", "belt_length": "24 m", "revolution_time": "48 s", "rated_rate": "60 t/h", "indicated_division": "2 kg"}  # fmt: skip
FOUR = [{"label": one, "capacity": "1000 kg", "sensitivity": "2 mV/V"} for one in ("1", "2", "3", "4")]
FACTOR = {"factor": "1.0000", "factor_decimals": "4"}

VISITS = (
    Written(
        "axle, two groups, two loads and a proof", "axle", 6, 10, 12,
        {"capacity": "26000 kg", "indicated_division": "10 kg", "ticket_division": "20 kg", "axle_groups": "2"},
        {
            **_rows("groups", {"name": "steer", "empty_ticket": "6200 kg", "empty_shown": "6200 kg"}, {"name": "drive", "empty_ticket": "5400 kg", "empty_shown": "5400 kg"}),
            "groups.g1.heavy_ticket": "7100 kg", "groups.g1.heavy_shown": "7100 kg",
            "groups.g2.heavy_ticket": "16200 kg", "groups.g2.heavy_shown": "16200 kg",
            "groups.g1.proof_ticket": "6600 kg", "groups.g1.proof_shown": "6620 kg",
            "groups.g2.proof_ticket": "11000 kg", "groups.g2.proof_shown": "11040 kg",
        },
        reference=WEIGHBRIDGE, loosens=("tick.look.chocked",),
    ),
    Written(
        "lifting arm whose instrument keeps its figures, 16 lifts", "lift-arm", 1, 4, 24,
        {"capacity": "3 t", "indicated_division": "10 kg", "bucket_volume": "1.8 m3", "minimum_temperature": "45 degC", "instrument_keeps": "yes"},
        {
            **_rows("lifts/required", *({"load": load, "speed": speed, "count": "4"} for load in ("empty", "full") for speed in ("slow", "quick"))),
            "lifts/lifts.l1.load": BEGINS, "lifts/lifts.l1.temperature": "52 degC", "lifts/lifts.l1.done": "yes",
            **{f"lifts/lifts.l{n}.{key}": text for n in range(2, 17) for key, text in (("load", BEGINS), ("done", "yes"))},
        },
        known=FACTOR,
    ),
    Written(
        "lifting arm with raw figures, 6 lifts, one ground-scale load", "lift-arm", 9, 12, 12,
        {"capacity": "3 t", "indicated_division": "10 kg", "bucket_volume": "1.8 m3"},
        {
            "lifts/inputs.known_load": "1000 kg",
            **{f"lifts/lifts.l{n}.{key}": text for n, raw in enumerate(("1000", "1100", "3000", "3180", "1050", "2050"), 1) for key, text in (("load", BEGINS), ("raw", raw))},
            "lifts/inputs.as_left.empty": "0 kg", "lifts/inputs.as_left.known": "1000 kg",
        },
        known=FACTOR, reference=WEIGHBRIDGE,
    ),
    Written(
        "bin lift, 5 and 5", "lift", 12, 15, 14,
        {"capacity": "600 kg", "indicated_division": "1 kg", "seating_needed": "10", "lifts_needed": "5"},
        {
            "lifts/inputs.empty_weight": "200 kg", "lifts/inputs.heavy_weight": "340 kg", "lifts/inputs.seating_lifts": "10",
            **{f"lifts/heavy_lifts.h{n}.raw": raw for n, raw in enumerate(("1700", "1703", "1697", "1701", "1699"), 1)},
            **{f"lifts/empty_lifts.e{n}.raw": raw for n, raw in enumerate(("1000", "1002", "998", "1001", "999"), 1)},
        },
        known=FACTOR, reference=FLOOR_SCALE,
    ),
    Written(
        "load cart, 5 loads with gross and tare", "cart", 15, 17, 10,
        {"capacity": "14000 kg", "indicated_division": "20 kg", "hitch_low": "6 %", "hitch_high": "18 %", "cell_capacity": "7500 kg", "cell_count": "4", "cell_sensitivity": "2 mV/V"},
        _runs(("21.34 t", "17.32 t", "4.02 t"), ("25.44 t", "17.32 t", "8.12 t"), ("29.30 t", "17.34 t", "11.98 t"), ("23.36 t", "17.32 t", "6.04 t"), ("27.36 t", "17.34 t", "10.02 t")),
        known=FACTOR, reference=WEIGHBRIDGE,
    ),
    Written(
        "belt: zero, weights, three lorries with gross and tare", "belt", 15, 20, 16, BELT,
        {
            "zero/idle.i1.value": "0.4 kg", "zero/idle.i2.value": "0.5 kg",
            "inputs.weight_kind": "hung", "inputs.test_mass": "36 kg", "weights/inputs.indicated_rate": "288.3 t/h", "weights/inputs.revolutions": "4",
            **_runs(("38.66 t", "17.32 t", "21.36 t"), ("37.20 t", "17.32 t", "19.88 t"), ("37.94 t", "17.32 t", "20.62 t")),
        },
        known={"factor": "1.2500", "factor_decimals": "4", "zero": "41 kg"}, reference=WEIGHBRIDGE,
        loosens=("zero/tick.look.auto-zero",),
    ),
    Written(
        "chain: four cells, then three loads", "chain", 14, 18, 14, CHAIN,
        {
            **_cells(("0.21 mV/V", "0.26 mV/V", "0.21 mV/V"), ("0.22 mV/V", "0.27 mV/V", "0.22 mV/V"), ("0.21 mV/V", "0.26 mV/V", "0.21 mV/V"), ("0.22 mV/V", "0.27 mV/V", "0.22 mV/V")),
            "zero/idle.i1.value": "0.04 kg", "zero/idle.i2.value": "0.05 kg",
            **_rows("runs", {"reference": "4.02 t", "indicated": "4.022 t"}, {"reference": "3.98 t", "indicated": "3.984 t"}, {"reference": "4.04 t", "indicated": "4.042 t"}),
        },
        known={"factor": "0.9820", "factor_decimals": "4", "zero": "41 kg"}, rows={"cells": FOUR}, reference=WEIGHBRIDGE,
    ),
    Written(
        "platform or bench: zero and span, one pass and its proof", "platform", 5, 7, 10, PLATFORM,
        {"passes.p1.zero": "0.0 kg", "passes.p1.span": "1000.0 kg", "passes.p1.zero_after": "0.0 kg", "inputs.proof.load": "500 kg", "inputs.proof.indicated": "500.0 kg"},
        known=FACTOR, rows={"cells": FOUR}, reference=WEIGHTS,
    ),
    Written(
        "pads, four of them, zero and one load each", "pads", 8, 11, 12,
        {"capacity": "10000 kg", "division": "5 kg", "dead_load": "60 kg", "live_capacity": "10000 kg", "excitation": "5 V", "cell_capacity": "5000 kg", "cell_count": "4", "cell_sensitivity": "2 mV/V"},
        {
            "passes.p1.zero": "0 kg", "passes.p1.span": "4000 kg", "passes.p1.zero_after": "0 kg",
            **{f"corners/positions.p{n}.{key}": text for n, one in enumerate(("front left", "front right", "rear left", "rear right"), 1) for key, text in (("label", one), ("indicated", "4000 kg"))},
        },
        known=FACTOR, reference=TON_WEIGHTS,
    ),
    Written(
        "hopper, one known load", "vessel", 4, 6, 8,
        {"capacity": "12000 kg", "division": "2 kg", "dead_load": "1800 kg", "live_capacity": "12000 kg", "excitation": "5 V", "cell_capacity": "10000 kg", "cell_count": "3", "cell_sensitivity": "2 mV/V"},
        {"runs.r1.gross": "25.34 t", "runs.r1.tare": "17.34 t", "runs.r1.indicated": "8004 kg"},
        known={"factor": "1.0420", "factor_decimals": "4"}, reference=WEIGHBRIDGE,
    ),
    Written(
        "hopper from the data sheet", "vessel", 5, 7, 8,
        {"capacity": "12000 kg", "division": "2 kg", "dead_load": "1800 kg", "live_capacity": "12000 kg", "excitation": "5 V", "cell_capacity": "10000 kg", "cell_count": "3", "cell_sensitivity": "2 mV/V"},
        {"data-sheet/inputs.known_load": "500 kg", "data-sheet/inputs.known_load_shown": "500 kg"},
        known={"factor": "1.0420", "factor_decimals": "4"},
    ),
    Written(
        "bulk-bag stand, two passes", "bag-stand", 6, 8, 12, PLATFORM,
        {"passes.p1.zero": "0.0 kg", "passes.p1.span": "1000.0 kg", "passes.p1.zero_after": "0.0 kg", "passes.p2.zero": "0.0 kg", "passes.p2.span": "1000.0 kg", "passes.p2.zero_after": "0.0 kg"},
        known=FACTOR, rows={"cells": FOUR}, reference=WEIGHTS,
    ),
    Written(
        "filler, three trials of three fills", "filler", 11, 15, 14,
        {"capacity": "5 kg", "division": "1 g", "bench_division": "1 g"},
        {
            **_rows("trials", {"fast": "528 g", "medium": "159 g", "fine": "17 g"}),
            **{f"trials.t1.fills.f{n}.weight": f"{g} g" for n, g in enumerate((1018, 1016, 1017), 1)},
            "trials.t2.fine": BEGINS,
            **{f"trials.t2.fills.f{n}.weight": f"{g} g" for n, g in enumerate((1008, 1006, 1007), 1)},
            "trials.t3.fine": BEGINS,
            **{f"trials.t3.fills.f{n}.weight": f"{g} g" for n, g in enumerate((1001, 999, 1000), 1)},
        },
        known={"target": "1000 g", "over": "10 g", "under": "10 g", "fast": "528 g", "medium": "159 g", "fine": "17 g", "channel": "recipe 1"},
        rows={"own_figures": [{"fast": "528 g", "medium": "159 g", "fine": "17 g"}]}, reference=BENCH_SCALE,
    ),
    Written(
        "filler, ten samples", "filler", 10, 12, 6,
        {"capacity": "5 kg", "division": "1 g", "bench_division": "1 g"},
        {f"watch/samples.s{n}.bench": f"{g} g" for n, g in enumerate((1001, 1003, 1002, 1000, 1001, 1002, 999, 1001, 1000, 1002), 1)},
        known={"target": "1000 g", "over": "10 g", "under": "10 g", "fast": "528 g", "medium": "159 g", "fine": "17 g", "channel": "recipe 1"},
        reference=BENCH_SCALE,
    ),
    Written(
        "doser, three check readings before and after, three doses", "doser", 9, 12, 12,
        {"capacity": "2 kg", "division": "0.2 g", "bench_division": "0.1 g", "cell_capacity": "3 kg"},
        {
            **_values("readings_before", "401.6 g", "401.8 g", "401.6 g"), **_values("readings_after", "400.0 g", "400.2 g", "400.0 g"),
            **_values("doses", "400.1 g", "400.3 g", "399.9 g"),
        },
        known={"target": "400 g"}, reference=CHECK_MASS,
    ),
    Written(
        "grader, five grades, one batch", "grader", 12, 16, 10,
        {"capacity": "1 kg", "division": "0.5 g", "reject_limit": "320 g", "outlets": "6", "scale_noise": "1.5 g"},
        {
            **_rows("grades", *({"name": name, "limit": limit, "outlet": str(n)} for n, (name, limit) in enumerate((("small", "60 g"), ("middle", "100 g"), ("good", "140 g"), ("large", "190 g"), ("largest", "250 g")), 1))),
            "inputs.limit_kind": "lower", "inputs.batch_name": "tide 41",
            **_rows("batch", *({"grade": name, "count": count, "total_mass": mass} for name, count, mass in (("small", "12", "960 g"), ("middle", "30", "3600 g"), ("good", "44", "7260 g"), ("large", "25", "5500 g"), ("largest", "9", "2520 g")))),
        },
        again={"inputs.batch_name": "tide 42"}, known=FACTOR, reference=CHECK_MASS,
    ),
    Written(
        "drill, two catches", "meter", 6, 8, 10,
        {"width": "3 m", "row_spacing": "12.5 cm", "capacity": "400 kg", "reference_division": "5 g"},
        {"inputs.per": "revolution", **_rows("runs", {"amount": "20", "gross": "2.9 kg", "tare": "0.5 kg"}, {"amount": "20", "gross": "2.91 kg", "tare": "0.5 kg"})},
        known={"old_value": "120 g/rev", "channel": "tank 1"},
    ),
    Written(
        "spreader with a constant, two catches", "spreader", 6, 8, 10, {"capacity": "9 t", "reference_division": "0.2 kg"},
        _rows("runs", {"constant": "8000", "controller": "100 kg", "net": "105 kg"}, {"constant": "7619", "controller": "100 kg", "net": "100.2 kg"}),
        known={"constant": "8000"}, reference=FLOOR_SCALE,
    ),
    Written(
        "spreader that runs free: four settings, one catch", "free-spreader", 12, 16, 10,
        {"capacity": "4 t", "reference_division": "0.2 kg", "lanes": "1", "lane_width": "3 m", "engine_low": "1500", "engine_high": "1700"},
        {
            "gate_readings.g1.value": "40 mm", "gate_readings.g2.value": "40 mm",
            **_rows("settings", *({"setting": str(n), "revolutions": str(6 + 5 * (n - 1)), "seconds": "60"} for n in (1, 2, 3, 4))),
            "catches.c1.revolutions": "10", "catches.c1.gross": "17.2 kg", "catches.c1.tare": "1.2 kg",
            "speeds.s1.value": "12 km/h", "inputs.target_low": "107 kg/km", "inputs.target_high": "151 kg/km",
        },
        known={"channel": "salt"}, reference=FLOOR_SCALE,
    ),
)  # fmt: skip
"""One for each line of the table; what is remembered from the visit before is what `texts` came to."""
