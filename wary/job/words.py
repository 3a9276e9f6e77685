"""What a method calls its things on paper: titles of inputs, steps and columns, as plain data.

Paper is written with these words when a job is sealed. They can be written down and read again, so
that a record of before is printed with the words of its day whatever its method is called since.
"""

from collections.abc import Callable, Mapping
from functools import lru_cache

from pydantic import BaseModel, TypeAdapter

from wary.methods import all_methods
from wary.methods.steps import Listed, Rows
from wary.methods.tree import Input, spec
from wary.results import ResultField, fields_of


class InputWords(BaseModel):
    """An input or a list, with what is inside it; `words` says what each of its words means."""

    key: str
    title: str
    kind: str
    words: dict[str, str] = {}
    inside: tuple["InputWords", ...] = ()


class InnerWords(BaseModel):
    """A list inside each row of a table: its key, what a row is called, and what of each is printed."""

    list: str
    name: str
    typed: tuple[str, ...]


class TableWords(BaseModel):
    """How a list is printed: its title and its columns."""

    list: str
    title: str
    columns: tuple[InputWords, ...]
    inner: InnerWords | None = None


class MethodWords(BaseModel):
    """A method on paper. `against` and `line` are the inputs and results that a certificate names.

    `results` are all that it may give, `ticks` what is ticked by step and item (`look.free`), `loose` what is put
    back by its key; methods of before this version named none.
    """

    title: str
    against: tuple[tuple[str, str], ...]
    line: tuple[str, ...]
    results: tuple[ResultField, ...] = ()
    inputs: tuple[InputWords, ...]
    steps: dict[str, str]
    tables: tuple[TableWords, ...]
    ticks: dict[str, str] = {}
    loose: dict[str, str] = {}


Words = Callable[[str], MethodWords]
"""The words of a method by its key."""
WRITTEN: TypeAdapter[dict[str, MethodWords]] = TypeAdapter(dict[str, MethodWords])


@lru_cache(maxsize=256)
def words_of(key: str) -> MethodWords:
    """The words of a method as they are today."""
    method = all_methods()[key]
    inputs = tuple(_input(one) for one in spec(method.inputs))
    known = {one.key: one for one in inputs}
    results = fields_of(method.results)
    return MethodWords(
        title=method.title,
        against=tuple((name, known[name].title.lower()) for name in method.against),
        line=tuple(one.key for one in results if one.summary),
        results=results,
        inputs=inputs,
        steps={step.key: step.title for step in method.steps},
        ticks={f"{step.key}.{item.key}": item.text for step in method.steps for item in step.items},
        loose={item.key: item.text for step in method.steps for item in step.items if item.loose_end}
        | {stale.key: stale.text for stale in method.makes_stale},
        tables=tuple(_table(step.title, step.rows, known) for step in method.steps if isinstance(step, Listed)),
    )


def _input(one: Input) -> InputWords:
    inside = tuple(_input(inner) for inner in one.inside()) if one.kind in ("list", "block") else ()
    words = {choice.word: choice.says for choice in one.words}
    return InputWords(key=one.key, title=one.title, kind=one.kind, words=words, inside=inside)


def _table(title: str, rows: Rows, known: Mapping[str, InputWords]) -> TableWords:
    inner = InnerWords(list=rows.inner.list, name=rows.inner.name, typed=rows.inner.typed) if rows.inner else None
    inside = {one.key: one for one in known[rows.list].inside}
    columns = tuple(
        InputWords(key=column.key, title=column.title, kind=inside[column.key].kind, words=inside[column.key].words)
        for column in rows.columns
        if not column.remark and column.key != (rows.inner.list if rows.inner else "")
    )
    return TableWords(list=rows.list, title=title, columns=columns, inner=inner)


def called(words: MethodWords, way: list[str]) -> str | None:
    """What a place inside a method's inputs is called, by the keys and rows on the way to it; None where it has none."""
    found = _at(words, way)
    return found.title if found else None


def choice_in_words(words: MethodWords, way: list[str], text: str) -> str:
    """What a text means at a place that takes a word out of a few; the text itself anywhere else."""
    found = _at(words, way)
    if found and found.kind == "boolean":
        return {"yes": "yes", "true": "yes", "no": "no", "false": "no"}.get(text, text)
    return found.words.get(text, text) if found else text


def _at(words: MethodWords, way: list[str]) -> InputWords | None:
    known, found = {one.key: one for one in words.inputs}, None
    left = list(way)
    while left and left[0] in known:
        found = known[left.pop(0)]
        if found.kind == "list":
            left = left[1:]
        known = {inner.key: inner for inner in found.inside}
    return None if left else found


def lists_on_the_way(words: MethodWords, way: list[str]) -> list[tuple[int, str]]:
    """The lists that a way leads through with a row of each: where in it the row stands, and the list's title."""
    known = {one.key: one for one in words.inputs}
    found = []
    place = 1 if way[:1] == ["inputs"] else 0
    while place < len(way) and way[place] in known:
        one = known[way[place]]
        if one.kind == "list":
            place += 1
            if place < len(way):
                found.append((place, one.title))
        place += 1
        known = {inner.key: inner for inner in one.inside}
    return found
