"""Does every part move before there is product: the machine's own list, as its site wrote it."""

from dataclasses import dataclass

from wary.fields import Flag, Inputs, Number, Words, at_most, field
from wary.methods.filling.filler import CAUTIONS
from wary.methods.method import Method, RowsFrom, Setting
from wary.methods.reads import Reads
from wary.methods.shared.draft import Draft
from wary.methods.steps import Close, Item, Listed, Look, Rows, typed
from wary.results import Results
from wary.rules.assessment import LEAVE, NOT_READY, Assessment, Reason, missing
from wary.suspects import looks


@dataclass(slots=True, eq=False)
class FillPrecheckResults(Results):
    """Results of a look before filling: it works nothing out."""


class Supply(Inputs):
    """Air, voltage or the like: the band in which it should be, and what is read."""

    name: Words | None = field("Supply", ask="say which supply.")
    low: Number | None = field("From")
    high: Number | None = field("To")
    unit: Words | None = field("Unit")
    read: Number | None = field("Read", ask="read it off, and type it.")


class Moved(Inputs):
    """One part that is tried empty, and what is expected of it."""

    name: Words | None = field("Part", ask="say which part.")
    expected: Words | None = field("Expected")
    as_expected: Flag | None = field("It did", ask="try it, and say whether it did what is expected.")
    note: Words | None = field("Note")


class FillPrecheckInputs(Inputs):
    """Inputs of a check before there is product."""

    supplies: list[Supply] | None = field("Supplies")
    parts: list[Moved] | None = field("Parts", ask="Type the first part, and what is expected of it.")


SUPPLIES = Rows(
    list="supplies",
    name="Supply",
    empty="None on the list.",
    columns=(typed("name", "Supply"), typed("low", "From"), typed("high", "To"), typed("unit", "Unit"), typed("read", "Read")),
    typed=("name", "low", "high", "unit", "read"),
    ends=("read",),
    resume=True,
)  # fmt: skip
PARTS = Rows(
    list="parts",
    name="Part",
    empty="Nothing on the list yet.",
    columns=(typed("name", "Part"), typed("expected", "Expected"), typed("as_expected", "It did"), typed("note", "Note")),
    typed=("name", "expected", "as_expected", "note"),
    ends=("as_expected",),
    resume=True,
)  # fmt: skip


class FillPrecheck(Method[FillPrecheckInputs, FillPrecheckResults]):
    """`fill-precheck`: a list that the site writes; one failed row, and it is not ready."""

    key = "fill-precheck"
    title = "Before there is product"
    summary = "Every stage, gate, feeder, clamp and discharge tried empty"
    question = "Does every part move?"
    subject = "The check before product"
    profile = "filling"
    inputs = FillPrecheckInputs
    results = FillPrecheckResults
    takes_rows = {
        "parts": RowsFrom("checklist", {"name": "part", "expected": "expected"}),
        "supplies": RowsFrom("supplies", {"name": "supply", "low": "low", "high": "high", "unit": "unit"}),
    }
    reads = (Reads(looks.AIR, "supplies.read", codes=("supply",)),)
    steps = (
        Look(
            "look",
            "Look first",
            "Empty, no pack in the clamp, nobody at the machine but who tries it.",
            items=(
                Item("cycle", "The feeding cycle is finished"),
                Item("hopper", "The weigh hopper is empty and shows zero"),
                Item("by-hand", "The machine is on manual", "The machine is on manual: set it back."),
            ),
            cautions=CAUTIONS,
        ),
        Listed("supplies", "Supplies", "Each within its band.", rows=SUPPLIES),
        Listed("parts", "Parts", "Try each one empty, and say whether it did what is expected.", rows=PARTS, cautions=(CAUTIONS[0],)),
        Close("close", "Close", "Back on automatic, then write it up."),
    )  # fmt: skip

    def assess(self, given: FillPrecheckInputs, setting: Setting) -> Assessment[FillPrecheckResults]:
        sheet = Draft(self, setting)
        sheet.need(given, "parts")
        failed: list[Reason] = []
        for place, one in enumerate(given.supplies or []):
            sheet.need_in(f"inputs.supplies[{place}]", one, ("name",), f"Supply {place + 1}")
            if one.read is None:
                sheet.absent.append(missing(f"inputs.supplies[{place}].read", f"{one.name or f'Supply {place + 1}'}: read it off, and type it."))  # fmt: skip
            elif (one.low is not None and not at_most(one.low, one.read)) or (one.high is not None and not at_most(one.read, one.high)):  # fmt: skip
                band = " to ".join(f"{end:g}" for end in (one.low, one.high) if end is not None)
                text = f"{one.name} is at {one.read:g} {one.unit or ''}; it should be {band} {one.unit or ''}.".replace(" ;", ";").replace(" .", ".")  # fmt: skip
                failed.append(Reason("supply", text, {"path": f"inputs.supplies[{place}].read"}))
        for place, part in enumerate(given.parts or []):
            where = part.name or f"Part {place + 1}"
            sheet.need_in(f"inputs.parts[{place}]", part, ("name",), f"Part {place + 1}")
            if part.as_expected is None:
                wanted = f": {part.expected}" if part.expected else ""
                sheet.absent.append(missing(f"inputs.parts[{place}].as_expected", f"{where}{wanted}. Try it, and say whether it did."))  # fmt: skip
            elif not part.as_expected:
                text = f"{where} did not do what is expected{f', {part.expected}' if part.expected else ''}.{f' {part.note}' if part.note else ''}"
                failed.append(Reason("failed", text, {"path": f"inputs.parts[{place}].as_expected"}))
        for reason in failed:
            sheet.check(reason.code, "fail", reason.text)
        if failed:
            lead = "No product before this is put right."
            return sheet.answer(NOT_READY, [*failed, *sheet.absent], headline="Not ready: a row failed", lead=lead)
        if sheet.absent:
            return sheet.answer(NOT_READY, sheet.absent)
        count = len(given.parts or [])
        text = f"{count} {'part' if count == 1 else 'parts'} tried, all as expected."
        return sheet.answer(LEAVE, [Reason("ready", text)], headline="Ready for product")


METHOD = FillPrecheck()
