"""Keeping a feeder at its mass for one count while it runs: what left the vessel against what was counted."""

import math
from dataclasses import dataclass

from wary import drawings
from wary.drawings import TrailMark
from wary.fields import (
    Flag,
    Inputs,
    MassFromZero,
    NumberFromZero,
    PerCount,
    PositivePercentage,
    PositiveTime,
    TimeFromZero,
    at_most,
    field,
    plate,
)
from wary.methods.metering.arithmetic import CAUTIONS
from wary.methods.method import Errors, Method, Seen, Setting
from wary.methods.shared.draft import Draft
from wary.methods.steps import Close, Enter, Figures, Item, Listed, Look, Rows, Sampler, remark, typed
from wary.quantities import from_si, mass_shown, percent_shown, shown
from wary.results import Figure, Results, YesNo, figure, in_unit, percent, value_of
from wary.rules.assessment import ADJUST, FIND_FAULT, KEEP_TESTING, LEAVE, NOT_READY, Assessment, Reason, Remark

WINDOW, BAND = 5.0, 0.10

WHERE_TO_LOOK = (
    "The vessel: nearly empty, or refilled meanwhile?",
    "Bridging above the screw, or material that flushes through?",
    "The drive: can it follow at all?",
    "The value in the mix: of this material?",
)


@dataclass(slots=True, eq=False)
class FeedTrimResults(Results):
    """Results of a feed trim."""

    measured: Figure | None = figure("measured")
    deviation: Figure | None = figure("off by", "percentage", summary=True, large=True, signed=True)
    trim: Figure | None = figure("change of speed", "percentage", summary=True, large=True, signed=True)
    at_limit: YesNo | None = figure("at the end of the band")


class SampleIn(Inputs):
    """One sample of the stream: when, what the vessel weighed, and the running count."""

    time: TimeFromZero | None = field("Time", ask="say when, in seconds from the start.")
    vessel_mass: MassFromZero | None = field("Vessel", ask="type what the vessel weighed.")
    count: NumberFromZero | None = field("Count", ask="type the running count.")


class FeedTrimInputs(Inputs):
    """Inputs of a trim."""

    mix_value: PerCount | None = plate("Mass for one count, as in the mix")
    window: PositiveTime | None = field("Window", "5 s where nothing is said")
    band: PositivePercentage | None = field("Largest trim", "10 % where nothing is said")
    vessel_in_date: Flag | None = field("The vessel's own scale is in date")
    samples: list[SampleIn] | None = field(
        "Samples", ask="Type time, vessel and count, and some seconds later once more."
    )


SAMPLES = Rows(
    list="samples",
    name="Sample",
    empty="No sample yet.",
    columns=(
        typed("time", "Time"),
        typed("vessel_mass", "Vessel"),
        typed("count", "Count"),
        remark("taken", "Taken out"),
    ),
    typed=("time", "vessel_mass", "count"),
    ends=("count",),
    tool=Sampler("the stream", time="time"),
)


class FeedTrim(Method[FeedTrimInputs, FeedTrimResults]):
    """`feed-trim`: measured mass for one count against the mix, and the change of speed that brings the rate back."""

    key = "feed-trim"
    title = "Trim while it runs"
    summary = "Vessel mass and counts over some seconds: how far off, and what to trim"
    question = "Does it feed what the mix says?"
    subject = "The feeder"
    profile = "metered-feed"
    inputs = FeedTrimInputs
    results = FeedTrimResults
    takes = {"mix_value": "old_value"}
    remembers = ("window", "band")
    against = ("mix_value",)
    steps = (
        Look(
            "look",
            "Look first",
            "It runs: nobody reaches in.",
            items=(Item("no-refill", "The vessel is not refilled meanwhile"), Item("steady", "It has run for some seconds, steadily")),
            cautions=CAUTIONS,
        ),
        Enter("mix", "The mix", fields=("mix_value", "window", "band", "vessel_in_date")),
        Listed("samples", "Samples", "Time, vessel and running count.", rows=SAMPLES),
        Figures("figures", "What to trim", ),
        Close("close", "Close"),
    )  # fmt: skip

    def assess(self, given: FeedTrimInputs, setting: Setting) -> Assessment[FeedTrimResults]:
        sheet = Draft(self, setting)
        sheet.need(given, "mix_value", "samples")
        for place, one in enumerate(given.samples or []):
            sheet.need_in(f"inputs.samples[{place}]", one, ("time", "vessel_mass", "count"), f"Sample {place + 1}")
        if given.vessel_in_date is False:
            text = "The vessel's own scale is out of date: what left it cannot be told by it."
            sheet.check("vessel-scale", "fail", text)
            sheet.absent.append(Reason("reference-out-of-date", text, {"path": "inputs.vessel_in_date"}))
        elif given.vessel_in_date is None and given.samples:
            sheet.check("vessel-scale", "note", "Say whether the vessel's own scale is in date: the trim rests on it.")
        if sheet.absent or not given.mix_value:
            return sheet.answer(NOT_READY, sheet.absent)
        rows = _in_order(given)
        first = rows[0][1]
        sheet.remarks["samples"] = [
            {"taken": Remark(mass_shown(first - one.vessel_mass.si, one.vessel_mass.unit, 5))}
            if one.vessel_mass
            else {}
            for one in given.samples or []
        ]
        inside = _inside(given)
        if len(inside) < 2 or inside[-1][2] <= inside[0][2]:
            text = "Not enough in the window: two samples at least, with counts between them."
            return sheet.answer(KEEP_TESTING, [Reason("too-few-runs", text)], headline="Sample on")
        if any(b[1] > a[1] * (1 + 1e-12) for a, b in zip(inside, inside[1:], strict=False)):
            text = "The vessel became heavier within the window: it was refilled. Wait until a whole window has passed."
            return sheet.answer(KEEP_TESTING, [Reason("refilled", text)], headline="Refilled: sample on")
        return self._judged(sheet, given, inside)

    def _judged(
        self, sheet: Draft[FeedTrimResults], given: FeedTrimInputs, inside: list[tuple[float, float, float]]
    ) -> Assessment[FeedTrimResults]:
        assert given.mix_value
        measured = (inside[0][1] - inside[-1][1]) / (inside[-1][2] - inside[0][2])
        mix, unit = given.mix_value.si, given.mix_value.unit
        band = given.band.si if given.band else BAND
        deviation = measured / mix - 1
        free = mix / measured - 1 if measured > 0 else math.inf
        held = max(-band, min(band, free))
        at_limit = not at_most(abs(free), band)
        sheet.results.measured = in_unit(measured, unit)
        sheet.results.deviation = percent(deviation)
        sheet.results.trim = percent(held)
        sheet.results.at_limit = YesNo(at_limit)
        about = f"It gives {shown(from_si(measured, unit), 4)} {unit}, the mix says {given.mix_value.text}: {percent_shown(deviation, sign=True)}"
        if at_limit:
            text = f"{about}. The trim would have to go beyond ± {percent_shown(band, decimals=0)}: the drive cannot follow, it bridges, or the vessel is nearly empty."
            return sheet.answer(FIND_FAULT, [Reason("at-limit", text)], look=WHERE_TO_LOOK)
        accept = sheet.setting.profile.accept
        if accept is not None and at_most(abs(deviation), accept.relative_at(mix)):
            return sheet.answer(LEAVE, [Reason("within-limit", f"{about}.")], headline="Leave it alone")
        sheet.down = deviation > 0
        words = percent_shown(held, sign=True)
        return sheet.answer(ADJUST, [Reason("outside-limit", f"{about}. A change of speed of {words} brings the rate back.")], headline=f"Trim by {words}")  # fmt: skip

    def asks_for_change(self, answer: Assessment[FeedTrimResults]) -> bool:
        return False

    def errors(self, given: FeedTrimInputs, answer: Assessment[FeedTrimResults]) -> Errors | None:
        off = value_of(answer.results.deviation)
        return None if off is None else Errors(off)

    def draw(self, given: FeedTrimInputs, seen: Seen) -> drawings.Trail:
        """What left the vessel and what the counts say, over time."""
        rows = _in_order(given)
        if not rows or not given.mix_value:
            return drawings.Trail()
        time, mass, count = rows[0]
        mix = given.mix_value.si
        marks = [TrailMark(time=t - time, taken=mass - m, counted=(c - count) * mix) for t, m, c in rows[-drawings.SAMPLES_DRAWN :]]  # fmt: skip
        first = (given.samples or [])[0].vessel_mass
        unit = first.unit if first else "kg"
        window = given.window.si if given.window else WINDOW
        return drawings.Trail(
            marks=tuple(marks),
            window=window,
            taken_text=mass_shown(marks[-1].taken, unit, 4),
            counted_text=mass_shown(marks[-1].counted, unit, 4),
        )


def _in_order(given: FeedTrimInputs) -> list[tuple[float, float, float]]:
    """Time, mass and count of every whole sample, by time."""
    rows = [(one.time.si, one.vessel_mass.si, one.count) for one in given.samples or [] if one.time and one.vessel_mass and one.count is not None]  # fmt: skip
    return sorted(rows, key=lambda row: row[0])


def _inside(given: FeedTrimInputs) -> list[tuple[float, float, float]]:
    """The samples no older than the window before the last."""
    rows = _in_order(given)
    window = given.window.si if given.window else WINDOW
    return [row for row in rows if at_most(rows[-1][0] - row[0], window)]


METHOD = FeedTrim()
