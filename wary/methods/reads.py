"""What a method's inputs say of looks: where each is entered, and which of its checks and reasons are the result."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from pydantic import BaseModel

from wary.results import Results
from wary.rules.assessment import LEAVE, NOT_READY, Assessment
from wary.suspects.suspect import FINE, NOT_FINE, NOT_HERE, Look, Sign


@dataclass(frozen=True)
class Reads:
    """A look that a method's inputs hold: it is made once `at` (`passes.zero_after`, `density`) holds a figure in `least` rows.

    It is not fine where one of the `checks` failed or one of the `codes` is a reason, and fine
    where a check passed, or where the method could judge. What is noted beside a call says neither.
    `result` is what it comes to then; `own`: the method's call is about nothing else, so its first reason is the sentence.
    `said`: nothing is read there, somebody says that it was done. Without `clears` its checks can speak against a machine, and never for it. `by_itself`: the method's own `signs` says what it came to.
    """

    look: Look
    at: str
    checks: tuple[str, ...] = ()
    codes: tuple[str, ...] = ()
    least: int = 1
    result: str = NOT_FINE
    own: bool = False
    by_itself: bool = False
    clears: bool = True
    said: bool = False


def signs_of(reads: Sequence[Reads], given: BaseModel, answer: Assessment[Results]) -> Iterator[Sign]:
    """What was looked at through these inputs."""
    for one in reads:
        if one.by_itself or held(given, one.at) < one.least:
            continue
        sign = _sign(one, answer)
        if sign:
            yield sign


def held(given: BaseModel, at: str) -> int:
    """How many figures stand at a place of the inputs; rows that are set aside hold none."""
    here: list[object] = [given]
    for name in at.split("."):
        inside: list[object] = []
        for one in here:
            if isinstance(one, BaseModel) and name in type(one).model_fields and not getattr(one, "set_aside", None):
                found = getattr(one, name)
                inside += found if isinstance(found, list) else [found]
        here = [one for one in inside if one is not None]
    return len(here)


def _sign(one: Reads, answer: Assessment[Results]) -> Sign | None:
    path = f"inputs.{one.at}"
    checks = [check for check in answer.checks if check.code in one.checks]
    wrong = next((check.text for check in checks if check.state == "fail"), None)
    wrong = wrong or next((reason.text for reason in answer.reasons if reason.code in one.codes), None)
    if wrong is not None:
        return Sign(one.look.key, one.result, wrong, path, one.said, one.said)
    if not one.clears:
        return None
    right = next((check.text for check in checks if check.state == "pass"), None)
    if right is None and answer.call == NOT_READY:
        return None
    if right is None and one.checks and not one.codes:
        # Its check was not made: nothing is known.
        return None
    if right is None and one.own and answer.call != LEAVE:
        return None
    said = answer.reasons[0].text if one.own and answer.reasons else in_words(one.look, FINE)
    return Sign(one.look.key, FINE, right or said, path, one.said, one.said)


def in_words(look: Look, result: str) -> str:
    """A look with its answer as one sentence."""
    if result == NOT_HERE:
        return f"{look.words.rstrip('?')}: this machine has none."
    return (
        f"{look.words} {look.fine if result == FINE else look.not_fine}."
        if look.words.endswith("?")
        else f"{look.words}: {(look.fine if result == FINE else look.not_fine).lower()}."
    )
