"""The tree of a method's inputs, read from its annotations when the program starts."""

import types
from typing import Annotated, Any, Union, get_args, get_origin

from pydantic import BaseModel, ConfigDict
from pydantic.fields import FieldInfo

from wary.fields import Inputs, Kind, Parser

VALUE = "value"
"""The key under which a row of a plain list, such as a list of times, holds its one figure."""


class Said(BaseModel):
    """Part of what a method says of itself; never changed."""

    model_config = ConfigDict(frozen=True)


class Choice(Said):
    """A word to choose, and what it means."""

    word: str
    says: str


class Input(Said):
    """One place in the tree of inputs.

    `kind` is what is typed there; a `block` holds the places in `fields`, and so does every row of
    a `list`, whose `of` is the kind of its elements where they are plain. A `plate` means the same
    in every method of a visit. What stands in the places that `among` names is offered. A `signed` figure may be
    below zero.
    """

    key: str
    title: str
    why: str | None = None
    kind: Kind
    units: tuple[str, ...] = ()
    words: tuple[Choice, ...] = ()
    fields: tuple["Input", ...] = ()
    of: Kind | None = None
    plate: bool = False
    signed: bool = False
    among: str | None = None

    def inside(self) -> tuple["Input", ...]:
        """The places in a block, or in one row of a list; a plain list has the one place `value`."""
        if self.kind == "list" and not self.fields:
            return (self.model_copy(update={"key": VALUE, "kind": self.of, "of": None}),)
        return self.fields


_SPECS: dict[type[Inputs], tuple[Input, ...]] = {}


def spec(model: type[Inputs]) -> tuple[Input, ...]:
    """The tree of inputs of a block. Raises TypeError for an annotation that it does not know."""
    found = _SPECS.get(model)
    if found is None:
        found = _SPECS[model] = tuple(_place(model, key, info) for key, info in model.model_fields.items())
    return found


_ROW_MODELS: dict[type[Inputs], dict[str, type[Inputs]]] = {}


def row_models(model: type[Inputs]) -> dict[str, type[Inputs]]:
    """What each row of a list of blocks is read as, by the list's key."""
    found = _ROW_MODELS.get(model)
    if found is None:
        found = _ROW_MODELS[model] = {}
        for key, info in model.model_fields.items():
            bare, _ = _bare(info.annotation, [], f"{model.__name__}.{key}")
            if get_origin(bare) is list:
                element, _ = _bare(get_args(bare)[0], [], f"{model.__name__}.{key}")
                if _is_block(element):
                    found[key] = element
    return found


def _place(model: type[Inputs], key: str, info: FieldInfo) -> Input:
    extra = info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {}
    said: dict[str, Any] = {
        "key": key,
        "title": info.title or key.replace("_", " "),
        "why": info.description,
        "plate": bool(extra.get("plate")),
        "among": extra.get("among"),
    }
    where = f"{model.__name__}.{key}"
    bare, metadata = _bare(info.annotation, list(info.metadata), where)
    if get_origin(bare) is list:
        element, of = _bare(get_args(bare)[0], [], where)
        if _is_block(element):
            return Input(**said, kind="list", fields=spec(element))
        parser = _parser(of, where)
        return Input(
            **said, kind="list", of=parser.kind, units=parser.units, words=_words(parser), signed=parser.signed
        )
    if _is_block(bare):
        return Input(**said, kind="block", fields=spec(bare))
    parser = _parser(metadata, where)
    return Input(**said, kind=parser.kind, units=parser.units, words=_words(parser), signed=parser.signed)


def _bare(annotation: Any, metadata: list[Any], where: str) -> tuple[Any, list[Any]]:
    """An annotation without `Annotated` and without `None`, and what was annotated."""
    while True:
        if get_origin(annotation) is Annotated:
            annotation, *more = get_args(annotation)
            metadata = [*metadata, *more]
        elif get_origin(annotation) in (Union, types.UnionType):
            if any(isinstance(one, Parser) for one in metadata):
                return annotation, metadata
            parts = [part for part in get_args(annotation) if part is not type(None)]
            if len(parts) != 1:
                raise TypeError(f"{where}: an input is one thing; {annotation} is several")
            annotation = parts[0]
        else:
            return annotation, metadata


def _is_block(annotation: Any) -> bool:
    return isinstance(annotation, type) and issubclass(annotation, Inputs)


def _parser(metadata: list[Any], where: str) -> Parser:
    for one in metadata:
        if isinstance(one, Parser):
            return one
    raise TypeError(f"{where}: nothing says how this input is read; annotate it with a Parser, a block, or a list")


def _words(parser: Parser) -> tuple[Choice, ...]:
    return tuple(Choice(word=word, says=says) for word, says in parser.words.items())


def ask_for(model: type[Inputs], key: str) -> str | None:
    """What to do where this input is missing, in a sentence; None where the field does not say."""
    extra = model.model_fields[key].json_schema_extra
    return str(extra["ask"]) if isinstance(extra, dict) and "ask" in extra else None
