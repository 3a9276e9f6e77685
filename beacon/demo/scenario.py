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
)  # fmt: skip


@dataclass(frozen=True)
class DemoSystem:
    """A machine; `channels` are (name, factor, factor from test weights, zero)."""

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
        channels=(("belt", "1.1420", "1.1399", "41.6 kg"),),
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
)  # fmt: skip
