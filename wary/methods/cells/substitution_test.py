"""Substitution test: a large scale and few weights.

The weights go on; then they come off, and material goes on until the display reads about the same;
then the weights go on again beside it. So the load grows by the weights each time, and with it what
is not known of it: each substitution adds two readings of the display.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from wary import drawings
from wary.drawings import Growing, GrowingMark
from wary.fields import Inputs, Mass, MassFromZero, PositiveMass, at_most, field, plate
from wary.methods.cells.record import TARES_STALE
from wary.methods.method import Errors, Method, Seen, Setting
from wary.methods.reads import Reads
from wary.methods.shared.cautions import FILL_GATE, LIFT_WEIGHTS, OWN_RULES
from wary.methods.shared.draft import Draft
from wary.methods.steps import Close, Enter, Item, Listed, Look, Plan, Rows, remark, typed
from wary.quantities import from_si, mass_shown, percent_shown, shown
from wary.results import Figure, Results, figure, in_unit, percent
from wary.rules.assessment import ADJUST, FIND_FAULT, LEAVE, NOT_READY, Assessment, Reason, Remark
from wary.rules.call import QUARTER, little
from wary.suspects import looks
from wary.suspects.suspect import keys

ALIKE = 0.02
"""How far a substituted load may read from the one before it, as a share of the weights."""
MOST_ROUNDS = 200
WHERE_TO_LOOK = (
    "Something that touches as the load grows: pipes, stays, the edge of the platform.",
    "Material that fell off, or kept arriving, while the weights were moved.",
    "A cell near its end, or a mount that binds: press each in a cell check.",
)


@dataclass(slots=True, eq=False)
class SubstitutionResults(Results):
    """Results of a substitution test, round by round."""

    loads: list[Figure] | None = figure("load of each round", "mass")
    errors: list[Figure] | None = figure("error of each round", "mass", signed=True)
    uncertainties: list[Figure] | None = figure("uncertainty of each load", "mass")
    corrections: list[Figure] | None = figure("correction of each round", "mass", signed=True)
    linearity: Figure | None = figure("linearity", "percentage", summary=True)
    proven_up_to: Figure | None = figure("proven up to", "mass", summary=True)
    next_material: Figure | None = figure("material for the next round", "mass")
    reach: Figure | None = figure("how far these weights reach", "mass")


class Round(Inputs):
    """One round: shown with what is on it and the weights, then with material in place of the weights."""

    with_weights: Mass | None = field("Shown with the weights on", ask="Weights on and steady: read what it shows.")
    substituted: Mass | None = field(
        "Shown with material instead", ask="Weights off, material on until it reads about the same: read what it shows."
    )


ROUNDS = Rows(
    list="rounds",
    name="Round",
    empty="Empty and at zero: the weights on, steady, and read.",
    columns=(
        typed("with_weights", "With the weights"),
        typed("substituted", "Material instead"),
        remark("load", "Load"),
        remark("error", "Off by"),
        remark("known", "Known to"),
    ),
    typed=("with_weights", "substituted"),
    resume=True,
)


class SubstitutionInputs(Inputs):
    """Inputs of a substitution test."""

    weights: PositiveMass | None = field(
        "The weights, all together", ask="Say what the weights are together: type their mass."
    )
    weights_uncertainty: MassFromZero | None = field(
        "Their uncertainty", "expanded, from their certificates, all together"
    )
    division: PositiveMass | None = plate("Division of the display")
    capacity: PositiveMass | None = plate("Capacity")
    zero: Mass | None = field("Shown empty", "nought where nothing is said")
    rounds: list[Round] | None = field("Rounds", ask="Weights on and steady: read what it shows.")


class SubstitutionTest(Method[SubstitutionInputs, SubstitutionResults]):
    """`substitution-test`: load after load made of the same weights, and how far that proves the scale."""

    key = "substitution-test"
    title = "Substitution test"
    summary = "A large scale proven with few weights: material takes their place, and they go on again"
    question = "Does it read right, and how far is that shown?"
    subject = "The substituted loads"
    passes_for = {"not-alike": "scatter", "linearity": "curve"}
    profile = "vessel"
    inputs = SubstitutionInputs
    results = SubstitutionResults
    compares = True
    confirms = True
    makes_stale = (TARES_STALE,)
    against = ("weights", "weights_uncertainty")
    reads = (Reads(looks.ANOTHER_LOAD, "rounds.with_weights", ("linearity",), least=2),)
    steps = (
        Look(
            "look",
            "Look first",
            items=(
                Item("free", "Nothing touching, hanging or caked on", looks=keys(looks.GAP, looks.LINES, looks.CAKED)),
                Item("material", "Material at hand that can be put on by little and little, and taken off again"),
                Item("hoist", "A hoist or a fork for the weights: they are lifted once a round"),
            ),
            cautions=(LIFT_WEIGHTS,),
        ),
        Enter("plates", "Read off", "What the display can show.", fields=("capacity", "division", "zero"), cautions=(OWN_RULES,)),
        Plan("weights", "The weights", "How far they reach is said before the first is lifted.", fields=("weights", "weights_uncertainty")),
        Listed("rounds", "Rounds", "Weights on, read. Weights off, material on until it reads about the same, read. Then the weights again.", rows=ROUNDS, cautions=(LIFT_WEIGHTS, FILL_GATE)),
        Close("close", "Close", "Weights and material off, then write it up."),
    )  # fmt: skip

    def assess(self, given: SubstitutionInputs, setting: Setting) -> Assessment[SubstitutionResults]:
        sheet = Draft(self, setting)
        sheet.need(given, "weights", "division", "rounds")
        _missing(sheet, given)
        work = _Rounds(sheet, given, setting)
        if given.weights and given.division:
            work.reach()
            work.figures()
        failed = sheet.facts(("linearity",))
        if failed:
            return sheet.answer(FIND_FAULT, failed, look=WHERE_TO_LOOK)
        if sheet.absent:
            return sheet.answer(NOT_READY, sheet.absent)
        return work.judged()

    def errors(self, given: SubstitutionInputs, answer: Assessment[SubstitutionResults]) -> Errors | None:
        """The error of the largest load, in per cent of it."""
        results = answer.results
        if not results.errors or not results.loads or not results.uncertainties or results.loads[-1].value <= 0:
            return None
        load = results.loads[-1].value
        return Errors(results.errors[-1].value / load * 100, None, results.uncertainties[-1].value / load * 100)

    def draw(self, given: SubstitutionInputs, seen: Seen) -> Growing:
        """The load growing round by round, with what is not known of it growing beside it."""
        marks = []
        if given.weights:
            for place, load in enumerate(_loads(given)):
                row = (given.rounds or [])[place]
                unknown = _uncertainty(given, place + 1)
                off = row.with_weights.si - _zero(given) - load if row.with_weights else None
                marks.append(
                    GrowingMark(load=load, unknown=unknown, off=off, text=mass_shown(load, given.weights.unit))
                )
        shown_marks = tuple(marks[-drawings.MARKS_DRAWN :])
        weights = given.weights.si if given.weights else None
        return Growing(marks=shown_marks, weights=weights, capacity=drawings.figure(given.capacity or seen.quantity("capacity")))  # fmt: skip


def _zero(given: SubstitutionInputs) -> float:
    return given.zero.si if given.zero else 0.0


def _loads(given: SubstitutionInputs) -> list[float]:
    """`loads[k] = k·weights + Σ(substituted − with_weights)` over the rounds before, kg; as far as they can be told."""
    loads, moved = [], 0.0
    assert given.weights
    for number, row in enumerate(given.rounds or [], 1):
        loads.append(number * given.weights.si + moved)
        if row.with_weights is None or row.substituted is None:
            break
        moved += row.substituted.si - row.with_weights.si
    return loads


def uncertainty_of(number: int, weights_uncertainty: float, division: float) -> float:
    """`2·√((k·u/2)² + (2k − 1)·d²/12)`: expanded uncertainty of the load of round `k`, kg."""
    return 2 * math.sqrt((number * weights_uncertainty / 2) ** 2 + (2 * number - 1) * division**2 / 12)


def _uncertainty(given: SubstitutionInputs, number: int) -> float:
    own = given.weights_uncertainty.si if given.weights_uncertainty else 0.0
    return uncertainty_of(number, own, given.division.si if given.division else 0.0)


def reach_of(weights: float, own: float, division: float, accept: float, capacity: float | None) -> float:
    """The largest load, kg, that these weights can prove: every uncertainty up to it within a division or the limit."""
    reached = 0.0
    for number in range(1, MOST_ROUNDS + 1):
        load = number * weights
        if capacity is not None and not at_most(load, capacity):
            break
        if not at_most(uncertainty_of(number, own, division), max(division, accept * load)):
            break
        reached = load
    return reached


def _missing(sheet: Draft[SubstitutionResults], given: SubstitutionInputs) -> None:
    rounds = given.rounds or []
    for place, row in enumerate(rounds):
        path, where = f"inputs.rounds[{place}]", f"Round {place + 1}"
        sheet.need_in(path, row, ("with_weights",), where)
        if row.substituted is None:
            if place + 1 < len(rounds):
                sheet.need_in(path, row, ("substituted",), where)
            continue
        if row.with_weights is None or given.weights is None:
            continue
        apart = row.substituted.si - row.with_weights.si
        if not at_most(abs(apart), ALIKE * given.weights.si):
            text = (
                f"{where}: with material instead it shows {mass_shown(apart, given.weights.unit)} more than with the weights; "
                f"up to {mass_shown(ALIKE * given.weights.si, given.weights.unit)} counts as alike. Put on or take off until it does."
            )
            sheet.absent.append(Reason("not-alike", text, {"path": f"{path}.substituted"}))


class _Rounds:
    """The figures of the rounds that are in, and what is said of them."""

    def __init__(self, sheet: Draft[SubstitutionResults], given: SubstitutionInputs, setting: Setting) -> None:
        self.sheet, self.given, self.limit = sheet, given, setting.profile.accept
        self.unit = given.weights.unit if given.weights else "kg"
        self.loads: list[float] = []
        self.errors: list[float] = []
        self.next: list[Reason] = []

    def _accept(self, load: float) -> float:
        return self.limit.relative_at(load) if self.limit and load > 0 else 0.0

    def _allowed(self, load: float) -> float:
        assert self.given.division
        return max(self.given.division.si / 2, self._accept(load) * load)

    def reach(self) -> None:
        """How far these weights can prove this scale, said before the first is lifted."""
        given = self.given
        assert given.weights and given.division
        own, capacity = given.weights_uncertainty, given.capacity
        far = reach_of(given.weights.si, own.si if own else 0.0, given.division.si, self._accept(given.weights.si), capacity.si if capacity else None)  # fmt: skip
        self.sheet.results.reach = in_unit(far, self.unit)
        if far <= 0:
            text = "These weights are too few for this display: not even the first round can show an error as large as the limit."
        else:
            text = f"With {given.weights.text} you can prove {mass_shown(far, self.unit)}: {round(far / given.weights.si)} rounds."
        self.sheet.plan.append(text)

    def figures(self) -> None:
        """Loads, errors, uncertainties, how straight it is, and how far that proves anything."""
        given, results, unit = self.given, self.sheet.results, self.unit
        rows = given.rounds or []
        self.loads = [load for load, row in zip(_loads(given), rows, strict=False) if row.with_weights]
        if not self.loads:
            return
        reads = [row.with_weights.si for row in rows if row.with_weights][: len(self.loads)]
        self.errors = [read - _zero(given) - load for read, load in zip(reads, self.loads, strict=True)]
        unknown = [_uncertainty(given, number) for number in range(1, len(self.loads) + 1)]
        results.loads = [in_unit(load, unit) for load in self.loads]
        results.errors = [in_unit(error, unit) for error in self.errors]
        results.uncertainties = [in_unit(one, unit) for one in unknown]
        proven = self._proven(unknown)
        if proven > 0:
            results.proven_up_to = in_unit(proven, unit)
        self._straightness()
        self._next(rows)
        self.sheet.remarks["rounds"] = [self._remarks(place, unknown) for place in range(len(self.loads))]

    def _remarks(self, place: int, unknown: Sequence[float]) -> dict[str, Remark]:
        load, error, unit = self.loads[place], self.errors[place], self.unit
        good = at_most(abs(error), self._allowed(load))
        return {
            "load": Remark(mass_shown(load, unit), load),
            "error": Remark(f"{shown(from_si(error, unit), 4, sign=True)} {unit}", error, "good" if good else "bad"),
            "known": Remark(f"± {mass_shown(unknown[place], unit, 3)}", unknown[place]),
        }

    def _proven(self, unknown: Sequence[float]) -> float:
        assert self.given.division
        proven = 0.0
        for load, one in zip(self.loads, unknown, strict=True):
            if not at_most(one, max(self.given.division.si, self._accept(load) * load)):
                break
            proven = load
        return proven

    def _straightness(self) -> None:
        """The largest error's distance from the straight line through empty and the largest load, of that load."""
        largest = max(self.loads)
        if len(self.loads) < 2 or largest <= 0:
            return
        slope = self.errors[self.loads.index(largest)] / largest
        off = max(abs(error - slope * load) for error, load in zip(self.errors, self.loads, strict=True))
        share, allowed = off / largest, self._accept(largest)
        self.sheet.results.linearity = percent(share)
        text = f"The errors stray from a straight line by {percent_shown(share)} of the largest load, {percent_shown(allowed)} is allowed."
        assert self.given.division
        stepped = at_most(off, self.given.division.si / 2)
        self.sheet.check("linearity", "pass" if stepped or at_most(share, allowed) else "fail", text)

    def _next(self, rows: Sequence[Round]) -> None:
        """What the next round wants: the weights off, and as much material in their place."""
        given, last = self.given, rows[-1]
        assert given.weights
        further = given.capacity is None or at_most(self.loads[-1] + given.weights.si, given.capacity.si)
        if last.with_weights is None or last.substituted is not None or not further:
            return
        self.sheet.results.next_material = in_unit(given.weights.si, self.unit)
        text = (
            f"The next round wants about {given.weights.text} of material: weights off, then material until it shows "
            f"{last.with_weights.text} again."
        )
        self.next.append(Reason("next-round", text))

    def judged(self) -> Assessment[SubstitutionResults]:
        sheet, unit = self.sheet, self.unit
        worst = max(
            range(len(self.errors)),
            key=lambda place: (round(abs(self.errors[place]) - self._allowed(self.loads[place]), 9), place),
        )
        load, off = self.loads[worst], self.errors[worst]
        text = (
            f"At {mass_shown(load, unit)} it is off by {shown(from_si(off, unit), 3, sign=True)} {unit}; "
            f"{mass_shown(self._allowed(load), unit, 3)} is allowed there."
        )
        if not at_most(abs(off), self._allowed(load)):
            sheet.results.corrections = [in_unit(-error, unit) for error in self.errors]
            return sheet.answer(
                ADJUST, [Reason("outside-limit", text)], headline="Adjust", lead=text, suggestions=self.next
            )
        proven = sheet.results.proven_up_to
        lead = (
            f"Proven up to {mass_shown(proven.si, unit)}."
            if proven
            else "In order, and nothing of it proven: the display is too coarse for these weights."
        )
        return sheet.answer(
            LEAVE, [Reason("within-limit", text), *self._proves_little()], lead=lead, suggestions=self.next
        )

    def _proves_little(self) -> list[Reason]:
        capacity, proven = self.given.capacity, self.sheet.results.proven_up_to
        up_to = proven.si if proven else 0.0
        if capacity is None or at_most(QUARTER * capacity.si, up_to):
            return []
        least = mass_shown(QUARTER * capacity.si, self.unit)
        why = f"a quarter of the capacity, {least}, is the least that proves it, and these rounds reach {mass_shown(up_to, self.unit)}"
        return [little(up_to, self.unit, why, capacity)]


METHOD = SubstitutionTest()
