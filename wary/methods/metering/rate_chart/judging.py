"""Rate chart: what is said of what was typed."""

import math
from collections.abc import Iterable

from wary import drawings
from wary.drawings import RateCell, RateRow
from wary.fields import (
    at_most,
)
from wary.methods.metering.arithmetic import enough, need_net, net_of, unit_of
from wary.methods.metering.charting import Chart, Tried, Turned, half_turns, suggested_gate
from wary.methods.metering.rate_chart.method import RateChart, RateChartInputs, RateChartResults, Recommended
from wary.methods.method import NO_LIMITS, Seen, Setting
from wary.methods.shared.draft import Draft
from wary.quantities import Quantity, from_si, mass_shown, percent_shown, shown
from wary.results import Figure, Word, in_unit, percent
from wary.rules.assessment import (
    ADJUST,
    FIND_FAULT,
    KEEP_TESTING,
    LEAVE,
    NOT_READY,
    Assessment,
    Reason,
    Remark,
)
from wary.suspects import looks
from wary.suspects.suspect import FINE, NOT_FINE, Sign

WHERE_TO_LOOK = (
    "The count: one person counts the turns, one keeps the time, at the two ends of the vehicle.",
    "The marker: on the shaft that feeds, and still where it was put?",
    "The engine: at the speed that it has under load, and held there?",
    "The drive: does it slip, is its oil warm?",
)


class _Charting:
    """One answer in the making; SI within, units of the inputs in what is said."""

    def __init__(self, method: RateChart, given: RateChartInputs, setting: Setting) -> None:
        self.sheet, self.given, self.setting = Draft(method, setting), given, setting
        used = [row for row in given.catches or [] if row.set_aside is None]
        self.nets = [(net, row.revolutions) for row in used if (net := net_of(row)) is not None and row.revolutions]
        self.mass_unit = unit_of([one for row in given.catches or [] for one in (row.gross, row.net)])
        self.turn_unit = f"{self.mass_unit if self.mass_unit in ('kg', 'g', 'lb') else 'kg'}/rev"
        self.flow_unit = "lb/min" if self.mass_unit in ("lb", "oz") else "kg/min"
        self.length_unit = (
            given.target_low.unit if given.target_low else "lb/mi" if self.flow_unit == "lb/min" else "kg/km"
        )
        self.area_unit = "lb/ac" if self.length_unit.startswith("lb") else "kg/ha"

    @property
    def per_turn(self) -> float | None:
        return (
            math.fsum(net for net, _ in self.nets) / math.fsum(turns for _, turns in self.nets) if self.nets else None
        )

    @property
    def gate(self) -> float | None:
        read = [one.si for one in self.given.gate_readings or []]
        return math.fsum(read) / len(read) if read else None

    def chart(self) -> Chart | None:
        """The chart; None while something of it is missing."""
        given, per_turn = self.given, self.per_turn
        if not self.turned or not self.speeds or per_turn is None or per_turn <= 0:
            return None
        speeds = tuple(speed.si for speed in self.speeds)
        # What is wanted may be said after the table is there: without it every cell is below.
        low, high = (given.target_low.si, given.target_high.si) if given.target_low and given.target_high else (math.inf, math.inf)  # fmt: skip
        return Chart(self.turned, speeds, per_turn, given.lanes or 1.0, low, high)

    @property
    def turned(self) -> tuple[Turned, ...]:
        """The turns a minute at each setting that was counted."""
        rows = [(row.setting, row.revolutions, row.seconds) for row in self.given.settings or []]
        return tuple(Turned(s, r * 60 / t) for s, r, t in rows if s is not None and r and t)

    @property
    def speeds(self) -> list[Quantity]:
        """The speeds of the chart's columns; a working speed that is none of them becomes one."""
        listed, working = list(self.given.speeds or []), self.given.working
        if (
            working
            and working.speed
            and not any(math.isclose(one.si, working.speed.si, rel_tol=1e-9) for one in listed)
        ):
            listed.append(working.speed)
        return listed

    @property
    def is_wanted(self) -> bool:
        """Whether it is said what is wanted."""
        return self.given.target_low is not None and self.given.target_high is not None

    def answer(self) -> Assessment[RateChartResults]:
        sheet, given = self.sheet, self.given
        self._inputs()
        self._figures()
        if sheet.absent:
            return sheet.answer(NOT_READY, sheet.absent)
        chart = self.chart()
        if self.turned and given.catches and (not self.speeds or not self.is_wanted):
            lacks = "at which speeds the work is done" if not self.speeds else "what is wanted, at least and at most"
            path = "inputs.speeds" if not self.speeds else "inputs.target_low"
            text = f"What each setting gives is worked out. Say {lacks}, and the chart shows which of them fits."
            return sheet.answer(KEEP_TESTING, [Reason("say-what-is-wanted", text, {"path": path})], headline="Say what is wanted")  # fmt: skip
        if not given.settings or not given.catches or chart is None:
            lacks = "turns" if not given.settings else "a catch"
            text = f"The chart lacks {lacks}: {'count the turns at each setting' if not given.settings else 'some whole turns over a container'}."
            return sheet.answer(KEEP_TESTING, [Reason("too-few-runs", text)], headline=f"Now {lacks}")
        falling = chart.falling()
        if falling:
            text = f"Setting {falling.setting:g} turns more slowly than the one before it. Miscounted, or the marker moved: count again."
            sheet.check("turns", "fail", text)
            return sheet.answer(FIND_FAULT, [Reason("falling", text)], look=WHERE_TO_LOOK)
        return self._judged(chart)

    def _inputs(self) -> None:
        sheet, given = self.sheet, self.given
        if not given.settings and not given.catches:
            sheet.need(given, "settings")
        if given.prepared is False:
            text = "It is not prepared: spinner off, loaded to its resting heap, container and sheets on the scale when it was zeroed."
            sheet.check("prepared", "fail", text)
            sheet.absent.append(Reason("not-prepared", text, {"path": "inputs.prepared"}))
        self._engine()
        for place, row in enumerate(given.settings or []):
            sheet.need_in(
                f"inputs.settings[{place}]", row, ("setting", "revolutions", "seconds"), f"Setting {place + 1}"
            )
        for place, one in enumerate(given.catches or []):
            if one.set_aside is None:
                need_net(sheet, f"inputs.catches[{place}]", f"Catch {place + 1}", one)
                sheet.need_in(f"inputs.catches[{place}]", one, ("revolutions",), f"Catch {place + 1}")
        for place, tried in enumerate(given.earlier or []):
            sheet.need_in(
                f"inputs.earlier[{place}]", tried, ("gate_opening", "mass_per_revolution"), f"Gate {place + 1}"
            )
        self._working_counted()
        low, high = given.target_low, given.target_high
        if low and high and not at_most(low.si, high.si):
            text = f"The target is from {low.text} to {high.text}: look which is the least and which the most."
            sheet.absent.append(Reason("target", text, {"path": "inputs.target_high"}))

    def _working_counted(self) -> None:
        """A setting at which the work is done has to be among those that were counted."""
        working = self.given.working
        if working is None or working.setting is None or not self.turned:
            return
        if not any(math.isclose(one.setting, working.setting) for one in self.turned):
            text = f"The work is done at setting {working.setting:g}, and no turns were counted there: count them."
            self.sheet.absent.append(Reason("not-counted", text, {"path": "inputs.working.setting"}))

    def _engine(self) -> None:
        given = self.given
        if given.engine is None:
            return
        low, high = given.engine_low, given.engine_high
        if (low is not None and not at_most(low, given.engine)) or (
            high is not None and not at_most(given.engine, high)
        ):
            band = " to ".join(f"{end:g}" for end in (low, high) if end is not None)
            text = f"The engine ran at {given.engine:g}; its band is {band}. Bring it there, as under load, and count again."
            self.sheet.check("engine", "fail", text)
            self.sheet.absent.append(Reason("engine", text, {"path": "inputs.engine"}))
        elif low is not None or high is not None:
            self.sheet.check("engine", "pass", "The engine was within its band.")

    # --- what it comes to -------------------------------------------------------------------------

    def _figures(self) -> None:
        results, given = self.sheet.results, self.given
        read = given.gate_readings or []
        gate = self.gate
        if gate is not None:
            unit = read[0].unit
            results.gate_opening = in_unit(gate, unit)
            results.gate_skew = in_unit(max(one.si for one in read) - min(one.si for one in read), unit)
        rows: list[dict[str, Remark]] = []
        rpms = []
        for row in given.settings or []:
            remarks: dict[str, Remark] = {}
            if row.revolutions and row.seconds:
                rpm = row.revolutions * 60 / row.seconds
                rpms.append(Figure(rpm))
                remarks["rpm"] = Remark(shown(rpm, 4), rpm)
                if self.per_turn:
                    remarks["discharge"] = Remark(f"{shown(from_si(rpm / 60 * self.per_turn, self.flow_unit), 4)} {self.flow_unit}")  # fmt: skip
            rows.append(remarks)
        self.sheet.remarks["settings"] = rows
        if rpms:
            results.rpms = rpms
        self._caught()
        if self.per_turn and self.per_turn > 0 and self.turned:
            results.discharges = [in_unit(one.rpm / 60 * self.per_turn, self.flow_unit) for one in self.turned]
        chart = self.chart()
        if chart:
            self._table(chart)

    def _caught(self) -> None:
        results, given, per_turn = self.sheet.results, self.given, self.per_turn
        rows: list[dict[str, Remark]] = []
        for row in given.catches or []:
            net = net_of(row)
            rows.append({"per_turn": Remark(f"{shown(from_si(net / row.revolutions, self.turn_unit), 4)} {self.turn_unit}")} if net and row.revolutions else {})  # fmt: skip
        self.sheet.remarks["catches"] = rows
        if per_turn is None or per_turn <= 0:
            return
        results.mass_per_revolution = in_unit(per_turn, self.turn_unit)
        readings = 2 if any(row.gross is not None for row in given.catches or []) else 1
        least = enough(self.setting.profile, given.reference_division, readings)
        if least is not None:
            turns = half_turns(least / per_turn)
            results.turns_to_catch = Figure(turns)
            self.sheet.plan.append(f"Catch at least {turns:g} turns: this scale shows nothing of less.")
        if given.reference_division:
            net = self.nets[-1][0]
            shows = 2 * given.reference_division.si * math.sqrt(readings / 12) / net
            results.shown = percent(shows)
            self.sheet.plan.append(f"This scale shows ± {percent_shown(shows)} on this catch.")

    def _table(self, chart: Chart) -> None:
        results, given = self.sheet.results, self.given
        table = chart.table
        results.table = [[in_unit(amount, self.length_unit) for amount in row] for row in table]
        if self.is_wanted:
            results.zones = [[Word(chart.zone(amount)) for amount in row] for row in table]
            speeds = self.speeds
            results.recommended = [
                Recommended(Figure(chart.turned[row].setting), Figure(speeds[column].value, speeds[column].unit))
                for row, column in chart.recommended()
            ]
        end = chart.saturated_from()
        if end:
            results.saturated_from = Figure(end.setting)
            text = f"From setting {end.setting:g} on it turns hardly quicker: the drive is at its end."
            self.sheet.check("drive", "note", text)
        if given.lane_width:
            width = given.lane_width.si
            results.per_area = [[in_unit(amount / width, self.area_unit) for amount in row] for row in table]  # fmt: skip

    def _working(self, chart: Chart) -> tuple[int, int] | None:
        working = self.given.working
        return chart.place(working.setting, working.speed.si if working.speed else None) if working else None

    # --- what is said -----------------------------------------------------------------------------

    def _cell(self, chart: Chart, cell: tuple[int, int]) -> str:
        speed = self.speeds[cell[1]]
        return f"setting {chart.turned[cell[0]].setting:g} at {speed.text}"

    def _amount(self, amount: float) -> str:
        return f"{shown(from_si(amount, self.length_unit), 4)} {self.length_unit}"

    def _judged(self, chart: Chart) -> Assessment[RateChartResults]:
        sheet = self.sheet
        working = self._working(chart)
        best = chart.recommended()
        table = chart.table
        target = f"{self._amount(chart.low)} to {self._amount(chart.high)}"
        inside = working in best if working else bool(best)
        self._cost(chart, working)
        if inside:
            cell = working or best[0]
            text = f"{self._cell(chart, cell)[0].upper()}{self._cell(chart, cell)[1:]} gives {self._amount(table[cell[0]][cell[1]])}; {target} is wanted."
            return sheet.answer(LEAVE, [Reason("within-limit", text)], headline="The gate is right: leave it", lead="Print the card for the cab.")  # fmt: skip
        cell = chart.reference_cell(working)
        amount = table[cell[0]][cell[1]]
        text = f"At {self._cell(chart, cell)} it gives {self._amount(amount)}; {target} is wanted."
        sheet.down = amount > chart.middle
        gate, read = self.gate, self.given.gate_readings
        headline = "Move the gate"
        if gate and read:
            tried = [Tried(one.gate_opening.si, one.mass_per_revolution.si) for one in self.given.earlier or [] if one.gate_opening and one.mass_per_revolution]  # fmt: skip
            to, by_line = suggested_gate(Tried(gate, chart.per_turn), amount, chart.middle, tried)
            unit = read[0].unit
            sheet.results.suggested_gate = in_unit(to, unit)
            headline = f"Gate {shown(from_si(gate, unit), 4)}\u00a0→\u00a0{shown(from_si(to, unit), 4)}\u00a0{unit}"
            how = "by the straight line through the gates tried" if by_line else "in proportion, as a first try"
            text += f" Try {shown(from_si(to, unit), 4)} {unit}, {how}; then weigh one catch again, the turns stay."
            least = min(gate, *(one.opening for one in tried)) if tried else gate
            if to < least / 2 * (1 - 1e-9):
                text += (
                    " That is less than half of the smallest that was tried: material may hang in it. Go down in steps."
                )
        return sheet.answer(ADJUST, [Reason("move-gate", text)], headline=headline)

    def _cost(self, chart: Chart, working: tuple[int, int] | None) -> None:
        """What too much costs in a season."""
        distance, price = self.given.season_distance, self.given.price_per_tonne
        if not distance or not working:
            return
        too_much = max(0.0, chart.table[working[0]][working[1]] - chart.high) * chart.lanes * distance.si
        if too_much:
            cost = f", which costs {shown(too_much / 1000 * price, 4)}" if price else ""
            self.sheet.plan.append(f"Too much in a season: {mass_shown(too_much, 't', 3)}{cost}. It harms soil and water besides.")  # fmt: skip

    def drawn(self) -> drawings.RateTable:
        given, chart = self.given, self.chart()
        gate = tuple(one.text for one in given.gate_readings or [])
        low, high = given.target_low, given.target_high
        target = f"{low.text} to {high.text}" if low and high else ""
        if chart is None:
            return drawings.RateTable(speeds=tuple(one.text for one in self.speeds), target=target, gate=gate)
        working, end = self._working(chart), chart.saturated_from()
        rows = [
            RateRow(
                setting=f"{one.setting:g}",
                turns=shown(one.rpm, 3),
                end=end is not None and one.setting >= end.setting,
                cells=tuple(
                    RateCell(
                        text=shown(from_si(amount, self.length_unit), 3),
                        zone=chart.zone(amount),
                        working=(place, column) == working,
                    )  # fmt: skip
                    for column, amount in enumerate(chart.table[place])
                ),
            )
            for place, one in enumerate(chart.turned)
        ]
        return drawings.RateTable(
            speeds=tuple(one.text for one in self.speeds),
            unit=self.length_unit,
            target=target,
            rows=tuple(rows),
            gate=gate,
        )


MOST_SKEW = 0.1
"""By so much of its opening a gate may stand further open on one side."""


class JudgedRateChart(RateChart):
    """`rate-chart`, judged."""

    def signs(self, given: RateChartInputs, answer: Assessment[RateChartResults]) -> Iterable[Sign]:
        yield from super().signs(given, answer)
        skew, gate = answer.results.gate_skew, answer.results.gate_opening
        if skew and gate and len(given.gate_readings or []) > 1:
            straight = at_most(skew.si, MOST_SKEW * gate.si)
            text = f"The gate stands {shown(skew.value, 3)} {skew.unit} further open on one side, at {shown(gate.value, 3)} {gate.unit}."
            yield Sign(looks.GATE_FAST.key, FINE if straight else NOT_FINE, text, "inputs.gate_readings")

    def assess(self, given: RateChartInputs, setting: Setting) -> Assessment[RateChartResults]:
        return _Charting(self, given, setting).answer()

    def draw(self, given: RateChartInputs, seen: Seen) -> drawings.RateTable:
        """Settings by speeds, each cell against the target, the gate from both sides."""
        return _Charting(self, given, NO_LIMITS).drawn()


METHOD = JudgedRateChart()
