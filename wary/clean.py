"""What no text and no number that comes in may hold, wherever it comes from: looked at in one place."""

import math
import re
from collections.abc import Iterator
from typing import Any

DEEPEST = 40
LARGEST_WHOLE = 2**63 - 1
_UNFIT = re.compile("[\x00\ud800-\udfff]")


def fit(text: str) -> bool:
    """Whether a text can be kept: it holds no NUL and no half of a character."""
    return _UNFIT.search(text) is None


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
