"""What follows in a job from naming a reference in it, or the weights of a set that are used: the same wherever it is worked out."""

import uuid
from collections.abc import Mapping
from dataclasses import replace

from wary.job.places import REFERENCES, Parts
from wary.job.record import brought_by
from wary.log import RECORD, Entry, Fold
from wary.references import ReferenceOnRecord


def names_a_reference(path: str, text: str) -> bool:
    """Whether an entry says which reference is used."""
    return path.startswith(f"{REFERENCES}.") and path.endswith(".id") and text != ""


def names_weights(path: str) -> bool:
    """Whether an entry says which weights of a set are used."""
    return path.startswith(f"{REFERENCES}.") and path.endswith(".used")


def named_at(fold: Fold, path: str) -> str:
    """The id of the reference that is named in the row of a path; empty where none is."""
    return fold.text(f"{REFERENCES}.{path.split('.')[1]}.id")


def follows_from(fold: Fold, order: Parts, path: str, text: str, reference: ReferenceOnRecord) -> dict[str, str]:
    """Texts by path that follow from an entry that names a reference or weights of it; `fold` has the entry already.

    A second reference fills what the first left open, and nothing that stands there already.
    """
    row = path.split(".")[1]
    found = brought_by(reference, order, row)
    rows = fold.live_rows(REFERENCES)
    if rows and row != rows[0]:
        found = {at: one for at, one in found.items() if at.startswith(REFERENCES) or not fold.text(at)}
    if names_a_reference(path, text) and fold.text(f"{REFERENCES}.{row}.used"):
        found[f"{REFERENCES}.{row}.used"] = ""
    return found


def brought(
    fold: Fold, order: Parts, one: Entry, references: Mapping[str, ReferenceOnRecord]
) -> list[tuple[uuid.UUID, str, str]]:
    """Id, path and text of each entry that follows from one; their ids come from its own, so that a resend is harmless."""
    if one.source == RECORD or not (names_a_reference(one.path, one.text) or names_weights(one.path)):
        return []
    reference = references.get(named_at(fold, one.path))
    if reference is None:
        return []
    used = one.text if names_weights(one.path) else ""
    found = follows_from(fold, order, one.path, one.text, replace(reference, used=used))
    return [(uuid.uuid5(one.entry_id, at), at, text) for at, text in found.items()]
