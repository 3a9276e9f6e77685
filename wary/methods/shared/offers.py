"""What else could be done, offered by name: the code of a suggestion is then the key of a method.

It is shown only where the machine takes that method.
"""

from collections.abc import Sequence

from wary.rules.assessment import Reason
from wary.rules.call import PROVES_LITTLE

NUDGE = Reason("known-load", "One load of a ground scale, after this, goes to the known load: it nudges the figure.")
FURTHER = Reason(
    "substitution-test",
    "A substitution test proves it further with the same weights: material takes their place, and they go on again.",
)


def offered(reasons: Sequence[Reason]) -> list[Reason]:
    """What proves more, where this proved little."""
    return [FURTHER] if any(reason.code == PROVES_LITTLE for reason in reasons) else []
