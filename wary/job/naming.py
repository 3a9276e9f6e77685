"""What follows in a job from naming a reference in it, or the weights of a set that are used: the same wherever it is worked out."""

import uuid
from collections.abc import Mapping
from dataclasses import replace

from wary.job.fold import RECORD, Fold, live_rows, text_at
from wary.job.places import REFERENCES, Parts
from wary.job.record import brought_by
from wary.references import ReferenceOnRecord


def names_a_reference(path: str, text: str) -> bool:
    """Whether an entry says which reference is used."""
    return path.startswith(f"{REFERENCES}.") and path.endswith(".id") and text != ""


def names_weights(path: str) -> bool:
    """Whether an entry says which weights of a set are used."""
    return path.startswith(f"{REFERENCES}.") and path.endswith(".used")


def named_at(fold: Fold, path: str) -> str:
    """The id of the reference that is named in the row of a path; empty where none is."""
    return text_at(fold, f"{REFERENCES}.{path.split('.')[1]}.id")


def follows_from(fold: Fold, order: Parts, path: str, text: str, reference: ReferenceOnRecord) -> dict[str, str]:
    """Texts by path that follow from an entry that names a reference or weights of it; `fold` has the entry already.

    A second reference fills what the first left open, and nothing that stands there already.
    """
    row = path.split(".")[1]
    found = brought_by(reference, order, row)
    rows = live_rows(fold, REFERENCES)
    if rows and row != rows[0]:
        found = {at: one for at, one in found.items() if at.startswith(REFERENCES) or not text_at(fold, at)}
    if names_a_reference(path, text) and text_at(fold, f"{REFERENCES}.{row}.used"):
        found[f"{REFERENCES}.{row}.used"] = ""
    return found


def brought(
    fold: Fold,
    order: Parts,
    entry_id: uuid.UUID,
    path: str,
    text: str,
    source: str,
    references: Mapping[str, ReferenceOnRecord],
) -> list[tuple[uuid.UUID, str, str]]:
    """Id, path and text of each entry that follows from one; their ids come from its own, so that a resend is harmless."""
    if source == RECORD or not (names_a_reference(path, text) or names_weights(path)):
        return []
    reference = references.get(named_at(fold, path))
    if reference is None:
        return []
    used = text if names_weights(path) else ""
    found = follows_from(fold, order, path, text, replace(reference, used=used))
    return [(uuid.uuid5(entry_id, at), at, one) for at, one in found.items()]
