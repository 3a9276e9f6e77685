"""Looks: what can be done at a machine in minutes, shared between suspects."""

from wary.suspects.suspect import Look

# --- what an eye and a hand find ----------------------------------------------------------------

GAP = Look(
    "gap",
    "Look round the frame: is it free, the gap clear all round?",
    1,
    "Free all round",
    "Something touches",
    where="frame",
    finds=0.8,
    walk="round",
)
LINES = Look(
    "lines",
    "Look at pipes, hoses and cables: do they hang slack?",
    1,
    "All slack",
    "One pulls or bears",
    where="lines",
    finds=0.8,
    walk="round",
)
CAKED = Look(
    "caked",
    "Look for what is caked on, stands or lies in it, or was left in",
    1,
    "Clean and empty",
    "Something is in or on it",
    where="frame",
    finds=0.8,
    walk="round",
)
BOX = Look(
    "box", "Open the junction box: is it dry and tight?", 3, "Dry and tight", "Wet or loose", where="box", finds=0.8
)
STILL = Look(
    "still",
    "Leave it as it is and watch the figure for a minute: does it stand?",
    1,
    "It stands",
    "It runs away",
    watched=True,
)
SETTLED = Look("settled", "Wait until it stands, and read once more: the same figure?", 1, "The same", "Another figure")
KNOCK = Look(
    "knock",
    "Was it knocked or overloaded? Look for a dent, and how far empty stands from where it stood",
    1,
    "No knock",
    "Knocked, or far from where it stood",
    where="cell",
    finds=0.8,
    walk="round",
)

# --- load cells ---------------------------------------------------------------------------------

ZERO_AGAIN = Look(
    "zero-again",
    "Take the load off and read empty again: does it come back?",
    1,
    "It comes back",
    "It does not come back",
)
SAME_AGAIN = Look(
    "same-again", "The same load once more: the same reading?", 3, "The same", "Another reading", "a load"
)
ANOTHER_LOAD = Look(
    "another-load",
    "Put another load on, half or double: off by the same share?",
    5,
    "The same share",
    "Another share",
    "a load",
)
CORNERS = Look("corners", "The same load on each corner: alike?", 4, "Alike", "One is off", "a load", "corner")
PRESS = Look(
    "press", "Press each cell: does it rise, and fall back?", 4, "Each rises and falls back", "One does not", where="cell",
    more=(("falls", "One falls"), ("dead", "One does not move"), ("stays", "One does not fall back")), lasts=True)  # fmt: skip
RISING = Look("rising", "Does it rise as load comes on?", 1, "It rises", "It falls or stands", "a load", lasts=True)
COUNT = Look(
    "count",
    "Count the cells, and read how many the instrument is told of",
    1,
    "The same number",
    "Another number",
    where="cell",
    walk="instrument",
    lasts=True,
)
PLATES = Look(
    "plates",
    "Read the set-up against the plates, one by one",
    4,
    "All the same",
    "One is another",
    walk="instrument",
    lasts=True,
)
TRACKING = Look(
    "tracking", "Switch zero tracking off, and put a small weight on: does it show?", 2, "It shows", "It is swallowed"
)
GOING_DOWN = Look(
    "going-down",
    "Take the loads off in steps: does it read going down as going up?",
    4,
    "The same",
    "Otherwise",
    "a load",
)
STRAIGHT = Look("straight", "Three loads and more: do they lie on a straight line?", 6, "Straight", "Bent", "a load")

# --- what it was compared with, and what was typed ----------------------------------------------

REFERENCE_READ = Look(
    "reference-read",
    "Read the reference's own plate: is it the one named, and what does it say?",
    1,
    "It is the one",
    "It is not, or says another figure",
    finds=0.8,
    walk="papers",
)
REFERENCE_OTHER = Look(
    "reference-other", "Weigh one and the same thing on another reference too", 10, "They agree", "They differ"
)
TYPED = Look(
    "typed",
    "Read what was typed once more, figure by figure",
    1,
    "As it was read",
    "Something was typed wrong",
    finds=0.8,
    walk="papers",
)
SLIP = Look(
    "slip", "Is the figure one that a usual slip explains?", 0, "No slip explains it", "A usual slip explains it"
)
SLIP_OF_COUNT = Look("slip-of-count", "Is it off by a ratio of two numbers of cells?", 0, "No", "Yes")
SLIP_OF_PLATE = Look("slip-of-plate", "Is it off by a ratio of two figures of the set-up?", 0, "No", "Yes")
SAME_REFERENCE = Look("same-reference", "Was another machine off the same way against this reference?", 0, "No", "Yes")
CAPTURED = Look(
    "captured", "Was each reading captured as it stood?", 0, "Each stood as it was captured", "One was still moving"
)
FAR = Look("far", "Is it off by as much as a cell that fails makes?", 0, "By far less", "By as much")
"""Looked at by arithmetic: nobody has to, and they take no time."""

# --- belts --------------------------------------------------------------------------------------

IDLERS = Look(
    "idlers",
    "Walk along the weigh idlers and their neighbours: do all turn, in line, clean?",
    2,
    "All turn, in line",
    "One is seized or out of line",
    "running",
    "idler",
    finds=0.8,
    walk="running",
)
TENSION = Look(
    "tension",
    "Look at take-up and splice: tension as it was, belt tracking?",
    2,
    "As it was",
    "Tight, new or off the track",
    where="track",
    finds=0.8,
    walk="running",
)
SPEED = Look(
    "speed",
    "Count turns of the belt for a minute against what the instrument counts",
    2,
    "They agree",
    "They differ",
    "running",
    "speed",
)
EMPTY_TURN = Look(
    "empty-turn",
    "Run it empty for two whole turns more: the same each time?",
    3,
    "The same",
    "Otherwise each time",
    "running",
)
ZERO_KEPT = Look(
    "zero-kept", "Take the zero: is it where it was left?", 3, "Where it was left", "It has moved", "running"
)
HUNG = Look(
    "hung",
    "Hang the weights on: does it read what they are?",
    8,
    "It reads what they are",
    "It reads otherwise",
    "running",
)
WIND = Look(
    "wind",
    "Is it sheltered from wind, and does the empty belt lie still?",
    1,
    "Sheltered and still",
    "The wind is in it",
    where="track",
    finds=0.8,
    walk="running",
)
ON_THE_WAY = Look(
    "on-the-way",
    "Look along chute, hatch and skirt: does all of it go over the scale, and none stay behind?",
    2,
    "All of it",
    "Some is lost or stays behind",
    "running",
    "chute",
    finds=0.8,
    walk="running",
)
RUN_IN = Look(
    "run-in",
    "Let it run ten minutes with load on, then weigh again: the same?",
    10,
    "The same",
    "Otherwise than at first",
    "running",
)
SPACING = Look(
    "spacing",
    "Measure idler spacing and angle on the frame against what is set",
    4,
    "As set",
    "Otherwise",
    where="idler",
    lasts=True,
)

# --- vehicles -----------------------------------------------------------------------------------

EMPTIED = Look(
    "emptied",
    "Empty the suspension and fill it again: the same reading?",
    3,
    "The same",
    "Another reading",
    where="suspension",
)
RISES = Look(
    "rises",
    "Load on: does each group's own raw figure rise?",
    2,
    "Each rises",
    "One falls or stands",
    "a load",
    "sensor",
    lasts=True,
)
BAG_HOSES = Look(
    "bag-hoses",
    "Follow each hose from its bag to its sensor: the right group?",
    3,
    "The right ones",
    "Exchanged",
    where="hose",
    lasts=True,
)
BRAKES = Look(
    "brakes", "Chocks in, brakes off: does each wheel come free?", 2, "All free", "One holds", where="brake", finds=0.8
)
LEVEL = Look("level", "Is the ground level under all wheels?", 1, "Level", "A slope", walk="round")
SPLIT = Look(
    "split",
    "Which wheels stood on the ground scale at each weighing?",
    1,
    "Those of the group",
    "Others too",
    finds=0.8,
    walk="papers",
)
TYRES = Look(
    "tyres",
    "Tyres, springs and bags: as they were when it was set?",
    1,
    "As they were",
    "Changed",
    where="suspension",
    finds=0.8,
    walk="round",
)
OIL = Look("oil", "Read the oil's temperature: warm enough?", 1, "Warm", "Cold", walk="round")
TIMES = Look("times", "Time five lifts at one pace: alike?", 3, "Alike", "Not alike", "a load")
SAME_LIFT = Look("same-lift", "Lift one and the same load five times: alike?", 4, "Alike", "Not alike", "a load")
CREEPS = Look(
    "creeps", "Lift one load ten times: does it creep one way?", 4, "It does not creep", "It creeps", "a load"
)
PIN = Look(
    "pin", "Look at the pins: greased, without play?", 1, "Greased", "Dry or worn", where="pin", finds=0.8, walk="round"
)
LEVER = Look(
    "lever",
    "Watch the lever: full stroke at each lift?",
    1,
    "Full stroke",
    "Held back",
    "a second person",
    finds=0.8,
    walk="round",
)
FLOW = Look(
    "flow",
    "Look at the flow valve: does it move freely?",
    2,
    "Free",
    "It sticks",
    where="valve",
    finds=0.8,
    walk="round",
)
SENSOR = Look(
    "sensor",
    "Arm at rest, nothing on: does the raw figure stand where it stood?",
    2,
    "Where it stood",
    "It has drifted",
    where="sensor",
)
GROUND = Look(
    "ground",
    "Is what hangs clear of the ground and the frame as it is read?",
    1,
    "Clear",
    "It touches",
    where="forks",
    finds=0.8,
    walk="round",
)
HOOKS = Look("hooks", "Are hooks and comb seated?", 1, "Seated", "Not seated", where="forks", finds=0.8, walk="round")
ATTACHMENT = Look(
    "attachment",
    "Which bucket or fork is fitted, and which was it set with?",
    1,
    "The same",
    "Another",
    finds=0.8,
    walk="round",
    lasts=True,
)
MOUNTS = Look(
    "mounts",
    "Look at each mount: upright, and free to move?",
    2,
    "Upright and free",
    "One is stuck",
    where="mount",
    finds=0.8,
    walk="round",
)
DRAWBAR = Look(
    "drawbar",
    "Full: does the tank rest on drawbar or axle anywhere?",
    2,
    "Free",
    "It rubs",
    "a load",
    "drawbar",
    finds=0.8,
)
STOOD = Look(
    "stood",
    "Did it stand still, level, as each load was read?",
    1,
    "It stood still",
    "It was still moving",
    finds=0.8,
    walk="papers",
)

# --- filling, dosing, grading -------------------------------------------------------------------

HOPPER = Look(
    "hopper",
    "Look into the hopper: full enough, and does it run?",
    1,
    "It runs",
    "Low, or it bridges",
    where="hopper",
    finds=0.8,
    walk="round",
)
AIR = Look("air", "Read the air gauge: within its band?", 1, "Within", "Outside", where="air", walk="round")
GATES = Look(
    "gates",
    "Watch the gates through one fill: do they shut, fully and at once?",
    1,
    "They shut",
    "Worn or slow",
    "running",
    "gate",
    finds=0.8,
    walk="running",
)
SHAKES = Look(
    "shakes",
    "A hand on the scale's frame: does anything shake it or bear on it?",
    1,
    "Quiet and free",
    "Something does",
    "running",
    "frame",
    finds=0.8,
    walk="round",
)
OWN_SCALE = Look(
    "own-scale",
    "Weigh one pack on its own scale and on the bench: do they agree?",
    2,
    "They agree",
    "They differ",
    "running",
)
PRODUCT = Look(
    "product",
    "Is it the product that it was set with, from the same batch?",
    1,
    "The same",
    "Another, or otherwise",
    finds=0.8,
    walk="papers",
)
CORRECTION = Look("correction", "Is the automatic correction off?", 1, "Off", "On", finds=0.8, walk="instrument")
DRIP = Look(
    "drip",
    "Nothing running: watch the outlet for a minute",
    1,
    "Dry",
    "It drips or leaks",
    "stopped",
    "outlet",
    finds=0.8,
)
STORED_TARE = Look("stored-tare", "Is a tare stored that should not be?", 1, "None", "One is stored", walk="instrument")
LIMITS_BACK = Look(
    "limits-back",
    "Read the limits and outlets back, one by one",
    1,
    "As they should be",
    "One is mistyped",
    finds=0.8,
    walk="instrument",
)
COUNTS = Look(
    "counts",
    "Whose counts are these? Read batch, and when they were cleared",
    1,
    "This batch's",
    "Another's are in them",
    finds=0.8,
    walk="instrument",
)

# --- metering -----------------------------------------------------------------------------------

PRIMED = Look(
    "primed", "Turn it until it runs full, before it is caught", 2, "It ran full", "It was not full", finds=0.8
)
SLIPS = Look(
    "slips",
    "Mark shaft and drive, and turn: do the marks stay together?",
    1,
    "They stay",
    "They part",
    where="coupling",
    finds=0.8,
)
ROLLER = Look(
    "roller",
    "Which roller is fitted, and which is set?",
    1,
    "The same",
    "Another",
    where="roller",
    finds=0.8,
    walk="round",
    lasts=True,
)
CONTAINERS = Look(
    "containers",
    "Which container stood under which outlet, and with which tare?",
    1,
    "Each under its own",
    "Exchanged",
    where="outlet",
    finds=0.8,
    walk="round",
)
LONGER = Look("longer", "A longer catch and a shorter one: the same for one turn?", 4, "The same", "Otherwise")
GATE_FAST = Look(
    "gate-fast",
    "Is the gate fast, straight, and where it was before the catch?",
    1,
    "Fast and straight",
    "Loose or crooked",
    where="gate",
    finds=0.8,
    walk="round",
)
DENSITY = Look("density", "Fill a measure and weigh it: the density that is keyed in?", 3, "As keyed", "Otherwise")
ENGINE = Look("engine", "Read the engine's speed: as at work?", 1, "As at work", "Slower or quicker", walk="instrument")
MARK = Look(
    "mark", "Count the turns at one setting twice: the same?", 2, "The same", "Otherwise", "a second person", "shaft"
)
DAMP = Look(
    "damp", "Take a handful: dry and free?", 1, "Dry and free", "Damp or lumpy", where="hopper", finds=0.8, walk="round"
)
DRIVE = Look(
    "drive",
    "One setting lower and one higher: do the turns follow?",
    3,
    "They follow",
    "They do not",
    "running",
    "drive",
)
