"""Suspects of scales on vehicles: axles, arms, bin lifts, carts."""

from wary.suspects import looks
from wary.suspects.suspect import OFF, Suspect, Tells, hints

# --- axles --------------------------------------------------------------------------------------

VALVE = Suspect(
    "valve", "a levelling valve leaks or levels while it is read", (*OFF, "scatter"), "often",
    (Tells(looks.STILL), hints(looks.CAPTURED)),
    "Mend the valve.", "suspension", "Then weigh again, emptied and filled.",
)  # fmt: skip
REVERSED = Suspect(
    "reversed", "a sensor is mounted the wrong way round", OFF, "at-times",
    (Tells(looks.RISES),), "Turn the sensor round.", "sensor", "Then both loads again.",
)  # fmt: skip
EXCHANGED = Suspect(
    "exchanged", "hoses or plugs of two groups are exchanged", OFF, "at-times",
    (Tells(looks.BAG_HOSES),), "Put them right.", "sensor", "Then both loads again.",
)  # fmt: skip
BRAKE = Suspect(
    "brake", "a brake has not let go", (*OFF, "scatter"), "at-times",
    (Tells(looks.BRAKES), hints(looks.EMPTIED)), "Free the brake.", again="Then weigh again, emptied and filled.",
)  # fmt: skip
STUCK = Suspect(
    "not-emptied", "the suspension was not emptied and filled again", (*OFF, "scatter"), "often",
    (Tells(looks.EMPTIED, sure=False),), "Empty it, fill it to ride height, read again.", again="Then the readings again.", by_reading=True,
)  # fmt: skip
SLOPE = Suspect(
    "slope", "it stood on a slope", (*OFF, "scatter"), "at-times",
    (Tells(looks.LEVEL),), "Drive it onto level ground.", again="Then the readings again.", by_reading=True,
)  # fmt: skip
SPLIT = Suspect(
    "split", "other wheels stood on the ground scale than those of the group", OFF, "at-times",
    (Tells(looks.SPLIT),), "Weigh the group again, and no other wheel with it.", again="Then the tickets again.",
)  # fmt: skip
TYRES = Suspect(
    "tyres", "tyres, springs or bags were changed, and not since it was set", ("scatter",), "at-times",
    (Tells(looks.TYRES, sure=False),), "Log it: what was set before holds no longer.", "tyres", "Then both loads again.",
)  # fmt: skip

ON_AXLES = (VALVE, STUCK, REVERSED, EXCHANGED, BRAKE, SLOPE, SPLIT, TYRES)

# --- arms and bin lifts -------------------------------------------------------------------------

COLD = Suspect(
    "cold", "the oil was cold", ("heavy", "scatter", *OFF), "often",
    (Tells(looks.OIL),), "Work it warm.", again="Then the lifts again.",
)  # fmt: skip
HELD = Suspect(
    "held", "the lever was held back", ("scatter", *OFF), "at-times",
    (Tells(looks.LEVER), hints(looks.TIMES)), "Lift with the lever full over.", again="Then the lifts again.", by_reading=True,
)  # fmt: skip
FLOW = Suspect(
    "flow", "the flow valve sticks", ("scatter", *OFF, "in-order"), "at-times",
    (Tells(looks.FLOW), hints(looks.TIMES)), "Free the flow valve.", "hydraulics", "Then the lifts again.", part="a flow valve",
)  # fmt: skip
BEARS = Suspect(
    "bears", "something hangs between arm and frame, or bears on it", ("light", "curve", "scatter", *OFF), "at-times",
    (Tells(looks.GAP), hints(looks.ANOTHER_LOAD)), "Clear it.", "other", "Then zero, and the loads again.",
)  # fmt: skip
PIN = Suspect(
    "pin", "a pin is dry: it grips and lets go", ("scatter", *OFF), "at-times",
    (Tells(looks.PIN), hints(looks.SAME_LIFT), hints(looks.SAME_AGAIN)), "Grease it.", "other", "Then the lifts again.", slowly=True,
)  # fmt: skip
DRIFTS = Suspect(
    "sensor", "the pressure sensor drifts", (*OFF, "scatter", "zero-moved", "in-order"), "at-times",
    (Tells(looks.SENSOR), Tells(looks.CREEPS, clears=()), hints(looks.SAME_LIFT)), "Replace the sensor.", "sensor", "Then all lifts again.", slowly=True,
)  # fmt: skip
OTHER_ATTACHMENT = Suspect(
    "attachment", "another bucket or fork is fitted than it was set with", OFF, "at-times",
    (Tells(looks.ATTACHMENT),), "Choose the channel of what is fitted, or calibrate for it.", again="Then the lifts again.",
)  # fmt: skip
TOUCHES = Suspect(
    "container", "the container touches ground or frame as it is read", ("light", "scatter", "in-order"), "often",
    (Tells(looks.GROUND), hints(looks.SAME_LIFT), hints(looks.SAME_AGAIN)), "Raise the forks before it is read.", "forks", "Then the lifts again.",
)  # fmt: skip
UNSEATED = Suspect(
    "hooks", "the hooks had not seated", ("scatter", *OFF), "often",
    (Tells(looks.HOOKS),), "Seat them with lifts that do not count.", again="Then the lifts again.", by_reading=True,
)  # fmt: skip
HOSE = Suspect(
    "hose", "a hose pulls at the lift", ("scatter", *OFF, "zero-moved"), "at-times",
    (Tells(looks.LINES), hints(looks.SAME_LIFT)), "Tie it up so that it hangs slack.", "sensor", "Then the lifts again.", part="a hose",
)  # fmt: skip

ON_ARMS = (COLD, HELD, FLOW, BEARS, PIN, DRIFTS, OTHER_ATTACHMENT)
ON_LIFTS = (TOUCHES, UNSEATED, PIN, DRIFTS, HOSE)

# --- carts --------------------------------------------------------------------------------------

MOUNT = Suspect(
    "mount", "a mount is stuck: the same mass is missing from every load", ("light", "curve"), "at-times",
    (Tells(looks.MOUNTS), hints(looks.ANOTHER_LOAD)), "Free it.", "frame", "Then zero, and the loads again.",
)  # fmt: skip
RUBS = Suspect(
    "rubs", "the tank rubs on drawbar or axle when it is full", ("light", "curve", "scatter"), "at-times",
    (Tells(looks.DRAWBAR), hints(looks.ANOTHER_LOAD), hints(looks.SAME_AGAIN)), "Lift it off.", "frame", "Then zero, and the loads again.",
)  # fmt: skip
MOVING = Suspect(
    "moving", "a load was read before it stood still", ("scatter", *OFF), "often",
    (Tells(looks.STOOD), Tells(looks.SAME_AGAIN, (), ("fine",), False), Tells(looks.CAPTURED, sure=False)), "Stand still, and read again.", again="Then the loads again.", by_reading=True,
)  # fmt: skip

ON_CARTS = (MOUNT, RUBS, MOVING, SLOPE)
