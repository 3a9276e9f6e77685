"""Sums without a job: a quick answer, with its formula and the numbers in it.

Each sum is a function of typed inputs. `method` and `carries` name the method and inputs that it
can be carried into.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from pydantic import BaseModel, ValidationError

from wary.fields import Inputs
from wary.machines import all_machines
from wary.methods.tree import Input, spec
from wary.sums.examples import EXAMPLES
from wary.typed import as_in_a_file


class Result(BaseModel):
    """One line of an answer: what it is, the figure, and the formula with its numbers."""

    title: str
    figure: str
    formula: str = ""

    def __init__(self, title: str, figure: str, formula: str = "") -> None:
        super().__init__(title=title, figure=figure, formula=formula)


class SumView(BaseModel):
    """A sum: its inputs with an example, the method that it can be carried into, if there is one, and the kinds of machine which that is for."""

    key: str
    title: str
    group: str
    inputs: tuple[Input, ...]
    example: dict[str, str]
    method: str
    kinds: tuple[str, ...]
    carries: dict[str, str]


class Answer(BaseModel):
    """The lines that can be worked out, and what is wrong with a text, by its field."""

    lines: list[Result]
    problems: dict[str, str]


@dataclass(frozen=True)
class Sum:
    """A sum: its inputs, what it works out, and the method that it can be carried into."""

    key: str
    title: str
    group: str
    inputs: type[Inputs]
    work: Callable[[Any], list[Result]]
    method: str = ""
    carries: dict[str, str] = field(default_factory=dict)

    def describe(self) -> SumView:
        return SumView(
            key=self.key,
            title=self.title,
            group=self.group,
            inputs=spec(self.inputs),
            example=EXAMPLES.get(self.key, {}),
            method=self.method,
            kinds=tuple(key for key, machine in all_machines().items() if self.method in machine.does),
            carries=self.carries,
        )

    def work_out(self, typed: Mapping[str, tuple[str, str]]) -> Answer:
        """The answer to texts as they were typed, each with the unit of its field."""
        kinds = {one.key: one.kind for one in spec(self.inputs)}
        read: dict[str, Any] = {}
        problems: dict[str, str] = {}
        for key, (text, unit) in typed.items():
            if key in kinds and text.strip():
                found = as_in_a_file(text, kinds[key], unit)
                try:
                    read[key] = getattr(self.inputs.model_validate({key: found}), key)
                except ValidationError as unread:
                    first = unread.errors()[0]
                    problems[key] = str(first.get("ctx", {}).get("error", first["msg"]))
        lines = self.work(self.inputs.model_construct(**{**dict.fromkeys(kinds), **read}))
        return Answer(lines=lines, problems=problems)
