"""Cautions that several methods share, each worded once; they end in the same place."""

OWN_RULES = (
    "The site's rules, the maker's manual and the local weights-and-measures law come first. A scale used for trade "
    "is adjusted and sealed only by someone licensed to."
)
BELT_ISOLATE = (
    "Isolate, lock and tag before a hand goes near the belt. Nobody reaches into a running belt; "
    "guards back before it runs."
)
BELT_TRAFFIC = "Nobody between the lorry and the chute. Nobody at the belt while it runs; guards on."
BELT_RUNNING = "Stand clear of the running belt. Read and count from outside the guards."
BELT_WEIGHTS = (
    "Isolate, lock and tag before a hand or a weight goes near. Lift weights with help or a hoist; guards back before "
    "the belt runs."
)
LIFT_WEIGHTS = "Lift test weights with help or a hoist. Feet and fingers clear when a weight comes down."
FILL_GATE = "Hands out of gates and clamps. Nobody in or under the vessel while it fills."
CELL_WIRING = "Isolate before touching cell cables or opening a junction box."
PRESS_CELL = "Press with your own weight or a jack, never a hand between the frame and its mount."
OUTPUT_LOOP = "Tell whoever runs the plant before the output moves: a controller may act on it."
AXLE_LEVEL = "Level ground and wheels chocked before a brake is let off."
AXLE_AIR = "Nobody near wheels or suspension while air is let out and filled again. The whole vehicle moves."
ARM_RAISED = "Nobody under or beside a raised arm, bucket, bin or fork."
LIFT_CAPACITY = "The load is within what the machine, the hooks and the slings may lift."
BAG_HANGS = "Nobody under a hanging bag or load, nor between it and the frame. Hangers, hooks and loops may carry it."
CART_STANDS = (
    "Brakes on and the cart stands still until the load is recorded. Nobody between cart and whatever loads it."
)
