"""Tuning the cut-offs: what is said of what was typed."""

import math
from collections.abc import Callable

from wary import drawings
from wary.fields import (
    at_most,
)
from wary.methods.filling.fill_tuning.method import Fill, FillTuning, FillTuningInputs, FillTuningResults, TrialIn
from wary.methods.filling.filler import TWO_SPEEDS
from wary.methods.filling.tuning import (
    FINE_LONG,
    FINE_SHORT,
    LEAST_FILLS,
    STAGES,
    UNSEEN,
    CutOffs,
    Decision,
    Pack,
    Stage,
    Trial,
    Why,
    answer_of,
    back_to,
    decide,
    deviation,
    erratic_in_a_row,
    may_probe,
    sensitivity,
    snapped,
)
from wary.methods.method import Errors, Marks, Seen, Setting
from wary.methods.shared.draft import Draft
from wary.quantities import Quantity, from_si, mass_shown, shown
from wary.results import Figure, Word, in_unit
from wary.rules.assessment import (
    FIND_FAULT,
    KEEP_TESTING,
    LEAVE,
    NOT_READY,
    Assessment,
    Reason,
    Remark,
    missing,
)

ERRATIC = 0.4
BENCH_FILLS = 5
ERRATIC_DIVISIONS, ERRATIC_SHARE = 4, 0.01
"""A spread that is too much, where nothing is said: the smaller of so much of the whole tolerance, and of the larger of
four divisions and one per cent of the target."""
WHERE_TO_LOOK = (
    "Product: bridging in the hopper, running low, lumps, another batch.",
    "Air: its pressure at the gates, a cylinder that sticks, product that carries air.",
    "The gate and the feeder: worn, caked, not shutting to the same place.",
    "Something that shakes the weigh hopper: a walkway, a draught, a machine beside it.",
    "The weighing itself: zero, tare, anything that touches the hopper.",
)


def _named(given: FillTuningInputs, stage: Stage) -> str:
    """What this machine calls a cut-off."""
    return TWO_SPEEDS.get(stage, stage) if given.two_speeds else stage


def _pack(given: FillTuningInputs) -> Pack | None:
    """The pack in kg; None while target or division is missing. Tolerances may come later, and are nothing until then."""
    if not given.target or not given.division:
        return None
    over, under = given.over.si if given.over else 0.0, given.under.si if given.under else 0.0
    coarse = max(ERRATIC_DIVISIONS * given.division.si, ERRATIC_SHARE * given.target.si)
    scattered = min(ERRATIC * (over + under), coarse) if over + under else coarse
    erratic = given.erratic.si if given.erratic else scattered
    high = given.usual.fine_high if given.usual else None
    return Pack(given.target.si, over, under, given.division.si, erratic, high.si if high else None)


def _cut_offs(one: TrialIn, target: float = float("inf")) -> CutOffs | None:
    """The settings of a trial in kg; a stage of its own that the machine has not is never used."""
    if one.medium is None or one.fine is None:
        return None
    return CutOffs(one.fast.si if one.fast else target, one.medium.si, one.fine.si)


def _trial(one: TrialIn, pack: Pack) -> Trial | None:
    """A trial with the fills that are in the set; None while a setting is missing."""
    cut_offs = _cut_offs(one, pack.target)
    if cut_offs is None:
        return None
    fills = [fill for fill in one.fills or [] if fill.set_aside is None and fill.weight is not None]
    errors = tuple(fill.weight.si - pack.target for fill in fills if fill.weight)
    return Trial(cut_offs, errors, tuple(fill.fine_time.si for fill in fills if fill.fine_time))


def _moved(place: int, rows: list[TrialIn]) -> tuple[Stage, ...]:
    """What was moved since the trial before."""
    now, before = _cut_offs(rows[place]), _cut_offs(rows[place - 1]) if place else None
    return now.moved_since(before) if now and before else ()


def _kind(trial: Trial, pack: Pack) -> drawings.FillsAre | None:
    """What the fills of a trial look like; None below three."""
    if len(trial.errors) < LEAST_FILLS:
        return None
    if not at_most(trial.spread, pack.erratic):
        return "scattered"
    in_order = all(pack.within(error) for error in trial.errors[-LEAST_FILLS:]) and pack.centred(trial.mean)
    return "in-order" if in_order else "beside"


SAYS: dict[drawings.FillsAre | None, str] = {
    "scattered": "scattered",
    "beside": "beside",
    "in-order": "tuned",
    None: "too few fills",
}


def _drawn(given: FillTuningInputs, place: int, pack: Pack) -> drawings.FillGroup:
    rows, unit = given.trials or [], given.target.unit if given.target else "g"
    one = rows[place]
    trial = _trial(one, pack)
    marks = [
        drawings.FillMark(
            off=fill.weight.si - pack.target,
            text=mass_shown(fill.weight.si - pack.target, unit),
            aside=fill.set_aside is not None,
            out=not pack.within(fill.weight.si - pack.target),
        )
        for fill in one.fills or []
        if fill.weight
    ]
    return drawings.FillGroup(
        label=f"trial {place + 1}",
        note=" and ".join(f"{_named(given, stage)} moved" for stage in _moved(place, rows)),
        marks=tuple(marks[-drawings.MARKS_DRAWN :]),
        mean=trial.mean if trial and trial.errors else None,
        are=_kind(trial, pack) if trial else None,
    )


class _Tuning:
    """One answer in the making. Masses in kg; sentences in the pack's unit, settings in that of the cut-offs."""

    def __init__(self, method: FillTuning, given: FillTuningInputs, setting: Setting) -> None:
        self.sheet = Draft(method, setting)
        self.given = given
        self.rows = given.trials or []
        self.pack = _pack(given)
        self.unit = given.target.unit if given.target else "g"
        self.medium, self.fine = _named(given, "medium"), _named(given, "fine")
        self.before = "the quick speed" if given.two_speeds else "the stage before fine"

    def answer(self) -> Assessment[FillTuningResults]:
        sheet = self.sheet
        self._inputs()
        if sheet.absent or not self.pack or not self.rows:
            return sheet.answer(NOT_READY, sheet.absent)
        trials = [trial for one in self.rows if (trial := _trial(one, self.pack))]
        last = trials[-1]
        decision = self._decision(trials)
        self._results(trials, decision)
        self._bench()
        if self.given.over is None or self.given.under is None:
            lack = "over" if self.given.over is None else "under"
            text = "The fills are in; what is let pass is not said yet. Type by how much a pack may be over and under."
            return sheet.answer(KEEP_TESTING, [Reason("missing", text, {"path": f"inputs.{lack}"})], headline="Say what is let pass")  # fmt: skip
        if decision is None:
            made = len(last.errors)
            text = f"{made} {'fill is' if made == 1 else 'fills are'} in the set at this setting; {LEAST_FILLS} are wanted before anything is moved."
            more = {"runs": made, "minimum": LEAST_FILLS}
            return sheet.answer(KEEP_TESTING, [Reason("too-few-runs", text, more)], headline=f"Fill on: {LEAST_FILLS - made} more")  # fmt: skip
        self._fine_stage(last, decision)
        self._usual(decision.cut_offs)
        return self._said(trials, decision)

    # --- what is there ----------------------------------------------------------------------------

    def _inputs(self) -> None:
        sheet, given = self.sheet, self.given
        sheet.need(given, "target", "division", "trials")
        stages = ("medium", "fine") if given.two_speeds else STAGES
        for place, one in enumerate(self.rows):
            path, where = f"inputs.trials[{place}]", f"Trial {place + 1}"
            sheet.need_in(path, one, stages, where)
            for number, fill in enumerate(one.fills or []):
                if fill.set_aside is None:
                    sheet.need_in(f"{path}.fills[{number}]", fill, ("weight",), f"{where}, fill {number + 1}")
        if self.rows and not self.rows[-1].fills:
            where = f"Trial {len(self.rows)}"
            sheet.absent.append(missing(f"inputs.trials[{len(self.rows) - 1}].fills", f"{where}: make three fills, and type what each weighs."))  # fmt: skip
        if not sheet.absent and self.pack:
            self._order()

    def _order(self) -> None:
        assert self.pack
        place = len(self.rows) - 1
        last = _cut_offs(self.rows[place], self.pack.target)
        if last is None or last.ordered(self.pack.target):
            self.sheet.check("cut-offs", "pass", "Each stage ends nearer to the target than the one before it.")
            return
        said = ", ".join(f"{self._name(stage)} {mass_shown(last.at(stage), self._unit(stage), 6)}" for stage in STAGES)
        text = f"Trial {place + 1}: the cut-offs are out of order ({said}, target {mass_shown(self.pack.target, self.unit, 6)}). Each is what is still to come when its stage ends: target, fast, medium and fine go down, and none is below nothing."
        self.sheet.check("cut-offs", "fail", text)
        self.sheet.absent.append(Reason("cut-offs", text, {"path": f"inputs.trials[{place}]"}))

    def _name(self, stage: Stage) -> str:
        return _named(self.given, stage)

    def _unit(self, stage: Stage) -> str:
        """The unit in which a cut-off was first entered."""
        entered = (one.at(stage) for one in self.rows)
        return next((one.unit for one in entered if isinstance(one, Quantity)), self.unit)

    # --- what it comes to -------------------------------------------------------------------------

    def _decision(self, trials: list[Trial]) -> Decision | None:
        assert self.pack
        if self.given.over is None or self.given.under is None:
            return None
        enough = len(trials[-1].errors) >= LEAST_FILLS
        return decide(trials, self.pack) if enough or may_probe(trials[-1], self.pack) else None

    def _bench(self) -> None:
        """Whether a fill weighed on the bench says that the machine's own scale differs: four more are asked for only then."""
        given = self.given
        pairs = [
            (fill.weight, fill.bench) for one in self.rows for fill in one.fills or [] if fill.weight and fill.bench
        ]
        if not pairs or not given.division:
            return
        coarser = max(given.division.si, given.bench_division.si if given.bench_division else 0.0)
        apart = [weight.si - bench.si for weight, bench in pairs]
        mean = math.fsum(apart) / len(apart)
        self.sheet.results.bench_difference = in_unit(mean, self.unit)
        text = f"The machine weighs {self._signed(mean)} against the bench, over {len(apart)} {'fill' if len(apart) == 1 else 'fills'}."
        if at_most(abs(mean), coarser):
            self.sheet.check("bench", "pass", text)
        elif len(apart) < BENCH_FILLS:
            self.sheet.check(
                "bench", "note", f"{text} That is more than a division: weigh {BENCH_FILLS - len(apart)} more on both."
            )
        else:
            self.sheet.check("bench", "note", f"{text} Its own scale first: zero and span, before any cut-off.")

    def _results(self, trials: list[Trial], decision: Decision | None) -> None:
        assert self.pack
        results, last, unit = self.sheet.results, trials[-1], self.unit
        if last.errors:
            results.mean_error_mass = in_unit(snapped(last.mean, self.pack), unit)
            results.spread_mass = in_unit(last.spread, unit)
        scatter = deviation(last.errors)
        if scatter is not None:
            results.standard_deviation_mass = in_unit(scatter, unit)
        cut_offs = decision.cut_offs if decision else last.cut_offs
        results.suggested_fast = in_unit(cut_offs.fast, self._unit("fast"))
        results.suggested_medium = in_unit(cut_offs.medium, self._unit("medium"))
        results.suggested_fine = in_unit(cut_offs.fine, self._unit("fine"))
        if decision and decision.call == "adjust":
            moved = decision.moved(last.cut_offs)
            results.setting_changed = Word(" and ".join(reversed(moved)))
        follows = sensitivity(trials[-2], last) if len(trials) > 1 else None
        if follows is not None:
            results.sensitivity = Figure(follows)
        if last.fine_time is not None:
            results.fine_time_mean = Figure(last.fine_time, "s")
        self._compared(trials, follows)
        self._tell()

    def _compared(self, trials: list[Trial], follows: float | None) -> None:
        """What the last move did, or that two were made at once."""
        place = len(self.rows) - 1
        moved = _moved(place, self.rows)
        if len(moved) > 1:
            text = f"Since trial {place} {' and '.join(map(self._name, moved))} were moved together: what each of them did cannot be told. Move one a trial."
            self.sheet.check("one-setting", "note", text)
        elif moved and trials[-1].errors and trials[-2].errors:
            by = trials[-1].cut_offs.at(moved[0]) - trials[-2].cut_offs.at(moved[0])
            went = trials[-1].mean - trials[-2].mean
            text = f"{self._name(moved[0]).capitalize()} was moved by {self._signed(by)}, the mean went by {self._signed(went)}."
            self.sheet.check("one-setting", "pass", text)

    def _signed(self, kilograms: float, significant: int = 4) -> str:
        return f"{shown(from_si(kilograms, self.unit), significant, sign=True)} {self.unit}"

    def _tell(self) -> None:
        pack = self.pack
        assert pack
        rows: list[dict[str, Remark]] = []
        for one in self.rows:
            trial = _trial(one, pack)
            if trial is None or not trial.errors:
                rows.append({"switch": Remark(self._switch_points(trial.cut_offs))} if trial else {})
                continue
            kind = _kind(trial, pack)
            rows.append(
                {
                    "switch": Remark(self._switch_points(trial.cut_offs)),
                    "mean": Remark(self._signed(trial.mean), trial.mean),
                    "spread": Remark(mass_shown(trial.spread, self.unit), trial.spread),
                    "is": Remark(SAYS[kind], None, "good" if kind == "in-order" else "bad" if kind else ""),
                }
            )
        self.sheet.remarks["trials"] = rows
        for place, one in enumerate(self.rows):
            self.sheet.remarks[f"trials[{place}].fills"] = [self._told_fill(fill) for fill in one.fills or []]

    def _switch_points(self, cut_offs: CutOffs) -> str:
        """The weights at which each stage ends, target less cut-off, as some machines show them."""
        assert self.pack
        stages = [stage for stage in STAGES if cut_offs.at(stage) < self.pack.target * (1 - 1e-9)]
        return ", ".join(mass_shown(self.pack.target - cut_offs.at(stage), self.unit, 5) for stage in stages)

    def _told_fill(self, fill: Fill) -> dict[str, Remark]:
        if not fill.weight or not self.pack:
            return {}
        off = fill.weight.si - self.pack.target
        return {"off": Remark(self._signed(off), off, "good" if self.pack.within(off) else "bad")}

    # --- what is noted ----------------------------------------------------------------------------

    def _fine_stage(self, last: Trial, decision: Decision) -> None:
        time = last.fine_time
        if time is None:
            return
        waits = "" if decision.call == LEAVE else " First what the call says."
        seen = f"The fine stage is seen for {shown(time, 3)} s" if time > 0 else "The fine stage is not seen at all"
        if time < FINE_SHORT * (1 - 1e-9):
            self.sheet.check("fine-short", "note", f"{seen}; about a second is good. A little more {self.medium} gives it room.{waits}")  # fmt: skip
        elif not at_most(time, FINE_LONG):
            self.sheet.check("fine-long", "note", f"{seen}; about a second is enough. A little less {self.medium} makes it quicker.{waits}")  # fmt: skip
        else:
            self.sheet.check("fine-seen", "pass", f"{seen}.")

    def _usual(self, cut_offs: CutOffs) -> None:
        usual, stages = self.given.usual, (s for s in STAGES if s != "fast")
        for stage in stages if usual else ():
            assert usual
            low, high = usual.band(stage)
            setting = cut_offs.at(stage)
            outside = (low and not at_most(low.si, setting)) or (high and not at_most(setting, high.si))
            if outside:
                band = " to ".join(one.text for one in (low, high) if one)
                text = f"{self._name(stage).capitalize()} would be {mass_shown(setting, self._unit(stage), 6)}; {band} is usual here."
                self.sheet.check(f"usual-{stage}", "note", text)

    # --- what is said -----------------------------------------------------------------------------

    def _said(self, trials: list[Trial], decision: Decision) -> Assessment[FillTuningResults]:
        last, why = trials[-1], decision.why
        says: dict[Why, Callable[[list[Trial], Decision], str]] = {
            "tuned": self._tuned,
            "restless": self._restless,
            "scattered": self._scattered,
            "scattered-light": self._scattered_light,
            "not-fine": self._not_fine,
            "beside": self._beside,
            "before-fine": self._before_fine,
            "not-seen": self._not_seen,
            "below-nothing": self._below_nothing,
            "beyond-target": self._beyond_target,
            "below-division": self._below_division,
        }
        text = says[why](trials, decision)
        if decision.call == FIND_FAULT:
            return self.sheet.answer(FIND_FAULT, [Reason(why, text)], look=WHERE_TO_LOOK)
        if decision.call == LEAVE:
            return self.sheet.answer(LEAVE, [Reason("tuned", text)], headline="Tuned: leave it alone")
        if decision.call == KEEP_TESTING:
            return self.sheet.answer(KEEP_TESTING, [Reason(why, text)], lead="No whole division would bring it nearer.")
        moves = [self._move(stage, last.cut_offs, decision.cut_offs) for stage in reversed(decision.moved(last.cut_offs))]  # fmt: skip
        fast = decision.cut_offs.fast > last.cut_offs.fast * (1 + 1e-9)
        headline = "; ".join(moves)
        also = f" Fast moves out of the way, to {mass_shown(decision.cut_offs.fast, self._unit('fast'), 6)}." if fast else ""  # fmt: skip
        self.sheet.down = last.mean > 0
        reasons = [Reason(why, text + also)]
        if len(last.errors) < LEAST_FILLS:
            probe = f"{len(last.errors)} {'fill' if len(last.errors) == 1 else 'fills'} so far off, and all on one side, say enough to go on with: three at the next setting."
            reasons.append(Reason("probe", probe))
        return self.sheet.answer("adjust", reasons, headline=headline[0].upper() + headline[1:], lead="Set it, then three fills more.")  # fmt: skip

    def _move(self, stage: Stage, now: CutOffs, then: CutOffs) -> str:
        unit = self._unit(stage)
        before, after = (from_si(one.at(stage), unit) for one in (now, then))
        return f"{self._name(stage)} {shown(before, 6)}\u00a0→\u00a0{shown(after, 6)}\u00a0{unit}"

    def _about(self, last: Trial) -> str:
        return f"The mean is {self._signed(last.mean, 3)} off, and the fills range over {mass_shown(last.spread, self.unit, 3)}"  # fmt: skip

    def _allowed(self) -> str:
        assert self.pack
        return mass_shown(self.pack.erratic, self.unit)

    def _tuned(self, trials: list[Trial], decision: Decision) -> str:
        return f"{self._about(trials[-1])}: three in a row within tolerance, and beside the middle by less than half of it."  # fmt: skip

    def _restless(self, trials: list[Trial], decision: Decision) -> str:
        assert self.pack
        count = erratic_in_a_row(trials, self.pack)
        if count < 6:
            return f"{self._about(trials[-1])}, though the last stage fills the whole pack. No cut-off is left to move: it is the product, the air, the gate or something that shakes it."
        return f"{count} trials in a row range over more than {self._allowed()}, whatever was set. No cut-off cures that: product bridging, hopper running low, air, a gate, something that shakes the weigh hopper."

    def _scattered(self, trials: list[Trial], decision: Decision) -> str:
        return f"{self._about(trials[-1])}; {self._allowed()} is let pass. Scattered and heavy: {self.before} runs too close, and its product still lands when the gate shuts. It is {self.medium} that moves; {self.fine} stays where it is, however much it was moved to chase this."

    def _scattered_light(self, trials: list[Trial], decision: Decision) -> str:
        return f"{self._about(trials[-1])}; {self._allowed()} is let pass. Scattered and not heavy: the gate shuts while the product of {self.before} is still landing. So {self.fine} goes down by what is missing, and {self.medium} up, to give the last stage room."

    def _not_fine(self, trials: list[Trial], decision: Decision) -> str:
        by = trials[-1].cut_offs.fine - trials[-2].cut_offs.fine
        went = trials[-1].mean - trials[-2].mean
        return f"{self.fine.capitalize()} was moved by {self._signed(by)}, and the mean went by {self._signed(went)}: it is not {self.fine} that is wrong. {self.before.capitalize()} runs too close: it is {self.medium} that moves."

    def _beside(self, trials: list[Trial], decision: Decision) -> str:
        last = trials[-1]
        assert self.pack
        answer = answer_of(trials, self.pack)
        text = f"{self._about(last)}: they agree, and are beside the target every time. That is {self.fine} alone: it moves by the whole error."
        if answer is not None and abs(abs(answer) - 1) > 1e-9:
            text = f"{self._about(last)}: they agree, and are beside the target every time. The last move of {self.fine} was answered {shown(abs(answer), 3)} for one, so it moves by the error over that."
        earlier = back_to(trials, decision.cut_offs, self.pack)
        if earlier is not None:
            text += (
                f" That leads back to trial {earlier + 1}, which was in tolerance: go back to it, and fill on there."
            )
        elif last.mean < 0 and answer is None:
            text += " An underfill may answer with less than the whole, since the stage before may still be flowing: try again and see."
        return text

    def _before_fine(self, trials: list[Trial], decision: Decision) -> str:
        last = trials[-1]
        wanted = mass_shown(last.cut_offs.fine + last.mean, self._unit("fine"), 4)
        if last.fine_time is not None and last.fine_time < UNSEEN:
            why = f"the last stage was not seen: the pack was full before {self.fine} began"
        elif last.cut_offs.fine + last.mean > last.cut_offs.medium:
            why = f"{self.fine} would have to be {wanted}, more than {self.medium} at {mass_shown(last.cut_offs.medium, self._unit('medium'), 4)}"
        else:
            why = f"{self.fine} would have to be {wanted}, more than it usually is"
        return f"{self._about(last)}: they agree and are heavy, and {why}. {self.before.capitalize()} runs too close: it is {self.medium} that moves, and {self.fine} stays."

    def _not_seen(self, trials: list[Trial], decision: Decision) -> str:
        return f"{self._about(trials[-1])}: light, and the last stage was not seen. {self.medium.capitalize()} first, to give it room; then {self.fine}."

    def _below_nothing(self, trials: list[Trial], decision: Decision) -> str:
        last = trials[-1]
        fine = mass_shown(last.cut_offs.fine, self._unit("fine"), 6)
        return f"{self._about(last)}. {self.fine.capitalize()} stands at {fine}, and would have to go below nothing: look at zero and tare, and whether product runs short."

    def _beyond_target(self, trials: list[Trial], decision: Decision) -> str:
        return f"{self._about(trials[-1])}: more than the pack itself. Look at the target, the unit and the tare before any cut-off."

    def _below_division(self, trials: list[Trial], decision: Decision) -> str:
        division = mass_shown(self.pack.division, self.unit) if self.pack else ""
        return f"{self._about(trials[-1])}, which is less than half a division of {division}: no setting brings it nearer. Fill on, and see whether the fill that is out was a single one."


class JudgedFillTuning(FillTuning):
    """`fill-tuning`, judged."""

    def assess(self, given: FillTuningInputs, setting: Setting) -> Assessment[FillTuningResults]:
        return _Tuning(self, given, setting).answer()

    def changed(self, given: FillTuningInputs, answer: Assessment[FillTuningResults], marks: Marks) -> bool:
        """From the second setting that was tried, the machine is no longer as it was found."""
        settings = [one for one in map(_cut_offs, given.trials or []) if one]
        return bool(marks.read_back) or any(one.moved_since(settings[0]) for one in settings[1:])

    def errors(self, given: FillTuningInputs, answer: Assessment[FillTuningResults]) -> Errors | None:
        pack = _pack(given)
        trials = [trial for one in given.trials or [] if pack and (trial := _trial(one, pack)) and trial.errors]
        if not pack or not trials:
            return None
        first, last = (trial.mean / pack.target * 100 for trial in (trials[0], trials[-1]))
        return Errors(first, last if len(trials) > 1 else None)

    def set_before(self, given: FillTuningInputs) -> str:
        first = next(iter(given.trials or []), None)
        cuts = [("fast", first.fast), ("medium", first.medium), ("fine", first.fine)] if first else []
        return ", ".join(f"{name} {cut.text}" for name, cut in cuts if cut)

    def tried(self, given: FillTuningInputs, answer: Assessment[FillTuningResults]) -> tuple[float, float] | None:
        """A move of fine is to bring the mean of the trial before it onto the target; what is moved before
        fine is moved for the spread."""
        pack = _pack(given)
        made = [(one, trial) for one in given.trials or [] if pack and (trial := _trial(one, pack)) and trial.errors]
        if not pack or len(made) < 2 or made[-1][0].fine == made[-2][0].fine:
            return None
        before, last = (trial.mean / pack.target * 100 for _, trial in made[-2:])
        return before, before - last

    def draw(self, given: FillTuningInputs, seen: Seen) -> drawings.Fills:
        """The pack with the cut-offs where they bite, and the trials beside each other on one scale."""
        pack = _pack(given)
        if not pack or not given.target:
            return drawings.Fills(target=drawings.figure(given.target, 6))
        unit = given.target.unit
        rows = given.trials or []
        groups = [_drawn(given, place, pack) for place in range(len(rows))]
        last = _cut_offs(rows[-1]) if rows else None
        cut_offs = [
            drawings.CutOff(label=_named(given, stage), at=pack.target - last.at(stage), text=shows.text if (shows := rows[-1].at(stage)) else "")
            for stage in STAGES
            if last and last.at(stage) < pack.target * (1 - 1e-9)
        ]  # fmt: skip
        return drawings.Fills(
            target=drawings.figure(given.target, 6),
            low=-pack.under,
            high=pack.over,
            low_text=f"−{mass_shown(pack.under, unit)}",
            high_text=f"+{mass_shown(pack.over, unit)}",
            cut_offs=tuple(cut_offs),
            groups=tuple(groups[-drawings.GROUPS_DRAWN :]),
        )


METHOD = JudgedFillTuning()
