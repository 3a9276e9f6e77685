"""Chain conveyor scale: a drag chain with cells on its sides."""

from wary.machines.belt import EVENTS, PLATES, VISIT
from wary.machines.machine import Machine, Part


class Chain(Machine):
    key = "chain"
    title = "chain conveyor scale"
    profile = "belt-plain"
    people = 2
    bulk = True
    plates = PLATES
    stand_in = "chain"
    visit = (Part("cells", "cell-check"), *VISIT)
    events = EVENTS
    channels = ("chain",)
    traits = frozenset({"runs"})
    mass_unit = "t"
    care = ("Flights straight, chain tension even on both sides", "Nothing packed under the weigh length")


MACHINE = Chain()
