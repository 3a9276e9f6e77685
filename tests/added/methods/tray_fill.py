"""Tray fill: a filler's trays weighed after it, in trials of several trays each.

A method of the tests alone. It has what no shipped method has together: a list inside a list, a
block, a stopwatch on a plain list of times, and a drawing that exists.
"""

import math
from dataclasses import dataclass

from wary import drawings
from wary.fields import AboveZero, Inputs, Mass, PositiveMass, PositiveTime, WhyAside, Words, field, plate
from wary.methods.method import Marks, Method, Seen, Setting
from wary.methods.shared.draft import Draft
from wary.methods.steps import Close, Enter, Item, Listed, Look, Rows, Stopwatch, remark, typed
from wary.quantities import mass_shown
from wary.results import Figure, Results, figure, percent
from wary.rules.assessment import ADJUST, FIND_FAULT, LEAVE, NOT_READY, Assessment, Reason, Remark


@dataclass(slots=True, eq=False)
class TrayFillResults(Results):
    """Results of a tray fill."""

    mean_fill: Figure | None = figure("mean fill", "mass", summary=True)
    error: Figure | None = figure("error", "percentage", summary=True, signed=True)


class Tray(Inputs):
    """One tray after the filler."""

    weight: Mass | None = field("Weight", ask="Weigh the tray, and type what it shows.")
    set_aside: WhyAside | None = field("Why it is set aside")


class Trial(Inputs):
    """Trays filled at one setting."""

    label: Words | None = field("What was set")
    trays: list[Tray] | None = field("Trays", ask="Weigh the first tray.")
    set_aside: WhyAside | None = field("Why it is set aside")


class Working(Inputs):
    """How the filler runs."""

    speed: AboveZero | None = field("Strokes a minute", ask="Read the strokes a minute off.")
    nozzles: AboveZero | None = field("Nozzles")


class TrayFillInputs(Inputs):
    """Inputs of a tray fill."""

    nominal: PositiveMass | None = plate("Nominal fill")
    working: Working | None = field("How it runs", ask="Say how it runs.")
    trials: list[Trial] | None = field("Trials", ask="Fill some trays, and weigh each.")
    strokes: list[PositiveTime] | None = field("Times of a stroke")


TRIALS = Rows(
    list="trials",
    name="Trial",
    empty="No trial yet: name what is set.",
    columns=(typed("label", "Set"), remark("mean", "Mean of its trays")),
    typed=("label",),
    inner=Rows(
        list="trays",
        name="Tray",
        empty="No tray yet: weigh the first.",
        columns=(typed("weight", "Weight"),),
        typed=("weight",),
        ends=("weight",),
    ),
)
STROKES = Rows(
    list="strokes",
    name="Stroke",
    empty="Tap at each stroke.",
    columns=(typed("value", "Time"),),
    typed=("value",),
    ends=("value",),
    tool=Stopwatch("stroke"),
)
ALLOWED = 0.02


class TrayFill(Method[TrayFillInputs, TrayFillResults]):
    """`tray-fill`: the mean fill against the nominal, within 2 %."""

    key = "tray-fill"
    title = "Tray fill"
    summary = "Trays weighed after the filler"
    question = "Does it fill what it should?"
    subject = "The fill"
    half_done = "its stroke was turned, and no tray was weighed after it"
    profile = "vessel"
    inputs = TrayFillInputs
    results = TrayFillResults
    compares = True
    against = ("nominal",)
    steps = (
        Look("look", "Look first", items=(Item("clean", "Nozzles clean and dry"), Item("guard", "Guard is off", loose_end="The guard is off: put it back."))),
        Enter("set-up", "Set up", fields=("nominal", "working"), cautions=("Nobody reaches under a nozzle while it runs.",)),
        Listed("strokes", "Strokes", "A few strokes, timed.", rows=STROKES),
        Listed("trials", "Trials", "Several trays at each setting.", rows=TRIALS, items=(Item("turned", "The stroke was turned"),)),
        Close("close", "Close"),
    )  # fmt: skip

    def assess(self, given: TrayFillInputs, setting: Setting) -> Assessment[TrayFillResults]:
        sheet = Draft(self, setting)
        sheet.need(given, "nominal", "working", "trials")
        if given.working:
            sheet.need_in("inputs.working", given.working, ("speed",), "How it runs")
        weights: list[float] = []
        for place, trial in enumerate(given.trials or []):
            if not trial.trays:
                sheet.need_in(f"inputs.trials[{place}]", trial, ("trays",), f"Trial {place + 1}")
            here = []
            for number, tray in enumerate(trial.trays or []):
                where = f"Trial {place + 1}, tray {number + 1}"
                sheet.need_in(f"inputs.trials[{place}].trays[{number}]", tray, ("weight",), where)
                if tray.weight and not tray.set_aside and not trial.set_aside:
                    here.append(tray.weight.si)
            mean = math.fsum(here) / len(here) if here else None
            text = mass_shown(mean, "g") if mean is not None else ""
            sheet.remarks.setdefault("trials", []).append({"mean": Remark(text, mean)} if text else {})
            weights += here
        if sheet.absent or not given.nominal or not weights:
            return sheet.answer(NOT_READY, sheet.absent or [Reason("too-few", "Weigh one tray at least.")])
        mean = math.fsum(weights) / len(weights)
        error = mean / given.nominal.si - 1
        sheet.results.mean_fill, sheet.results.error = Figure(mean * 1000, "g"), percent(error)
        text = f"{len(weights)} trays hold {mass_shown(mean, 'g')} in the mean; {given.nominal.text} is wanted."
        if mean < given.nominal.si / 2:
            return sheet.answer(FIND_FAULT, [Reason("sanity", text)], look=["Whether a nozzle is shut."])
        if abs(error) > ALLOWED:
            return sheet.answer(ADJUST, [Reason("outside-limit", text)], headline="Turn the stroke")
        return sheet.answer(LEAVE, [Reason("within-limit", text)], headline="It fills what it should")

    def changed(self, given: TrayFillInputs, answer: Assessment[TrayFillResults], marks: Marks) -> bool:
        return "trials.turned" in marks.ticks

    def draw(self, given: TrayFillInputs, seen: Seen) -> drawings.Load:
        """The mean tray against the nominal one."""
        trays = [t.weight for trial in given.trials or [] for t in trial.trays or [] if t.weight]
        last = drawings.figure(trays[-1]) if trays else None
        return drawings.Load(capacity=drawings.figure(given.nominal), load=last, shows=last.text if last else "")


METHOD = TrayFill()
