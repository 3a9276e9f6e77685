"""How something that is made in the background is told."""

from datetime import datetime
from typing import Any
from uuid import UUID

from pydantic import BaseModel

from beacon.background.made import Made


class MadeView(BaseModel):
    """How far it is (`done` of `of`), that it is there with its size in bytes, or why it failed."""

    id: UUID
    by: str
    at: datetime
    done: int
    of: int
    finished_at: datetime | None
    failed: str
    gone: bool
    size: int


def view_of(one: Made) -> dict[str, Any]:
    """A thing's state by the fields of MadeView."""
    keys = ("id", "at", "done", "of", "finished_at", "failed", "gone", "size")
    return {key: getattr(one, key) for key in keys} | {"by": str(one.by)}
