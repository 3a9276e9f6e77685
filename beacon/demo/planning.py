"""What the demo plans and looks after: intervals, counters, zeros, planned visits, check masses, a record put right."""

import datetime
import uuid
from zoneinfo import ZoneInfo

from django.utils import timezone

from beacon.bench.keeping import Sent, enter
from beacon.demo import scenario
from beacon.demo.stories import Teller, days_ago
from beacon.planner import schemas
from beacon.planner.keeping import keep_intervals, keep_plan
from beacon.planner.models import Counter, ZeroCheck
from beacon.plant.models import CheckMass, Reference
from beacon.records.models import Record
from beacon.records.sealing import close, put_right
from wary.job.closing import Asked
from wary.quantities import quantity


def tell(teller: Teller) -> None:
    """Notes what is looked after between the visits."""
    teller.on(62, _put_right, teller)
    teller.on(0, _intervals, teller)
    teller.on(0, _zeros, teller)
    teller.on(0, _plans, teller)
    teller.on(0, _references, teller)


def _put_right(teller: Teller) -> None:
    """The latest visit but one of the stockpile conveyor named the wrong lorry; a lead put that right."""
    channel = teller.channel("Stockpile conveyor C5")
    record = Record.objects.filter(job__channel=channel).order_by("number")[2]
    at = days_ago(62, 15)
    job = put_right(teller.corin, record, "The note named the grey lorry; it was the green one.", at).job
    note = Sent(uuid.uuid4(), "note", "Weighed with the green lorry.", at=at + datetime.timedelta(minutes=4))
    job = enter(teller.corin, job.id, [note]).job
    close(teller.corin, job, Asked(str(teller.corin), "complete"), at=at + datetime.timedelta(minutes=9))


def _intervals(teller: Teller) -> None:
    for name, days, more, zero, why in (
        (
            "Shell conveyor C2",
            90,
            {"kind": "tonnes", "every": 40_000},
            (1, "2 kg"),
            "the zero creeps up as shell cakes on",
        ),
        ("Kelp-meal bagger", 90, {"kind": "cycles", "every": 50_000}, None, "care is due by its cycles"),
        ("Granule drill", 365, {"kind": "season", "season": "03-15"}, None, "before the season, with its seed"),
        ("Alginate silo", 365, None, (7, "15 kg"), "spares and dust settle on its roof"),
        ("Wet-kelp drag chain", 60, None, (1, "0.5 kg"), "salt dries on the flights"),
    ):
        system = teller.channel(name).system
        calibration = [schemas.IntervalIn(kind="days", every=days)]
        calibration += [schemas.IntervalIn.model_validate(more)] if more else []
        zeros = [schemas.IntervalIn(kind="days", every=zero[0], band=zero[1])] if zero else []
        keep_intervals(teller.corin, system, schemas.IntervalsIn(calibration=calibration, zero=zeros, why=why))
    conveyor = teller.channel("Shell conveyor C2").system
    for days, tonnes in ((171, 812_400), (120, 834_900), (84, 851_300), (40, 870_100), (6, 885_600)):
        Counter.objects.create(system=conveyor, kind="tonnes", figure=tonnes, at=days_ago(days, 16), who=teller.ines)


def _zeros(teller: Teller) -> None:
    for name, days, text, holds in (
        ("Shell conveyor C2", 2, "0.8 kg", True), ("Shell conveyor C2", 1, "1.1 kg", True),
        ("Wet-kelp drag chain", 1, "0.3 kg", True), ("Alginate silo", 9, "-5 kg", True),
    ):  # fmt: skip
        system = teller.channel(name).system
        ZeroCheck.objects.create(system=system, text=text, holds=holds, at=days_ago(days, 7), who=teller.ines)


def _plans(teller: Teller) -> None:
    today = timezone.now().astimezone(ZoneInfo(scenario.ZONE)).date()
    for name, days, who, note in (
        ("Wet-kelp drag chain", 2, teller.ines, "crates of kelp are put by"),
        ("Harvest trailer", 5, teller.corin, ""),
        ("Haulage lorry", 1, teller.ines, "full load of shell at nine"),
    ):
        plan = schemas.PlanIn(day=today + datetime.timedelta(days=days), username=who.username, note=note)
        keep_plan(teller.channel(name).system, plan, today)


def _references(teller: Teller) -> None:
    """Twenty weights of a set, one of them out of date; three weeks of check masses, one of them off."""
    mine = Reference.objects.filter(organisation=teller.organisation)
    weights, crate, lent = (
        mine.get(name=name) for name in ("Weights W-20, 20 × 20 kg", "Blue crate", "Platform scale, lent")
    )
    today = timezone.now().date()
    weights.weights = [
        {
            "label": str(number),
            "nominal": "20 kg",
            "uncertainty": "1 g",
            "certificate": "GN-M-041",
            "due": (today - datetime.timedelta(days=3)).isoformat() if number == 7 else None,
        }
        for number in range(1, 21)
    ]
    weights.save(update_fields=["weights"])
    crate.label = "B-1"
    crate.save(update_fields=["label"])
    for day in range(21, 0, -1):
        off = 1.0 if day == 8 else teller.draw.choice((-0.5, 0.0, 0.0, 0.0, 0.5))
        CheckMass.objects.create(
            reference=lent,
            mass="500 kg",
            shown=quantity(f"{500 + off} kg", "mass").text,
            off_kg=off,
            holds=abs(off) <= 0.5,
            note="a crate leaned on it" if day == 8 else "",
            at=days_ago(day, 7),
            who=teller.ines,
        )
    trailer = teller.channel("Harvest trailer").system
    Reference.objects.create(
        organisation=teller.organisation, kind=Reference.Kind.SYSTEM, name="Harvest trailer, proven", system=trailer
    )
