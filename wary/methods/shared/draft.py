"""Answers of the methods that compare no runs: headlines, what is missing, and the common refusals."""

from collections.abc import Iterable, Sequence
from typing import Generic

from wary.fields import Inputs
from wary.methods.method import Given, Method, Setting
from wary.methods.tree import ask_for
from wary.rules.assessment import (
    ADJUST,
    FIND_FAULT,
    KEEP_TESTING,
    LEAVE,
    NOT_READY,
    Assessment,
    Call,
    Check,
    CheckState,
    Found,
    Reason,
    RowRemarks,
    missing,
)
from wary.rules.call import HEADLINES, only_missing
from wary.rules.correction import KeyIn
from wary.rules.slips import Slip

LEADS: dict[str, str] = {
    NOT_READY: "Nothing can be said yet.",
    KEEP_TESTING: "Not enough yet to decide on.",
    FIND_FAULT: "Do not touch the figures: changing them now would hide what is wrong.",
    ADJUST: "It is off, and repeatably so.",
    LEAVE: "That is in order: write it down and stop.",
}


class Draft(Generic[Found]):
    """An answer in the making: results, checks and reasons as a method works through its rules."""

    def __init__(self, method: Method[Given, Found], setting: Setting) -> None:
        self.key, self.setting = method.key, setting
        self.results: Found = method.results()
        self.checks: list[Check] = []
        self.absent: list[Reason] = list(setting.overdue())
        self.slips: list[Slip] = []
        self.plan: list[str] = []
        self.key_in: KeyIn | None = None
        self.down = False
        self.remarks: RowRemarks = {}

    def need(self, given: Inputs, *names: str) -> None:
        """Notes each of these inputs that is absent; an empty list counts as absent."""
        for name in names:
            if not getattr(given, name) and getattr(given, name) != 0:
                title = type(given).model_fields[name].title or name
                text = ask_for(type(given), name) or f"{title}: read it off and type it in."
                self.absent.append(missing(f"inputs.{name}", text))

    def need_in(self, path: str, row: Inputs, names: Iterable[str], where: str) -> None:
        """Notes each of these fields that is absent from a row of a list."""
        for name in names:
            if getattr(row, name) is None:
                title = (type(row).model_fields[name].title or name).lower()
                ask = ask_for(type(row), name)
                text = f"{where}: {ask[0].lower()}{ask[1:]}" if ask else f"{where}: type its {title}."
                self.absent.append(missing(f"{path}.{name}", text[0].upper() + text[1:]))

    def no_load(self, name: str, text: str, needs: str = "must be above zero") -> None:
        """Notes an input of zero or less where a load is wanted."""
        self.absent.append(Reason("no-load", f"{text} is no load; it {needs}.", {"path": f"inputs.{name}"}))

    def check(self, code: str, state: CheckState, text: str) -> None:
        self.checks.append(Check(code, state, text))

    def not_ready_where_failed(self, check_code: str, code: str, path: str) -> None:
        """Makes a failed check of this code a reason not to be ready."""
        self.absent += [
            Reason(code, check.text, {"path": path})
            for check in self.checks
            if check.code == check_code and check.state == "fail"
        ]

    def failed(self, named: Sequence[str] = ()) -> list[Reason]:
        """A reason for each failed check: its own code where the rules name one, else `sanity`."""
        return [
            Reason(check.code if check.code in named else "sanity", check.text)
            for check in self.checks
            if check.state == "fail"
        ]

    def facts(self, named: Sequence[str] = ()) -> list[Reason]:
        """What failed of the checks that could be made: said before what is only missing is asked for.

        Empty where a preparation or the reference stands in the way: what was read then shows nothing.
        """
        return self.failed(named) if only_missing(self.absent) else []

    def answer(
        self,
        call: Call,
        reasons: list[Reason],
        headline: str = "",
        lead: str = "",
        look: Sequence[str] = (),
        suggestions: Sequence[Reason] = (),
    ) -> Assessment[Found]:
        return Assessment(
            method=self.key,
            call=call,
            reasons=reasons,
            headline=headline or HEADLINES[call],
            lead=lead or LEADS[call],
            results=self.results,
            checks=self.checks,
            slips=self.slips,
            look=list(look) if call == FIND_FAULT else [],
            plan=self.plan,
            key_in=self.key_in if call == ADJUST else None,
            down=self.down,
            suggestions=list(suggestions),
            remarks=self.remarks,
        )

    def unready(self, lead: str = "") -> Assessment[Found] | None:
        """`not-ready` where something is missing."""
        return self.answer(NOT_READY, self.absent, lead=lead) if self.absent else None
