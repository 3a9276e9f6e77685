"""What a spreadsheet's cells say, and how many of them are read."""

import datetime
from typing import Any

MOST_ROWS, MOST_COLUMNS, LONGEST = 3_000, 60, 4_000


def text_of(value: Any) -> str:
    """A cell as somebody would write it."""
    if value is None:
        return ""
    if isinstance(value, datetime.datetime):
        return value.date().isoformat()
    if isinstance(value, datetime.date):
        return value.isoformat()
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float) and value.is_integer() and abs(value) < 1e15:
        return str(int(value))
    # What a spreadsheet marks as a text that is no formula is that text.
    return str(value).strip()[:LONGEST].removeprefix("'")
