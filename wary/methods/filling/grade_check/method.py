"""Sorting pieces by weight: the limits, the outlets, and whether what was sorted can be what it says."""

from dataclasses import dataclass
from typing import Annotated

from wary.acts import SETTLE, Act
from wary.fields import (
    Count,
    CountFromZero,
    Day,
    Inputs,
    MassFromZero,
    MassOrNone,
    Words,
    choice,
    field,
    plate,
)
from wary.methods.filling.filler import CAUTIONS
from wary.methods.method import HandsBack, Method, RowsFrom
from wary.methods.reads import Reads
from wary.methods.steps import Close, Enter, Figures, Item, Listed, Look, Rows, remark, typed
from wary.quantities import Quantity
from wary.results import Figure, Results, Word, figure
from wary.rules.assessment import LEAVE, Assessment
from wary.suspects import looks
from wary.suspects.suspect import keys

LimitKind = Annotated[str, choice(lower="the least of its grade", upper="the most of its grade")]


@dataclass(slots=True, eq=False)
class ChangedGrade(Results):
    """One setting of the grades that was left otherwise than found."""

    name: Word | None = figure("setting")
    found: Word | None = figure("found")
    left: Word | None = figure("left")


@dataclass(slots=True, eq=False)
class GradeResults(Results):
    """Results of a grade check."""

    averages: list[Figure | None] | None = figure("average of each grade", "mass")
    shares: list[Figure] | None = figure("share of each grade", "percentage")
    pieces: Figure | None = figure("pieces in the batch", "integer", summary=True)
    total: Figure | None = figure("the batch together", "mass", summary=True)
    mean_piece: Figure | None = figure("mean of a piece", "mass", large=True)
    earlier_mean: Figure | None = figure("mean of a piece on days before", "mass")
    mean_change: Figure | None = figure("mean of a piece against days before", "percentage", signed=True)
    changed: list[ChangedGrade] | None = figure("limits and outlets left otherwise than found")
    misgraded_share: Figure | None = figure("likely in the wrong grade", "percentage", summary=True, large=True)


class Before(Inputs):
    """What a day before came to, of one batch."""

    day: Day | None = field("Day")
    batch: Words | None = field("Batch")
    count: CountFromZero | None = field("Pieces")
    total_mass: MassFromZero | None = field("Total")


class Grade(Inputs):
    """One grade, in the machine's own order."""

    name: Words | None = field("Grade", ask="say what it is called.")
    limit: MassFromZero | None = field("Limit", ask="read its limit off the machine.")
    outlet: Count | None = field("Outlet", ask="say which outlet it goes to.")


class Sorted(Inputs):
    """What a batch has in one grade, by the machine's counters."""

    grade: Words | None = field("Grade", ask="say which grade.")
    count: CountFromZero | None = field("Pieces")
    total_mass: MassFromZero | None = field("Total")


class GradeCheckInputs(Inputs):
    """Inputs of a grade check."""

    grades: list[Grade] | None = field("Grades", ask="Type the grades in the machine's order: name, limit, outlet.")
    limit_kind: LimitKind | None = plate("A limit is")
    reject_limit: MassOrNone | None = plate("Rejected beyond", "“none” where the machine rejects nothing")
    outlets: Count | None = plate("Outlets that there are")
    scale_noise: MassFromZero | None = plate("Noise of the scale")
    batch_name: Words | None = field("Batch", among="earlier.batch")
    batch: list[Sorted] | None = field("What was sorted")
    grades_left: list[Grade] | None = field("Grades as left", "where they were changed")
    reject_left: MassOrNone | None = field("Rejected beyond, as left")
    earlier: list[Before] | None = field("Days before", "what each batch came to")


LEFT = Rows(list="grades_left", name="Grade", empty="Nothing was changed.", columns=(typed("name", "Grade"), typed("limit", "Limit"), typed("outlet", "Outlet")), typed=("name", "limit", "outlet"), ends=("outlet",))  # fmt: skip
EARLIER = Rows(list="earlier", name="Day", empty="None kept yet.", columns=(typed("day", "Day"), typed("batch", "Batch"), typed("count", "Pieces"), typed("total_mass", "Total")), typed=("day", "batch", "count", "total_mass"), ends=("total_mass",))  # fmt: skip
GRADES = Rows(
    list="grades",
    name="Grade",
    empty="No grades yet: in the machine's own order.",
    columns=(typed("name", "Grade"), typed("limit", "Limit"), remark("range", "From, to"), typed("outlet", "Outlet")),
    typed=("name", "limit", "outlet"),
    ends=("outlet",),
)
BATCH = Rows(
    list="batch",
    name="Grade",
    empty="Nothing sorted yet: pieces and total of each grade, read together.",
    columns=(
        typed("grade", "Grade"),
        typed("count", "Pieces"),
        typed("total_mass", "Total"),
        remark("average", "Average"),
        remark("share", "Share"),
    ),
    typed=("grade", "count", "total_mass"),
    ends=("total_mass",),
    clearing="Clear the batch",
)


class GradeCheck(Method[GradeCheckInputs, GradeResults]):
    """`grade-check`: limits in order, each outlet once, and averages inside their own limits."""

    key = "grade-check"
    title = "Grades and batch"
    summary = "Limits, outlets, and the averages of what was sorted"
    question = "Does each piece go where it belongs?"
    subject = "The grader"
    profile = "filling"
    inputs = GradeCheckInputs
    results = GradeResults
    compares = True
    takes_rows = {
        "grades": RowsFrom("grades", {"name": "name", "limit": "limit", "outlet": "outlet"}),
        "earlier": RowsFrom("days", {"day": "day", "batch": "batch", "count": "count", "total_mass": "total_mass"}),
    }
    remembers = (
        "grades.name",
        "grades.limit",
        "grades.outlet",
        "batch.grade",
        "limit_kind",
        "reject_limit",
        "outlets",
        "scale_noise",
    )
    against = ("batch_name", "limit_kind", "reject_limit")
    acts = {"grades.limit": (Act("cycle"), SETTLE), "batch.count": (), "batch.total_mass": ()}
    stays = frozenset({"grades.outlet", "earlier.count", "earlier.total_mass"})
    reads = (
        Reads(looks.LIMITS_BACK, "grades.limit", ("limits", "outlets", "reject"), clears=False),
        Reads(looks.COUNTS, "batch.total_mass", ("averages",), result="averages"),
    )
    steps = (
        Look(
            "look",
            "Look first",
            "The scale under it first: zero, and a span with any suitable mass.",
            items=(
                Item("clean", "Belt, cups and scale clean; nothing touches the scale", looks=keys(looks.CAKED, looks.GAP)),
                Item("zero", "Empty and running it shows zero"),
                Item("batch", "The active batch is the one that is named here", looks=keys(looks.COUNTS)),
                Item("cleared", "A grade or batch was cleared", "Counts were cleared: what they showed stands here, and on the batch's paper."),
            ),
            cautions=CAUTIONS,
        ),
        Enter("machine", "The machine", "How it takes a limit, and what it does with a piece beyond all of them.", fields=("limit_kind", "reject_limit", "outlets", "scale_noise")),
        Listed("grades", "Grades", "In the machine's own order, each outlet once.", rows=GRADES),
        Listed("batch", "Batch", "Pieces and total of each grade, read at one time.", fields=("batch_name",), rows=BATCH),
        Listed("earlier", "Days before", "What each batch came to, to hold this one against.", rows=EARLIER),
        Listed("left", "As left", "Only where a limit, an outlet or the reject was changed.", fields=("reject_left",), rows=LEFT),
        Figures("figures", "What it comes to", ),
        Close("close", "Close", "Prove it with a check mass just under and just over a limit, then write it up."),
    )  # fmt: skip

    def hands_back(self, given: GradeCheckInputs, answer: Assessment[GradeResults], plates: object) -> HandsBack:
        """Limits, outlets and reject as they were left; what the batch came to, for the days after."""
        left = given.grades_left or given.grades or []
        grades = [{"name": one.name or "", "limit": one.limit.text if one.limit else "", "outlet": str(one.outlet or "")} for one in left]  # fmt: skip
        reject = given.reject_left or given.reject_limit
        kept = {"reject_limit": reject.text if isinstance(reject, Quantity) else reject} if reject else {}
        pieces, total = answer.results.pieces, answer.results.total
        if answer.call != LEAVE:
            return HandsBack()
        day = {"batch": given.batch_name or "", "count": f"{pieces.value:g}", "total_mass": total.written(8)} if pieces and total else None  # fmt: skip
        return HandsBack(plates=kept, lists={"grades": grades}, rows={"days": day} if day else {})

    def loose(self, given: GradeCheckInputs) -> list[tuple[str, str]]:
        """A batch that was counted is one of a name."""
        if given.batch and not given.batch_name:
            return [("batch-name", "The batch has no name: say which one was active.")]
        return []
