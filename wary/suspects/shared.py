"""Suspects of every machine: the reference, the set-up, a reading taken too early, a wrong entry."""

from wary.suspects import looks
from wary.suspects.suspect import EXPLAINED, OFF, Suspect, Tells, hints

REFERENCE = Suspect(
    "reference", "the reference is wrong, or not the one that is named", (*OFF, "curve"), "at-times",
    (Tells(looks.REFERENCE_OTHER), Tells(looks.REFERENCE_READ), hints(looks.SAME_REFERENCE)),
    "Take another reference, and say on the record which.", again="Then the comparison again, with the other reference.",
)  # fmt: skip
SET_UP = Suspect(
    "set-up", "a figure in the instrument is not the one on the plate", (*OFF, "curve"), "at-times",
    (Tells(looks.PLATES),),
    "Key in what the plate says.", "instrument", "Then zero and span, and the comparison again.",
)  # fmt: skip
EARLY = Suspect(
    "early", "it was read before it stood", (*OFF, "scatter", "zero-moved"), "at-times",
    (Tells(looks.SETTLED), Tells(looks.SAME_AGAIN, (), ("fine",), False), Tells(looks.STOOD), Tells(looks.CAPTURED, sure=False)),
    "Wait until it stands, and read again.", again="Then the readings again.", by_reading=True,
)  # fmt: skip
ENTRY = Suspect(
    "entry", "something was typed wrong", (*OFF, "scatter", "curve"), "at-times",
    (Tells(looks.TYPED), Tells(looks.SLIP, (EXPLAINED,), ()), Tells(looks.SLIP, sure=False)),
    "Type what it should have been.", again="Then look at the call again.", by_reading=True,
)  # fmt: skip

EVERYWHERE = (REFERENCE, SET_UP, EARLY, ENTRY)
