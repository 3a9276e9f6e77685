"""Gannet Ness Kelp & Shell, a made-up co-operative on a made-up coast: its sites, people and machines."""

from dataclasses import dataclass, field
from typing import Any

ORGANISATION = "Gannet Ness Kelp & Shell"
PASSWORD = "tide-and-tare"
ZONE = "Europe/London"

SITES = ("Shell Yard", "Drying House", "Packing Loft", "Haulage Shed")


@dataclass(frozen=True)
class DemoPerson:
    address: str
    name: str
    role: str
    sites: tuple[str, ...] = ()


PEOPLE = (
    DemoPerson("ines@gannetness.example", "Ines Marrow", "technician"),
    DemoPerson("corin@gannetness.example", "Corin Hale", "lead"),
    DemoPerson("wilma@gannetness.example", "Wilma Strand", "reader", ("Shell Yard",)),
)


@dataclass(frozen=True)
class DemoReference:
    """A reference; `due_in` counts days from today."""

    name: str
    due_in: int
    kind: str = "scale"
    division: str = ""
    range: str = ""
    uncertainty: str = ""
    nominal: str = ""
    tare: str = ""
    certificate: str = ""
    checked_by: str = ""
    lent_by: str = ""


REFERENCES = (
    DemoReference(
        "Weighbridge, Haulage Shed", 140, division="20 kg", range="60 t", uncertainty="0.05 %",
        certificate="GN-W-118", checked_by="Harbour Weights Office",
    ),
    DemoReference(
        "Weights W-20, 20 × 20 kg", 152, kind="weights", nominal="400 kg", uncertainty="20 g",
        certificate="GN-M-041", checked_by="Harbour Weights Office",
    ),
    DemoReference(
        "Weights W-5, 4 × 5 kg", 11, kind="weights", nominal="20 kg", uncertainty="1 g",
        certificate="GN-M-038", checked_by="Harbour Weights Office",
    ),
    DemoReference(
        "Hanging scale H-2", -9, division="0.02 kg", range="50 kg", uncertainty="0.1 %",
        certificate="GN-H-007", checked_by="Far Skerry Scales",
    ),
    DemoReference(
        "Platform scale, lent", 67, division="0.5 kg", range="3 t", uncertainty="0.04 %",
        certificate="FS-P-220", checked_by="Far Skerry Scales", lent_by="Far Skerry Scales",
    ),
    DemoReference("Blue crate", 300, kind="container", tare="82.4 kg"),
)  # fmt: skip


@dataclass(frozen=True)
class DemoSystem:
    """A machine; `channels` are (name, factor, factor from test weights, zero).

    `figures` are the own ones of each channel. `cells` are (label, capacity, sensitivity, read from, serial number), all of the first channel.
    """

    name: str
    kind: str
    site: str
    material: str
    profile: str
    plates: dict[str, Any]
    serial: str
    reference: str = ""
    factor_name: str = "factor"
    decimals: int = 4
    direction: str = "multiplies"
    nominal: str = ""
    correction: str = "factor"
    interval: int = 180
    notes: str = ""
    channels: tuple[tuple[str, str, str, str], ...] = field(default=(("main", "", "", ""),))
    cells: tuple[tuple[str, ...], ...] = ()
    figures: tuple[dict[str, Any], ...] = ()


SYSTEMS = (
    DemoSystem(
        "Shell conveyor C2", "belt", "Shell Yard", "crushed shell", "belt-fine",
        {
            "idler_spacing": "0.9 m", "weigh_idlers": 1, "angle": "5.4 deg", "belt_speed": "2.05 m/s",
            "belt_length": "64.2 m", "revolution_time": "31.3 s", "pulses_per_revolution": 204, "rated_rate": "350 t/h",
            "indicated_division": "10 kg", "cell_capacity": "100 kg", "cell_count": 2, "cell_sensitivity": "2 mV/V",
        },
        "GN-C2-0417", "Weighbridge, Haulage Shed", "trim", nominal="1.14", interval=90,
        notes="Set-up: hold the two outer keys until the display counts down. Way out: wait half a minute.",
        channels=(("belt", "1.1420", "1.1399", "37.9 kg"),),
    ),
    DemoSystem(
        "Stockpile conveyor C5", "belt", "Shell Yard", "washed shell grit", "belt-fine",
        {
            "idler_spacing": "1.2 m", "weigh_idlers": 2, "angle": "0 deg", "belt_speed": "1.6 m/s",
            "belt_length": "38 m", "revolution_time": "23.8 s", "pulses_per_revolution": 160, "rated_rate": "180 t/h",
            "indicated_division": "10 kg", "cell_capacity": "150 kg", "cell_count": 4, "cell_sensitivity": "2 mV/V",
        },
        "GN-C5-0092", "Weighbridge, Haulage Shed", "trim", nominal="0.98", interval=180,
        channels=(("belt", "0.9786", "", ""),),
    ),
    DemoSystem(
        "Wet-kelp drag chain", "chain", "Drying House", "wet kelp", "belt-plain",
        {
            "idler_spacing": "2.4 m", "weigh_idlers": 1, "angle": "12 deg", "belt_speed": "0.4 m/s", "belt_length": "22 m",
            "revolution_time": "55 s", "rated_rate": "25 t/h", "indicated_division": "1 kg", "cell_capacity": "500 kg",
            "cell_count": 2, "cell_sensitivity": "2 mV/V",
        },
        "GN-DC-0033", "Platform scale, lent", "gain", nominal="0.62", interval=60,
        channels=(("chain", "0.6230", "", "118 kg"),),
        cells=(("left", "500 kg", "2 mV/V", "plate", "LC-5501"), ("right", "500 kg", "2 mV/V", "plate", "LC-5502")),
    ),
    DemoSystem(
        "Alginate silo", "vessel", "Drying House", "alginate powder", "vessel-fill",
        {
            "capacity": "24 t", "division": "5 kg", "dead_load": "6.2 t", "live_capacity": "24 t", "excitation": "10 V",
            "cell_capacity": "15 t", "cell_count": 4, "cell_sensitivity": "2 mV/V",
        },
        "GN-S1-0104", "Weighbridge, Haulage Shed", "span", nominal="1", interval=365,
        notes="Set-up is behind the grey cover; the shift leader has the key.",
        channels=(("silo", "1.0000", "", ""),),
        cells=(
            ("north", "15 t", "2 mV/V", "plate", "LC-1501"), ("east", "15 t", "2 mV/V", "plate", "LC-1502"),
            ("south", "15 t", "2 mV/V", "plate", "LC-1503"), ("west", "15 t", "2 mV/V", "plate", "LC-1504"),
        ),
    ),
    DemoSystem(
        "Receiving platform", "platform", "Packing Loft", "creels and crates", "vessel",
        {
            "capacity": "1500 kg", "division": "0.5 kg", "dead_load": "180 kg", "live_capacity": "1500 kg",
            "excitation": "5 V", "cell_capacity": "1000 kg", "cell_count": 4, "cell_sensitivity": "2 mV/V",
        },
        "GN-P1-0011", "Weights W-20, 20 × 20 kg", "span", nominal="1", interval=365,
        channels=(("platform", "1.0042", "", ""),),
        cells=(
            ("front left", "1000 kg", "2 mV/V", "plate", "LC-1011"), ("front right", "1000 kg", "2 mV/V", "plate", "LC-1012"),
            ("back right", "1000 kg", "2 mV/V", "plate", "LC-1013"), ("back left", "1000 kg", "2 mV/V", "plate", "LC-1014"),
        ),
    ),
    DemoSystem(
        "Wheel pads", "pads", "Haulage Shed", "lorry wheels", "vessel",
        {"capacity": "10 t", "division": "20 kg", "cell_capacity": "5 t", "cell_count": 4, "cell_sensitivity": "1.5 mV/V"},
        "GN-WP-0007", "Weights W-20, 20 × 20 kg", "span", interval=180, correction="reading",
        channels=(("left pad", "1.0000", "", ""), ("right pad", "1.0000", "", "")),
    ),
    DemoSystem(
        "Bench channel", "bench", "Packing Loft", "cells on the bench", "vessel",
        {
            "capacity": "20 kg", "division": "0.002 kg", "excitation": "5 V", "cell_capacity": "20 kg", "cell_count": 1,
            "cell_sensitivity": "2 mV/V",
        },
        "GN-BC-0002", "Weights W-5, 4 × 5 kg", "counts per kg", interval=365,
        channels=(("channel 1", "", "", ""),),
        cells=(("1", "20 kg", "2 mV/V", "certificate", "LC-2007"),),
    ),
    DemoSystem(
        "Haulage lorry", "axle", "Haulage Shed", "shell and kelp", "axle",
        {"capacity": "26 t", "indicated_division": "10 kg", "ticket_division": "20 kg", "axle_groups": 2},
        "GN-HL-0003", "Weighbridge, Haulage Shed", interval=180, correction="reading", channels=(("lorry", "", "", ""),),
    ),
    DemoSystem(
        "Shell loader", "lift-arm", "Shell Yard", "crushed shell", "lift-arm",
        {"capacity": "3 t", "indicated_division": "10 kg", "minimum_temperature": "40 degC"},
        "GN-SL-0021", "Weighbridge, Haulage Shed", interval=120,
        channels=(("shell bucket", "", "", ""), ("forks", "", "", "")),
    ),
    DemoSystem(
        "Creel lift", "lift", "Packing Loft", "creels", "lift-arm",
        {"capacity": "300 kg", "indicated_division": "1 kg"},
        "GN-CL-0005", "Platform scale, lent", interval=120, channels=(("comb", "", "", ""),),
    ),
    DemoSystem(
        "Harvest trailer", "cart", "Haulage Shed", "wet kelp", "load-cart",
        {
            "capacity": "10 t", "indicated_division": "20 kg", "hitch_low": "8 %", "hitch_high": "15 %",
            "cell_capacity": "5 t", "cell_count": 4, "cell_sensitivity": "2 mV/V",
        },
        "GN-HT-0008", "Weighbridge, Haulage Shed", "gain", nominal="1", interval=180,
        channels=(("trailer", "1.0000", "", ""),),
        cells=(
            ("front left", "5 t", "2 mV/V", "plate", "LC-5011"), ("front right", "5 t", "2 mV/V", "plate", "LC-5012"),
            ("rear right", "5 t", "2 mV/V", "plate", "LC-5013"), ("rear left", "5 t", "2 mV/V", "plate", "LC-5014"),
        ),
    ),
    DemoSystem(
        "Kelp-meal bagger", "two-speed-filler", "Packing Loft", "kelp meal", "filling",
        {"capacity": "30 kg", "division": "10 g", "bench_division": "5 g", "care_every": 50000, "cycle_counter_most": 999999},
        "GN-KB-0017", interval=90, notes="Recipes: the key with the bag. Out again: twice the grey key.",
        channels=(("Meal 25 kg", "", "", ""), ("Meal 10 kg", "", "", "")),
        figures=(
            {"number": 1, "target": "25 kg", "over": "100 g", "under": "50 g", "medium": "1.2 kg", "fine": "10 g"},
            {"number": 2, "target": "10 kg", "over": "60 g", "under": "30 g", "medium": "1.2 kg", "fine": "95 g"},
        ),
    ),
    DemoSystem(
        "Dulse-flake pouch filler", "filler", "Packing Loft", "dulse flakes", "filling",
        {
            "capacity": "2 kg", "division": "0.1 g", "bench_division": "0.1 g", "bulk_limit": "250 g", "care_every": 20000,
            "cycle_counter_most": 99999,
        },
        "GN-PF-0009", interval=60,
        channels=(("Flake 100 g", "", "", ""), ("Flake 250 g", "", "", ""), ("Flake 1 kg", "", "", "")),
        figures=(
            {"number": 1, "target": "100 g", "over": "2 g", "under": "1.5 g", "fast": "100 g", "medium": "8 g", "fine": "2 g"},
            {"number": 2, "target": "250 g", "over": "4 g", "under": "3 g", "fast": "60 g", "medium": "11 g", "fine": "3.5 g"},
            {"number": 4, "target": "1000 g", "over": "8 g", "under": "6 g", "fast": "60 g", "medium": "11 g", "fine": "3.6 g"},
        ),
    ),
    DemoSystem(
        "Bulk-bag stand", "bag-stand", "Drying House", "kelp meal", "filling",
        {"capacity": "1200 kg", "division": "0.2 kg", "cell_capacity": "500 kg", "cell_count": 4, "cell_sensitivity": "2 mV/V"},
        "GN-BB-0004", "Weights W-20, 20 × 20 kg", "span", nominal="1", interval=365,
        channels=(("bag", "1.0000", "", ""),),
        figures=({"number": 1, "target": "500 kg", "over": "1 kg", "under": "1 kg"},),
    ),
    DemoSystem(
        "Mineral doser", "doser", "Drying House", "minerals", "filling",
        {"capacity": "3 kg", "division": "0.1 g", "bench_division": "0.1 g", "cell_capacity": "5 kg"},
        "GN-MD-0002", interval=60, channels=(("salt lick", "", "", ""),), figures=({"target": "200 g"},),
    ),
    DemoSystem(
        "Oyster grader", "grader", "Packing Loft", "oysters", "filling",
        {"capacity": "500 g", "division": "1 g", "reject_limit": "180 g", "outlets": 6, "scale_noise": "0.8 g"},
        "GN-OG-0001", interval=120, channels=(("sorting", "", "", ""),),
    ),
    DemoSystem(
        "Granule drill", "meter", "Haulage Shed", "kelp granules", "metered-feed",
        {"width": "6 m", "row_spacing": "125 mm", "capacity": "1200 kg", "reference_division": "5 g"},
        "GN-GD-0006", interval=365, notes="Catch trays hang under the metering rollers, left side.",
        channels=(("front tank", "", "", ""), ("rear tank", "", "", "")),
        figures=({"roller": 3, "old_value": "0.120 kg/rev"}, {"roller": 5, "old_value": "0.310 kg/rev"}),
    ),
    DemoSystem(
        "Shell-lime spreader", "spreader", "Shell Yard", "shell lime", "metered-feed",
        {"capacity": "9 t", "reference_division": "0.2 kg"}, "GN-LS-0013", interval=180,
        channels=(("shell lime, gate 6", "", "", ""),), figures=({"constant": 7400, "density_keyed": "1.05 kg/L"},),
    ),
    DemoSystem(
        "Path gritter", "free-spreader", "Haulage Shed", "shell grit", "metered-feed",
        {
            "capacity": "800 kg", "reference_division": "0.1 kg", "lanes": 1, "lane_width": "1.8 m", "engine_low": 1700,
            "engine_high": 1900,
        },
        "GN-PG-0002", interval=180, channels=(("small carrier, grit", "", "", ""),),
        figures=({"target_low": "40 kg/km", "target_high": "50 kg/km"},),
    ),
    DemoSystem(
        "Alginate dosing screw", "meter", "Drying House", "alginate powder", "metered-feed",
        {"capacity": "24 t", "reference_division": "5 kg"}, "GN-DS-0001", interval=120,
        notes="Under the alginate silo, whose scale weighs its catches.",
        channels=(("screw", "", "", ""),), figures=({"roller": 1, "old_value": "0.450 kg/rev"},),
    ),
)  # fmt: skip

INSTRUMENTS = (
    (
        "Grey panel indicator",
        (("Display code", "unit | decimals | filter"), ("Print format", ""), ("Brightness", "")),
    ),
)
"""Kinds of instrument with settings of their own: name, and (setting, digits)."""
