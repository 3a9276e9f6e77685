"""The demo's past: a few stories that its machines have lived through.

The shell conveyor, on which shell cakes and is cleaned off, and whose trim was once chased because
the spacing was typed wrongly; a stockpile conveyor that is simply fine; a drag chain on two cells; a
silo whose cell died and whose span is provisional since; a platform that is simply fine; wheel pads that
were shown as far as the weights at hand reach.
"""

import datetime
import random
from collections.abc import Callable
from functools import partial
from typing import Any
from zoneinfo import ZoneInfo

from django.utils import timezone

from beacon.demo import scenario
from beacon.demo.past import Past, loads
from beacon.demo.pictures import plate, ticket
from beacon.people.models import Organisation, Person
from beacon.plant.models import Cell, Channel, Event, System


def days_ago(days: int, hour: int = 8, minute: int = 10) -> datetime.datetime:
    """A morning so many days ago, at the sites."""
    zone = ZoneInfo(scenario.ZONE)
    day = timezone.now().astimezone(zone) - datetime.timedelta(days=days)
    morning = day.replace(hour=hour, minute=minute, second=0, microsecond=0)
    return min(morning, timezone.now() - datetime.timedelta(hours=2))


def noted(organisation: Organisation) -> "Teller":
    """The past of every machine that stands still, noted and not told yet."""
    teller = Teller(organisation)
    teller.shell_conveyor()
    teller.stockpile_conveyor()
    teller.drag_chain()
    teller.silo()
    teller.platform()
    teller.wheel_pads()
    teller.bench_channel()
    return teller


FOUND_ON_THE_WAY = {
    655: {"looked.idlers": "not-fine", "look_noted.idlers": "the second one stands still", "cured.idler": "yes"},
    441: {
        "looked.spacing": "not-fine",
        "look_noted.spacing": "set as 1.0 m, 0.9 m on the frame",
        "cured.spacing": "yes",
    },
    352: {"looked.caked": "not-fine", "look_noted.caked": "shell on the weigh frame", "cured.build-up": "yes"},
    264: {"looked.caked": "not-fine", "look_noted.caked": "shell again, a hand high", "cured.build-up": "yes"},
}
"""What was found wrong and put right in a visit to the shell conveyor before it was weighed, by how many days ago."""


class Teller:
    def __init__(self, organisation: Organisation) -> None:
        self.organisation = organisation
        self.ines = Person.objects.get(username="ines@gannetness.example")
        self.corin = Person.objects.get(username="corin@gannetness.example")
        self.draw = random.Random("gannet ness")
        self.days: list[tuple[int, Callable[[], object]]] = []

    def on(self, days: int, work: Callable[..., object], *given: Any) -> None:
        """Notes something to be told of a day so many days ago."""
        self.days.append((days, partial(work, *given)))

    def tell(self) -> None:
        """Tells it all, in the order of its days, so that the records are numbered as they were sealed."""
        for _, work in sorted(self.days, key=lambda row: -row[0]):
            work()

    def channel(self, system: str, place: int = 0) -> Channel:
        found = Channel.objects.select_related("system__site__organisation", "system__profile", "system__reference")
        return found.get(system__site__organisation=self.organisation, system__name=system, place=place)

    def event(
        self, system: System, days: int, kind: str, note: str, stale: tuple[str, ...] = (), settled: bool = True
    ) -> None:
        Event.objects.create(
            system=system,
            kind=kind,
            note=note,
            at=days_ago(days, 14),
            who=self.corin,
            stale=list(stale),
            settled=list(stale) if settled else [],
        )

    def lorries(self, error: float, count: int = 3, base: float = 20.4) -> list[tuple[str, str, str]]:
        """Lorry loads over a belt that reads so many per cent off, with a little scatter."""
        rows = []
        for _ in range(count):
            tare = round(12.74 + self.draw.choice((0, 0.02)), 2)
            net = round((base + self.draw.uniform(-0.6, 0.9)) / 0.02) * 0.02
            shown = round(net * (1 + error / 100 + self.draw.uniform(-0.0009, 0.0009)), 2)
            rows.append((f"{net + tare:.2f}", f"{tare:.2f}", f"{shown:.2f}"))
        return rows

    # --- the shell conveyor ---------------------------------------------------------------------

    def shell_conveyor(self) -> None:
        """Two years: a splice, a typed spacing that was chased, caking and cleaning, a freak first load."""
        system = self.channel("Shell conveyor C2").system
        story: list[tuple[int, float, str, str, float, str]] = [
            # days ago, as found %, zero, factor before, as left % (nan: untouched), who
            (742, 0.21, "38.2 kg", "1.1420", float("nan"), "ines"),
            (655, 0.34, "38.9 kg", "1.1420", float("nan"), "ines"),
            (566, -1.32, "39.4 kg", "1.1420", 0.08, "corin"),
            (521, -1.05, "39.8 kg", "1.1573", -0.06, "corin"),
            (478, -1.12, "40.3 kg", "1.1696", 0.04, "corin"),
            (441, 3.74, "37.6 kg", "1.1830", 0.05, "ines"),
            (352, 0.12, "38.4 kg", "1.1404", float("nan"), "ines"),
            (264, 0.31, "39.5 kg", "1.1404", float("nan"), "ines"),
        ]
        self.event(system, 570, "instrument", "indicator replaced, figures typed in again from the old sheet")
        self.event(
            system,
            446,
            "instrument",
            "spacing had been typed as 1.0 m since the new indicator; now 0.9 m as on the frame",
        )
        self.event(system, 445, "cleaned", "shell chipped off the weigh frame")
        for days, found, zero, factor, left, who in story:
            self.on(days, self._visit, days, found, zero, factor, left, self.ines if who == "ines" else self.corin)
        self.on(171, self._freak_first_load)
        self.on(84, self._visit, 84, 0.36, "41.2 kg", "1.1420", float("nan"), self.ines)
        self.on(0, self._under_way)

    def _visit(self, days: int, found: float, zero: str, factor: str, left: float, who: Person) -> None:
        occasion = "repair" if days == 441 else "routine"
        past = Past(who, self.channel("Shell conveyor C2"), "visit", days_ago(days, 9), occasion)
        past.enter(FOUND_ON_THE_WAY.get(days, {}))
        creep = self.draw.uniform(0.2, 1.2)
        past.zero("zero", [creep, creep + self.draw.uniform(-0.3, 0.3)], zero)
        past.look().enter({"inputs.factor": factor})
        past.rows("runs", loads(list(self.lorries(found))))
        if left == left:
            past.enter({"read_back": self._worked_out(past)})
            past.zero("zero-left", [0.4, 0.6], zero)
            past.rows("as_left", loads(list(self.lorries(left))))
        past.close()

    def _worked_out(self, past: Past) -> str:
        key_in = past.snapshot.main.assessment.key_in
        return (key_in.factor if key_in else None) or past.job.channel.factor

    def _freak_first_load(self) -> None:
        past = Past(self.corin, self.channel("Shell conveyor C2"), "visit", days_ago(171, 9))
        past.zero("zero", [0.7, 0.9], "40.4 kg").look().enter({"inputs.factor": "1.1574"})
        freak = ("34.22", "12.74", "20.31", "first load of the day: the hatch was left open and part of it fell beside")
        rest = [
            ("33.96", "12.76", "21.50"),
            ("32.58", "12.74", "20.12"),
            ("33.40", "12.74", "20.95"),
            ("33.86", "12.76", "21.40"),
        ]
        past.rows("runs", loads([freak, *rest]))
        lines = [("gross", "34 220 kg"), ("tare", "12 740 kg"), ("net", "21 480 kg")]
        past.photograph("runs.d1", ticket("4108", lines), "ticket 4108.jpg", on_certificate=True)
        past.photograph(
            "step.plates", plate(["C2 WEIGH FRAME", "spacing 0.9 m", "1 weigh idler", "5.4 deg"]), "plate.jpg"
        )
        past.enter(
            {
                "read_back": "1.1420",
                "conditions": "Dry, light wind, shell at about 4 % moisture.",
                "note": "Worked out as 1.1413. The trim that it had before the freak load, 1.1420, was keyed in instead: the two do not differ by what the runs can tell.",
            }
        )
        past.zero("zero-left", [0.3, 0.5], "40.6 kg")
        left = [("33.12", "12.74", "20.40"), ("33.74", "12.76", "20.96"), ("32.90", "12.74", "20.18")]
        past.rows("as_left", loads(left)).close()

    def _under_way(self) -> None:
        past = Past(self.ines, self.channel("Shell conveyor C2"), "visit", days_ago(0, 7, 30))
        past.zero("zero", [1.1, 1.4], "41.6 kg")
        past.look("auto-zero", "guards")
        past.rows("runs", loads([("34.10", "12.76", "21.66"), ("32.61", "12.74", "20.13")]))
        lines = [("gross", "32 610 kg"), ("tare", "12 740 kg"), ("net", "19 870 kg")]
        past.photograph("runs.d2.gross", ticket("4417", lines), "ticket 4417.jpg")
        lines = [("gross", "34 100 kg"), ("tare", "12 760 kg"), ("net", "21 340 kg")]
        past.photograph("runs.d1.gross", ticket("4416", lines, -1.5), "ticket 4416.jpg")

    # --- the others -----------------------------------------------------------------------------

    def stockpile_conveyor(self) -> None:
        for days, found in ((610, 0.11), (428, -0.06), (241, 0.14)):
            self.on(days, self._stockpile, days, found)
        self.on(64, self._left_alone)

    def _stockpile(self, days: int, found: float) -> None:
        past = Past(self.ines, self.channel("Stockpile conveyor C5"), "visit", days_ago(days, 10))
        past.zero("zero", [0.2, -0.1], "62.0 kg").look()
        past.rows("runs", loads(list(self.lorries(found, base=17.2)))).close()

    def _left_alone(self) -> None:
        past = Past(self.ines, self.channel("Stockpile conveyor C5"), "belt-material-test", days_ago(64, 10))
        past.look().enter({"inputs.zero_done": "job"})
        past.rows(
            "runs", loads([("29.84", "12.72", "17.10"), ("30.48", "12.74", "17.76"), ("30.12", "12.72", "17.40")])
        )
        past.enter({"note": "In order. Nothing touched."}).close()

    def drag_chain(self) -> None:
        self.on(38, self._drag_chain)

    def _drag_chain(self) -> None:
        """Two cells, running bands: some swing is normal. Then crates of kelp over the lent platform."""
        past = Past(self.ines, self.channel("Wet-kelp drag chain"), "visit", days_ago(38, 9))
        past.look(parts=("cells",))
        bands = (("c1", "61.2", "92.4", "61.3", "54", "68"), ("c2", "57.8", "90.1", "57.7", "51", "65"))
        past.rows(
            "cells/cells",
            [
                {
                    "row": row,
                    "empty": f"{e} kg",
                    "pressed": f"{p} kg",
                    "released": f"{r} kg",
                    "running_low": f"{low} kg",
                    "running_high": f"{high} kg",
                }
                for row, e, p, r, low, high in bands
            ],
        )
        past.zero("zero", [0.11, 0.16], "119 kg").look()
        crates = [("1164.5", "82.5", "1088"), ("1203.0", "82.5", "1129"), ("1180.5", "82.5", "1105")]
        rows = [{"gross": f"{g} kg", "tare": f"{t} kg", "indicated": f"{i} kg"} for g, t, i in crates]
        past.rows("runs", rows).close()

    def silo(self) -> None:
        """A cell died; the silo runs on a data-sheet span since, provisional until a known fill."""
        self.on(402, self._known_fill)
        self.on(26, self._cell_died)
        self.on(25, self._data_sheet)

    def _known_fill(self) -> None:
        past = Past(self.corin, self.channel("Alginate silo"), "known-load", days_ago(402, 9))
        past.look().rows("runs", loads([("38.44", "14.18", "24.30")])).close()

    def _cell_died(self) -> None:
        channel = self.channel("Alginate silo")
        cell = Cell.objects.get(channel=channel, label="south")
        cell.removed, cell.why_removed = days_ago(26).date(), "dead: no change when pressed, signal pair open inside"
        cell.save()
        Cell.objects.create(
            channel=channel, place=cell.place, label="south", capacity="15 t", sensitivity="2 mV/V",
            source="certificate", serial="LC-1507", fitted=days_ago(25).date(),
        )  # fmt: skip
        system = channel.system
        Event.objects.create(
            system=system, kind="cell", note="south cell dead, replaced", at=days_ago(26, 15), who=self.corin,
            stale=["cell-check", "known-load"],
        )  # fmt: skip

    def _data_sheet(self) -> None:
        channel = self.channel("Alginate silo")
        check = Past(self.ines, channel, "cell-check", days_ago(25, 9), "repair")
        check.look()
        presses = (("c1", 0.208), ("c2", 0.201), ("c3", 0.213), ("c4", 0.205))
        rows = [
            {"row": row, "empty": f"{e} mV/V", "pressed": f"{e + 0.021:.3f} mV/V", "released": f"{e} mV/V"}
            for row, e in presses
        ]
        check.rows("cells", rows).close()
        Past(self.ines, channel, "data-sheet-span", days_ago(25, 11), "repair").look().close()

    def platform(self) -> None:
        """Simply fine, year after year."""
        for days in (731, 366):
            self.on(days, self._platform, days)

    def _platform(self, days: int) -> None:
        past = Past(self.ines, self.channel("Receiving platform"), "visit", days_ago(days, 9))
        past.look().rows("passes", [{"zero": "0.0 kg", "span": "400.0 kg", "zero_after": "0.0 kg"}])
        past.look(parts=("corners",))
        shown = ("400.0", "400.5", "400.0", "400.0")
        past.rows("corners/positions", [{"row": f"c{n}", "indicated": f"{kg} kg"} for n, kg in enumerate(shown, 1)])
        past.enter({"corners/inputs.test_load": "400 kg"}).close()

    def wheel_pads(self) -> None:
        """Twenty weights on a pad of ten tonnes: it reads right, as far as that shows."""
        self.on(52, self._wheel_pads)

    def _wheel_pads(self) -> None:
        past = Past(self.corin, self.channel("Wheel pads"), "zero-span", days_ago(52, 15))
        past.look().enter({"inputs.test_load": "400 kg"})
        past.rows("passes", [{"zero": "0 kg", "span": "400 kg", "zero_after": "0 kg"}]).close()

    def bench_channel(self) -> None:
        self.on(120, self._bench_channel)

    def _bench_channel(self) -> None:
        past = Past(self.ines, self.channel("Bench channel"), "visit", days_ago(120, 13), "first")
        past.enter({"inputs.adc_range": "4 mV/V", "inputs.adc_bits": "21"}).look()
        counts = ((0, 8012), (5, 139_090), (10, 270_160), (15, 401_236), (20, 532_300))
        points = [{"load": f"{kg} kg", "raw": str(raw)} for kg, raw in counts]
        down = [
            {"row": f"b{kg}", "load": f"{kg} kg", "raw": str(raw), "going": "down"}
            for kg, raw in ((10, 270_171), (0, 8018))
        ]
        past.rows("points", points + down)
        past.rows("noise", [{"value": str(270_160 + self.draw.randint(-9, 9))} for _ in range(10)]).close()
