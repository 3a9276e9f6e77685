"""What a full measure of the material weighs, against the density that the controller has."""

import math
from dataclasses import dataclass
from typing import Any

from wary import drawings
from wary.fields import Density, Inputs, Percentage, PositiveVolume, at_most, field, plate
from wary.methods.metering.arithmetic import CAUTIONS, Weighed, need_net, net_of, unit_of
from wary.methods.method import Errors, HandsBack, Marks, Method, Seen, Setting
from wary.methods.shared.draft import Draft
from wary.methods.steps import Close, Enter, Figures, Item, Listed, Look, Rows, remark, typed
from wary.quantities import from_si, percent_shown, quantity, shown
from wary.results import Figure, Results, figure, in_unit, percent
from wary.rules.assessment import ADJUST, FIND_FAULT, KEEP_TESTING, LEAVE, NOT_READY, Assessment, Reason, Remark

AGREE = quantity("1 %", "percentage")
FEW = 3
UNITS = {("kg", "L"): "kg/L", ("lb", "ft3"): "lb/ft3", ("kg", "m3"): "kg/m3"}

WHERE_TO_LOOK = (
    "Filled the same way each time: loosely, or settled, and struck level?",
    "Damp, or lumps in it?",
    "Segregated: fine at the bottom, coarse on top?",
    "The measure itself: empty, clean, its volume as it says?",
)


@dataclass(slots=True, eq=False)
class DensityResults(Results):
    """Results of a density check."""

    densities: list[Figure] | None = figure("density of each fill", "density")
    density: Figure | None = figure("measured", "density", summary=True, large=True)
    spread: Figure | None = figure("spread", "percentage", summary=True)
    difference: Figure | None = figure("the controller has it off by", "percentage", large=True, signed=True)


class DensityCheckInputs(Inputs):
    """Inputs of a density check."""

    volume: PositiveVolume | None = plate("Volume of the measure")
    fills: list[Weighed] | None = field(
        "Fills", ask="Fill the measure, strike it level, weigh it, and type what it weighs."
    )
    agree: Percentage | None = field("Fills agree within", "1 % where nothing is said")
    density_keyed: Density | None = plate("Density in the controller")


FILLS = Rows(
    list="fills",
    name="Fill",
    empty="No fill yet: the same way each time, struck level.",
    columns=(typed("gross", "Gross"), typed("tare", "Tare"), typed("net", "Net"), remark("density", "Density")),
    typed=("gross", "tare", "net"),
    ends=("tare", "net"),
    either=("gross+tare", "net"),
)


class DensityCheck(Method[DensityCheckInputs, DensityResults]):
    """`density-check`: fills of one measure, and the density keyed against them."""

    key = "density-check"
    title = "Density"
    summary = "A measure filled, struck level and weighed"
    question = "Is the density right?"
    subject = "The density"
    passes_for = {"not-agreeing": "scatter"}
    profile = "metered-feed"
    inputs = DensityCheckInputs
    results = DensityResults
    hands = ("density",)
    against = ("volume",)
    steps = (
        Look(
            "look",
            "Look first",
            items=(Item("sample", "Taken where the machine takes it, not from the top"), Item("measure", "Measure empty, clean, its volume known")),
            cautions=CAUTIONS,
        ),
        Enter("measure", "The measure", fields=("volume", "density_keyed", "agree")),
        Listed("fills", "Fills", "The same way each time, struck level.", rows=FILLS),
        Figures("figures", "What it comes to", ),
        Close("close", "Close"),
    )  # fmt: skip

    def assess(self, given: DensityCheckInputs, setting: Setting) -> Assessment[DensityResults]:
        sheet = Draft(self, setting)
        sheet.need(given, "volume", "fills")
        rows = given.fills or []
        for place, row in enumerate(rows):
            if row.set_aside is None:
                need_net(sheet, f"inputs.fills[{place}]", f"Fill {place + 1}", row)
        if sheet.absent or not given.volume:
            return sheet.answer(NOT_READY, sheet.absent)
        unit = _unit(given)
        nets = [net_of(row) for row in rows]
        used = [net / given.volume.si for net, row in zip(nets, rows, strict=True) if net is not None and row.set_aside is None]  # fmt: skip
        sheet.remarks["fills"] = [{"density": Remark(f"{shown(from_si(net / given.volume.si, unit), 4)} {unit}", net)} if net else {} for net in nets]  # fmt: skip
        if used:
            sheet.results.densities = [in_unit(one, unit) for one in used]
            mean = math.fsum(used) / len(used)
            sheet.results.density = in_unit(mean, unit)
            spread = (max(used) - min(used)) / mean
            sheet.results.spread = percent(spread)
            if given.density_keyed:
                sheet.results.difference = percent(given.density_keyed.si / mean - 1)
        if len(used) < 2:
            text = (
                "One fill says nothing of the next: fill it again."
                if used
                else "Every fill is set aside: fill it again."
            )
            return sheet.answer(KEEP_TESTING, [Reason("too-few-runs", text)], headline="Fill it again")
        agree = (given.agree or AGREE).si
        if not at_most(spread, agree):
            text = f"The fills range over {percent_shown(spread)}; {percent_shown(agree)} counts as agreeing."
            if len(used) <= FEW:
                return sheet.answer(KEEP_TESTING, [Reason("not-agreeing", f"{text} Fill it once more, the same way.")], headline="Fill it once more")  # fmt: skip
            return sheet.answer(FIND_FAULT, [Reason("not-repeating", f"{text} Filled differently, damp, or segregated.")], look=WHERE_TO_LOOK)  # fmt: skip
        words = f"{shown(from_si(mean, unit), 4)} {unit}"
        if given.density_keyed and at_most(abs(given.density_keyed.si / mean - 1), agree):
            text = f"It weighs {words}; the controller has {given.density_keyed.text}."
            return sheet.answer(LEAVE, [Reason("within-limit", text)], headline="Leave it alone")
        text = f"It weighs {words}" + (
            f"; the controller has {given.density_keyed.text}." if given.density_keyed else "."
        )
        sheet.down = given.density_keyed is not None and given.density_keyed.si > mean
        return sheet.answer(ADJUST, [Reason("outside-limit", text)], headline=f"Key in {words}")

    def asks_for_change(self, answer: Assessment[DensityResults]) -> bool:
        return False

    def errors(self, given: DensityCheckInputs, answer: Assessment[DensityResults]) -> Errors | None:
        return None

    def hands_on(self, given: DensityCheckInputs, answer: Assessment[DensityResults], marks: Marks) -> dict[str, Any]:
        """The density that was measured, for the parts after it."""
        result = answer.results.density
        return {"density": f"{result.value!r} {result.unit}"} if result and answer.call in (LEAVE, ADJUST) else {}

    def hands_back(self, given: DensityCheckInputs, answer: Assessment[DensityResults], plates: object) -> HandsBack:
        result = answer.results.density
        if not result or answer.call not in (LEAVE, ADJUST):
            return HandsBack()
        return HandsBack(plates={"density_keyed": result.written(5)})

    def draw(self, given: DensityCheckInputs, seen: Seen) -> drawings.Stairs:
        """The fills beside each other, and the density that is keyed in."""
        steps = []
        for place, row in enumerate(given.fills or []):
            net = net_of(row)
            if net and given.volume:
                steps.append(
                    drawings.Stair(value=net / given.volume.si, text=str(place + 1), aside=row.set_aside is not None)
                )
        keyed = given.density_keyed
        return drawings.Stairs(
            steps=tuple(steps[-drawings.MARKS_DRAWN :]),
            wanted=drawings.Figure(size=keyed.si, text=keyed.text) if keyed else None,
            within=(given.agree or AGREE).si,
            called="in the controller",
        )


def _unit(given: DensityCheckInputs) -> str:
    if given.density_keyed:
        return given.density_keyed.unit
    mass = unit_of([one for row in given.fills or [] for one in (row.gross, row.net)])
    return UNITS.get((mass, given.volume.unit if given.volume else "L"), "kg/L")


METHOD = DensityCheck()
