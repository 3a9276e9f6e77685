"""What no text and no number that comes in may hold, wherever it comes from: looked at in one place."""

import datetime
import math
import re
from collections.abc import Iterator
from typing import Any

DEEPEST = 40
LARGEST_WHOLE = 2**63 - 1
FIRST_DAY, LAST_DAY = datetime.date(1970, 1, 1), datetime.date(2199, 12, 31)
"""The days between which anything is planned or due."""
AHEAD = datetime.timedelta(days=2)
"""How far the clock of a device may run ahead: a day, and the zones of the earth."""
_EARLIEST = datetime.datetime(1970, 1, 1, tzinfo=datetime.UTC)
_UNFIT = re.compile("[\x00\ud800-\udfff]")


def fit(text: str) -> bool:
    """Whether a text can be kept: it holds no NUL and no half of a character."""
    return _UNFIT.search(text) is None


def on_a_clock(found: datetime.datetime, now: datetime.datetime) -> datetime.datetime:
    """A time with its zone, in UTC. Raises ValueError, with a sentence, for one before 1970 or more than two days after `now`."""
    try:
        moment = found.astimezone(datetime.UTC)
    except (OverflowError, ValueError):
        raise ValueError("lies beyond what a clock shows") from None
    if not _EARLIEST <= moment <= now + AHEAD:
        raise ValueError("lies before 1970 or more than two days ahead; look at the clock that it came from")
    return moment


def unfit(found: Any, path: str = "", deep: int = 0, numbers: bool = True) -> Iterator[tuple[str, str]]:
    """What of a decoded document cannot be kept: its path, and a sentence that says why.

    Without `numbers` only texts are looked at, where each number has a reader of its own.
    """
    if isinstance(found, str):
        if not fit(found):
            yield path, "holds a character that cannot be kept; type it again without it"
    elif isinstance(found, bool) or found is None or (not numbers and isinstance(found, (int, float))):
        return
    elif isinstance(found, float):
        if not math.isfinite(found):
            yield path, "the number is not finite; expected an ordinary number"
    elif isinstance(found, int):
        if abs(found) > LARGEST_WHOLE:
            yield path, "the number is larger than any that is counted here"
    elif deep >= DEEPEST:
        yield path, f"lies more than {DEEPEST} blocks deep"
    elif isinstance(found, dict):
        for key, one in found.items():
            if not fit(key):
                yield path, "the name of a field holds a character that cannot be kept"
                continue
            yield from unfit(one, f"{path}.{key}" if path else key, deep + 1, numbers)
    elif isinstance(found, list):
        for place, one in enumerate(found):
            yield from unfit(one, f"{path}[{place}]", deep + 1, numbers)
