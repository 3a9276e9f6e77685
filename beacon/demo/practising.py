"""The demo's practice: what Ines and Corin tried on stand-ins, a set that was given, and instruments on the line."""

import datetime
import os
import uuid
from typing import Any

from django.db import transaction

from beacon.bench.keeping import Sent, enter
from beacon.bench.opening import open_job
from beacon.bench.revisions import snapshot_of
from beacon.demo.stories import Teller, days_ago
from beacon.links.models import Link
from beacon.people.models import Organisation, Person
from beacon.plant.models import System
from beacon.practice.machines import practice_channel
from beacon.practice.models import Practice, Scenario, ScenarioSet
from beacon.records.sealing import close
from wary.job.closing import Asked, Outcome
from wary.simulators.stand_in import TICKET, Action

SEED = 11


class Tried:
    """One practice of the past: acts take twenty seconds, entries ten."""

    def __init__(self, who: Person, of: Organisation, kind: str, fault: str, at: datetime.datetime, scenario: Scenario | None = None) -> None:  # fmt: skip
        self.who, self.clock, self.began = who, at, at
        channel = practice_channel(of, kind)
        self.job = open_job(who, channel, channel.system.machine.visit, "routine", at=at, practice=True).job
        self.practice = Practice.objects.create(
            job=self.job, seed=scenario.seed if scenario else SEED, fault=fault, started_at=at, scenario=scenario,
        )  # fmt: skip
        self.machine = self.practice.machine
        self.practice.level = scenario.level if scenario else self.machine.hidden.level
        self.actions: list[Action] = []

    @property
    def seconds(self) -> float:
        """The machine's own time, s."""
        return (self.clock - self.began).total_seconds()

    def do(self, what: str, figure: float = 0.0, wait: float = 20) -> "Tried":
        """Does something, and waits."""
        self.clock += datetime.timedelta(seconds=4)
        self.actions.append(Action(self.seconds, what, figure))
        self.clock += datetime.timedelta(seconds=wait)
        return self

    def read(self, key: str) -> str:
        """What it shows, as it goes into a field."""
        live = self.machine.followed(self.actions).live(self.seconds)
        found = next(one for one in live.readouts if one.key == key)
        return f"{found.capture} {found.unit}".strip()

    def weigh(self, scale: int = 0) -> dict[str, str]:
        """What an outside scale prints, by the inputs that it belongs into; of rows by their names before them."""
        printed = self.machine.ticket(self.actions, self.seconds, self.machine.scales[scale])
        self.do(TICKET, scale, 15)
        return {f"{one.of} {one.into}".strip(): f"{one.text} {one.unit}".strip() for one in printed.figures}

    def enter(self, **texts: str) -> "Tried":
        """Enters texts, a path's dots written as two underscores."""
        sent = []
        for path, text in texts.items():
            self.clock += datetime.timedelta(seconds=10)
            sent.append(Sent(uuid.uuid4(), path.replace("__", "."), text, source="captured", at=self.clock))
        kept = enter(self.who, self.job.id, sent)
        if kept.refused:
            raise ValueError(f"the demo's own entries were refused: {kept.refused}")
        self.job = kept.job
        return self

    def close(self, outcome: Outcome | None = None) -> Practice:
        """Closes it as complete where it is, otherwise as limited, or as it is asked."""
        self.clock += datetime.timedelta(minutes=2)
        asked = outcome or ("complete" if snapshot_of(self.job).complete else "limited")
        given = {"fault": "found at the stand-in", "told": "Corin Hale"} if asked == "left-for-repair" else {"reason": "practice"}  # fmt: skip
        if asked == "complete":
            given = {}
        self.practice.actions = [action.as_json() for action in self.actions]
        self.practice.turn = len(self.actions)
        self.practice.save()
        self.job, _ = close(
            self.who, self.job, Asked(str(self.who), asked, loose_reason="practice", **given), at=self.clock
        )
        self.practice.refresh_from_db()
        return self.practice


def tell(teller: Teller) -> None:
    """Notes what was practised, and gives a set."""
    ines, corin, of = teller.ines, teller.corin, teller.organisation
    teller.on(24, _platform, ines, of, "none", False, 24)
    teller.on(23, _platform, ines, of, "corner", True, 23)
    teller.on(22, _cart, ines, of, "freak", 22)
    teller.on(17, _meter, ines, of, "empty", 17)
    teller.on(16, _doser, ines, of, "valve", 16)
    teller.on(9, _platform, ines, of, "out", True, 9)
    teller.on(8, _lorry, ines, of, "sticky", 8)
    teller.on(6, _cart, corin, of, "mount", 6)
    teller.on(5, _platform, corin, of, "frame", False, 5)
    teller.on(3, _given, teller)


def _pass(tried: Tried, number: int) -> None:
    row = f"passes__p{number}"
    tried.do("off", 0, 30).enter(**{f"{row}__zero": tried.read("weight")})
    tried.do("load", 1000, 40).enter(**{f"{row}__span": tried.read("weight")})
    tried.do("off", 0, 40).enter(**{f"{row}__zero_after": tried.read("weight")})


def _platform(who: Person, of: Organisation, fault: str, span: bool, days: int, scenario: Scenario | None = None) -> None:  # fmt: skip
    """A pass with a thousand kilograms; whoever trusts the first look takes the span, and proves it by a second pass."""
    tried = Tried(who, of, "platform", fault, days_ago(days, 13), scenario)
    tried.enter(inputs__test_load="1000 kg")
    _pass(tried, 1)
    if span:
        tried.do("zero").do("load", 1000, 30).do("span", 1000)
        _pass(tried, 2)
        tried.close()
        return
    if fault == "none":
        tried.close()
        return
    tried.do("free")
    tried.close("left-for-repair")


def _cart(who: Person, of: Organisation, fault: str, days: int, scenario: Scenario | None = None) -> None:
    """Four loads of different size, each against its ticket."""
    tried = Tried(who, of, "cart", fault, days_ago(days, 14), scenario)
    for number, mass in enumerate((3000, 5500, 4000, 6000), 1):
        tried.do("off", 0, 30).do("axle", mass * 0.75, 30).do("front", mass * 0.25, 40)
        shown = tried.read("weight")
        printed = tried.weigh()
        row = f"runs__r{number}"
        tried.enter(**{f"{row}__indicated": shown, f"{row}__gross": printed["gross"], f"{row}__tare": printed["tare"]})
    if fault == "freak":
        tried.enter(runs__r1__set_aside="read before it stood still")
    tried.enter(inputs__stood_still="yes", inputs__zero_checked="yes")
    tried.close("left-for-repair" if fault == "mount" else None)


def _meter(who: Person, of: Organisation, fault: str, days: int) -> None:
    """Three catches of sixty turns; the first is short, since the meter stood empty."""
    tried = Tried(who, of, "meter", fault, days_ago(days, 10))
    for number in (1, 2, 3):
        printed = tried.do("turn", 60, 70).weigh()
        row = f"runs__r{number}"
        tried.enter(**{f"{row}__gross": printed["gross"], f"{row}__tare": printed["tare"], f"{row}__amount": printed["amount"]})  # fmt: skip
    tried.enter(inputs__per="revolution", inputs__primed="yes", inputs__set_up_matches="yes")
    tried.close()


def _doser(who: Person, of: Organisation, fault: str, days: int) -> None:
    """The check mass is right and the doses are not: the valve drips, and the span stays."""
    tried = Tried(who, of, "doser", fault, days_ago(days, 11))
    tried.enter(inputs__check_mass="400 g")
    for number in (1, 2):
        tried.do("off", 0, 8).do("put", 400, 12)
        tried.enter(**{f"readings_before__r{number}__value": tried.read("weight")})
    for number in (1, 2, 3):
        tried.do("off", 0, 6).do("dose", 0, 10)
        tried.enter(**{f"doses_before__d{number}__value": tried.weigh()["doses_before.value"]})
    tried.do("valve").close("left-for-repair")


def _lorry(who: Person, of: Organisation, fault: str, days: int) -> None:
    """Read before the suspension was emptied, and stepped to the ticket: what was in order is out now."""
    tried = Tried(who, of, "axle", fault, days_ago(days, 15))
    for load, name in ((0, "empty"), (1, "heavy")):
        tried.do("load", load).do("brakes", 0, 60)
        printed = tried.weigh()
        for number, group in enumerate(("steer", "drive"), 1):
            ticket = printed[f"{group} groups.{name}_ticket"]
            tried.do(f"match-{group}", float(ticket.split()[0]))
            row = f"groups__g{number}"
            tried.enter(**{f"{row}__name": group, f"{row}__{name}_ticket": ticket, f"{row}__{name}_shown": tried.read(group)})  # fmt: skip
    tried.close()


def _given(teller: Teller) -> None:
    """A set of four machines that Corin gave to Ines; two of them are done."""
    one = ScenarioSet.objects.create(
        organisation=teller.organisation, name="Before the harvest", given_by=teller.corin,
        until=days_ago(0).date() + datetime.timedelta(days=12),
    )  # fmt: skip
    one.people.set([teller.ines])
    wanted = (("cart", "hard", "mount", 401), ("platform", "fair", "frame", 402), ("lift", "fair", "touching", 403), ("axle", "hard", "heavy-out", 404))  # fmt: skip
    scenarios = [
        Scenario.objects.create(of=one, place=place, kind=kind, level=level, fault=fault, seed=seed)
        for place, (kind, level, fault, seed) in enumerate(wanted)
    ]
    _cart(teller.ines, teller.organisation, "mount", 2, scenarios[0])
    _platform(teller.ines, teller.organisation, "frame", True, 1, scenarios[1])


# --- instruments on the line ----------------------------------------------------------------------

COLUMNS = {
    "line": "[07] +      0.0 KG OK", "figure": [12, 15], "unit": [16, 18], "steady": [19, 21], "steady_is": "OK",
    "sign": None, "fixed_unit": "", "minus": "-",
}  # fmt: skip


@transaction.atomic
def put_on_the_line(of: Organisation) -> None:
    """The demo's instruments, at the ports where its stand-ins send today."""
    corin = Person.objects.get(username="corin@gannetness.example")
    port = int(os.environ.get("BEACON_INSTRUMENT_PORT", "8461"))
    wanted: tuple[tuple[str, str, dict[str, Any]], ...] = (
        ("Trailer display", "Harvest trailer", {"port": port, "unit": "kg", "most": "14000 kg"}),
        ("Platform display", "Receiving platform", {"port": port + 1, "unit": "kg", "most": "1500 kg", "pattern": COLUMNS}),
        ("Bench reader", "Bench channel", {"way": "serial", "port": 0, "host": "", "address": None}),
    )  # fmt: skip
    for name, system, given in wanted:
        common = {"host": "127.0.0.1", "address": "127.0.0.1", "changed_by": corin}
        link, made = Link.objects.get_or_create(organisation=of, name=name, defaults=common | given)
        if made:
            link.systems.set(System.objects.filter(site__organisation=of, name=system))
        elif link.host == "127.0.0.1" and link.port != given["port"]:
            link.port = given["port"]
            link.save(update_fields=["port"])
