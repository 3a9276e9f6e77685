"""Chain conveyor scale: a drag chain with cells on its sides."""

from wary.machines.belt import EVENTS, PLATES, VISIT
from wary.machines.machine import Machine, Part
from wary.suspects import belts, cells


class Chain(Machine):
    key = "chain"
    title = "chain conveyor scale"
    minutes = 75
    profile = "belt-plain"
    does = (
        "belt-length",
        "belt-material-test",
        "belt-test-weight",
        "belt-zero",
        "cell-check",
        "known-load",
        "output-check",
        "set-up-sheet",
    )
    people = 2
    bulk = True
    plates = PLATES
    suspects = (*belts.ON_BELTS, cells.SWAPPED, cells.WIRE)
    visit = (Part("cells", "cell-check"), *VISIT)
    events = EVENTS
    channels = ("chain",)
    traits = frozenset({"runs"})
    mass_unit = "t"
    care = ("Flights straight, chain tension even on both sides", "Nothing packed under the weigh length")


MACHINE = Chain()
