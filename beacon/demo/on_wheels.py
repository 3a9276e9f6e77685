"""What the demo's vehicles have lived through: a lorry half entered, a loader that was once cold, a creel lift, a trailer's season."""

import datetime

from beacon.demo.past import Past
from beacon.demo.pictures import ticket
from beacon.demo.stories import Teller, days_ago
from beacon.loads.keeping import bring_in

GROUPS = ("steer", "drive")


def tell(teller: Teller) -> None:
    """Notes the past of the lorry, the loader, the creel lift and the harvest trailer."""
    teller.on(211, _lorry_proven, teller)
    teller.on(1, _lorry_half_entered, teller)
    teller.on(96, _loader_cold, teller)
    teller.on(95, _loader_warm, teller)
    teller.on(33, _creel_lift, teller)
    teller.on(63, _trailer, teller)
    teller.on(0, _season, teller)


def _tickets(load: str, tickets: tuple[int, ...], shown: tuple[int, ...]) -> dict[str, str]:
    texts: dict[str, str] = {}
    for number, (name, weighed, shows) in enumerate(zip(GROUPS, tickets, shown, strict=True), 1):
        texts |= {
            f"groups.g{number}.name": name,
            f"groups.g{number}.{load}_ticket": f"{weighed} kg",
            f"groups.g{number}.{load}_shown": f"{shows} kg",
        }
    return texts


def _lorry_proven(teller: Teller) -> None:
    """Both loads on one ground scale, and a third weighing that proves them."""
    past = Past(teller.corin, teller.channel("Haulage lorry"), "axle-two-load", days_ago(211, 9))
    past.look().enter({"inputs.empty_scale": "Haulage Shed", "inputs.heavy_scale": "Haulage Shed"})
    past.enter({"inputs.empty_prepared": "yes", "inputs.empty_gross": "11640 kg"})
    past.enter(_tickets("empty", (6240, 5400), (6240, 5400)))
    past.enter({"inputs.heavy_prepared": "yes", "inputs.heavy_gross": "23340 kg"})
    past.enter(_tickets("heavy", (7120, 16220), (7120, 16230)))
    past.enter(_tickets("proof", (6660, 11020), (6670, 11050))).close()


def _lorry_half_entered(teller: Teller) -> None:
    """New air bags; the empty load is in, and the heavy ticket still missing."""
    channel = teller.channel("Haulage lorry")
    teller.event(
        channel.system, 2, "suspension", "air bags of the drive axle renewed", ("axle-two-load",), settled=False
    )
    past = Past(teller.ines, channel, "visit", days_ago(1, 14), "repair")
    past.look().enter({"inputs.empty_scale": "Haulage Shed", "inputs.empty_prepared": "yes"})
    past.enter(_tickets("empty", (6260, 5440), (6260, 5440)))
    lines = [("steer", "6 260 kg"), ("drive", "5 440 kg"), ("gross", "11 700 kg")]
    past.photograph("groups.g1.empty_ticket", ticket("4409", lines), "ticket 4409.jpg")


LIFTS = (("empty", "slow", 1004, 8.1), ("empty", "quick", 1096, 4.2), ("full", "slow", 2988, 8.4), ("full", "quick", 3161, 4.3),
         ("empty", "normal", 1047, 6.1), ("known", "normal", 2051, 6.2))  # fmt: skip


def _lifts(oil: float) -> list[dict[str, str]]:
    return [
        {"load": load, "speed": speed, "time": f"{time} s", "temperature": f"{oil + number} degC", "raw": str(raw)}
        for number, (load, speed, raw, time) in enumerate(LIFTS)
    ]


def _loader_cold(teller: Teller) -> None:
    """A cold morning: the oil was under its gate, and the lifts did not count."""
    past = Past(teller.ines, teller.channel("Shell loader"), "lift-speed", days_ago(96, 7))
    past.look().enter(
        {
            "inputs.attachment_fitted": "shell bucket",
            "inputs.known_load": "1000 kg",
            "inputs.known_load_source": "estimated",
        }
    )
    past.rows("lifts", _lifts(31)).close(
        "abandoned", reason="The oil was at 31 °C and needs 40 °C; done again the next day, warm.", loose_reason="nothing was keyed in"
    )  # fmt: skip


def _loader_warm(teller: Teller) -> None:
    """The next day, warm; the known load was estimated, and the ground scale is still to speak."""
    past = Past(teller.ines, teller.channel("Shell loader"), "lift-speed", days_ago(95, 10))
    past.look().enter(
        {
            "inputs.attachment_fitted": "shell bucket", "inputs.known_load": "1000 kg", "inputs.known_load_source": "estimated",
            "inputs.prepared": "yes",
        }
    )  # fmt: skip
    past.rows("lifts", _lifts(47)).close()


def _creel_lift(teller: Teller) -> None:
    """Ten good lifts, and one that touched the ground; then creels over the lent platform."""
    past = Past(teller.corin, teller.channel("Creel lift"), "visit", days_ago(33, 9))
    past.look(parts=("lifts",))
    past.enter(
        {
            "lifts/inputs.empty_weight": "84 kg",
            "lifts/inputs.heavy_weight": "142 kg",
            "lifts/inputs.seating_lifts": "10",
        }
    )
    heavy = [{"raw": str(raw)} for raw in (2212, 2215, 2209, 2211, 2214)]
    heavy.insert(2, {"raw": "2160", "set_aside": "touched the ground"})
    past.rows("lifts/heavy_lifts", heavy)
    past.rows("lifts/empty_lifts", [{"raw": str(raw)} for raw in (1332, 1330, 1334, 1331, 1333)])
    past.look()
    creels = (("128.5", "128"), ("141.0", "141"), ("117.5", "118"), ("152.0", "152"))
    past.rows("runs", [{"reference": f"{kg} kg", "indicated": f"{shows} kg"} for kg, shows in creels]).close()


def _trailer(teller: Teller) -> None:
    """Four loads over the weighbridge, one of which moved off before it was recorded."""
    past = Past(teller.ines, teller.channel("Harvest trailer"), "visit", days_ago(63, 9))
    past.look().enter({"inputs.stood_still": "yes", "inputs.zero_checked": "yes"})
    loads = (("7.42", "7.44"), ("5.18", "5.18"), ("8.06", "8.46"), ("6.34", "6.36"), ("8.20", "8.22"))
    rows = [{"reference": f"{t} t", "indicated": f"{shows} t"} for t, shows in loads]
    rows[2]["set_aside"] = "the tractor moved off before the load was recorded"
    past.rows("runs", rows).close()


def _season(teller: Teller) -> None:
    """A season of the trailer's load log, as its instrument gave it out; the last tickets came and were not compared yet."""
    channel = teller.channel("Harvest trailer")
    lines = ["start,end,indicated,operator,destination,material,ticket,moved"]
    for days in range(61, 0, -1):
        for turn in range(days % 3 + 1):
            start = days_ago(days, 7 + 3 * turn, (days * 7) % 50)
            net = 5.2 + teller.draw.random() * 3
            ticket = f"{round(net / 0.02) * 0.02:.2f} t" if days in (2, 3, 4) and not turn else ""
            shows = f"{round(net * (1 + teller.draw.uniform(-0.003, 0.004)) / 0.02) * 0.02:.2f} t"
            to, what = (("Drying House", "wet kelp"), ("Packing Loft", "dulse"))[teller.draw.random() < 0.25]
            moved = "yes" if days == 17 and not turn else ""
            end = start + datetime.timedelta(minutes=14)
            lines.append(f"{start.isoformat()},{end.isoformat()},{shows},Ines Marrow,{to},{what},{ticket},{moved}")
    bring_in(teller.ines, channel.system, channel, "\n".join(lines).encode())
