"""Suspects of belts and chains."""

from wary.suspects import looks
from wary.suspects.suspect import OFF, Suspect, Tells, hints

BUILD_UP = Suspect(
    "build-up", "material has built up on the weigh idlers or under them", ("heavy", "zero-moved"), "often",
    (Tells(looks.CAKED), hints(looks.ZERO_KEPT), hints(looks.EMPTY_TURN)),
    "Clean belt, idlers and frame; set the scraper.", "cleaned", "Then the zero again, and the comparison.", slowly=True,
)  # fmt: skip
SPACING = Suspect(
    "spacing", "spacing, angle, speed or cell is set otherwise than it is", OFF, "at-times",
    (Tells(looks.SPACING), Tells(looks.PLATES), hints(looks.SLIP_OF_PLATE)),
    "Key in what was measured.", "instrument", "Then the zero, and the comparison again.",
    figures=frozenset({"idler_spacing", "angle", "pulses", "characteristic_value"}),
)  # fmt: skip
TENSION = Suspect(
    "tension", "the belt is tight, newly spliced or off its track: it carries part of the load itself", ("light", "scatter", "zero-moved"), "at-times",
    (Tells(looks.TENSION), hints(looks.HUNG, "fine", ("light",))),
    "Set the tension as it was, and let it run in.", "splice", "Then the zero, and the comparison again.",
)  # fmt: skip
IDLER = Suspect(
    "idler", "an idler is seized or out of line", ("scatter", *OFF, "zero-moved"), "often",
    (Tells(looks.IDLERS), hints(looks.SAME_AGAIN)),
    "Change or line up the idler.", "idler", "Then the zero, and the comparison again.",
)  # fmt: skip
SPEED = Suspect(
    "speed", "the speed sensor slips or is dirty", ("light", "scatter"), "at-times",
    (Tells(looks.SPEED), hints(looks.SAME_AGAIN)),
    "Clean and set it so that it is driven without slip.", "instrument", "Then the zero, and the comparison again.",
)  # fmt: skip
WIND = Suspect(
    "wind", "wind lifts and presses the belt", ("scatter", "zero-moved", *OFF, "in-order"), "seldom",
    (Tells(looks.WIND), hints(looks.EMPTY_TURN), hints(looks.SAME_AGAIN)),
    "Shelter it, or wait for a calm day.", again="Then the zero, and the comparison again.",
)  # fmt: skip
TOUCHING = Suspect(
    "touching", "hangers, bar or frame touch something", ("light", "scatter", "zero-moved"), "at-times",
    (Tells(looks.GAP), hints(looks.ZERO_KEPT), hints(looks.EMPTY_TURN)),
    "Free it.", "frame", "Then the zero, and the comparison again.",
)  # fmt: skip
STARTING = Suspect(
    "starting", "these were the first minutes after the start", ("scatter", *OFF), "at-times",
    (Tells(looks.RUN_IN), Tells(looks.SAME_AGAIN, (), ("fine",), False)),
    "Let it run in, and set the first run aside.", again="Then further runs.", by_reading=True,
)  # fmt: skip
LOST = Suspect(
    "lost", "material misses the scale or stays behind: hatch, skirt, chute", (*OFF, "scatter", "in-order"), "at-times",
    (Tells(looks.ON_THE_WAY), hints(looks.HUNG, "fine", ("light", "heavy")), hints(looks.SAME_AGAIN)),
    "Close the hatch, set the skirt, empty the chute.", again="Then the comparison again.",
)  # fmt: skip

ON_BELTS = (BUILD_UP, IDLER, SPACING, TENSION, SPEED, TOUCHING, LOST, STARTING, WIND)
