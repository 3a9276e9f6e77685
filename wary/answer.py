"""Answers of the methods that compare no runs: headlines, what is missing, and the common refusals."""

from collections.abc import Iterable, Sequence
from typing import Any

from wary.call import ADJUST, FIND_FAULT, KEEP_TESTING, LEAVE, NOT_READY, Reason
from wary.fields import Inputs
from wary.method import Assessment, Check, Method, Setting, finite
from wary.stages import missing

HEADLINES = {
    NOT_READY: "Not ready yet",
    KEEP_TESTING: "Keep testing",
    FIND_FAULT: "Find the fault first",
    ADJUST: "Adjust",
    LEAVE: "Leave it alone",
}
LEADS = {
    NOT_READY: "Nothing can be said yet.",
    KEEP_TESTING: "Not enough yet to decide on.",
    FIND_FAULT: "Do not touch the figures: changing them now would hide what is wrong.",
    ADJUST: "It is off, and repeatably so.",
    LEAVE: "That is in order: write it down and stop.",
}


class Sheet:
    """An answer in the making: results, checks and reasons as a method works through its rules."""

    def __init__(self, method: Method, setting: Setting) -> None:
        self.method, self.setting = method, setting
        self.results: dict[str, Any] = {}
        self.checks: list[Check] = []
        self.absent: list[Reason] = list(setting.overdue())
        self.slips: list[dict[str, object]] = []
        self.plan: list[str] = []
        self.key_in: dict[str, Any] | None = None

    def need(self, given: Inputs, *names: str) -> None:
        """Notes each of these inputs that is absent; an empty list counts as absent."""
        for name in names:
            if not getattr(given, name) and getattr(given, name) != 0:
                title = type(given).model_fields[name].title or name
                self.absent.append(missing(f"inputs.{name}", f"{title}: still missing."))

    def need_in(self, path: str, row: Inputs, names: Iterable[str], where: str) -> None:
        """Notes each of these fields that is absent from a row of a list."""
        for name in names:
            if getattr(row, name) is None:
                title = type(row).model_fields[name].title or name
                self.absent.append(missing(f"{path}.{name}", f"{where}: {title.lower()} is still missing."))

    def check(self, code: str, state: str, text: str) -> None:
        self.checks.append(Check(code, state, text))

    def failed(self, named: Sequence[str] = ()) -> list[Reason]:
        """A reason for each failed check: its own code where the rules name one, else `sanity`."""
        return [
            Reason(check.code if check.code in named else "sanity", check.text)
            for check in self.checks
            if check.state == "fail"
        ]

    def answer(
        self,
        call: str,
        reasons: list[Reason],
        headline: str = "",
        lead: str = "",
        look: Sequence[str] = (),
        suggestions: Sequence[Reason] = (),
    ) -> Assessment:
        return Assessment(
            method=self.method.key,
            call=call,
            reasons=reasons,
            headline=headline or HEADLINES[call],
            lead=lead or LEADS[call],
            results=finite(self.results),
            checks=self.checks,
            slips=self.slips,
            look=list(look) if call == FIND_FAULT else [],
            plan=self.plan,
            key_in=self.key_in if call == ADJUST else None,
            suggestions=list(suggestions),
        )

    def unready(self) -> Assessment | None:
        """`not-ready` where something is missing."""
        return self.answer(NOT_READY, self.absent) if self.absent else None
