"""A chain conveyor: a belt of plates, whose two cells can be read one by one."""

from dataclasses import replace
from typing import ClassVar

from wary.live import Readout
from wary.simulators.belt import CONTROLS, Belt, Plates
from wary.simulators.stand_in import Control, Does, OnRecord, StandIn, does


class Chain(Belt):
    """A stand-in chain conveyor: a belt of plates, whose two cells can be read one by one."""

    plated = replace(
        Plates(), kind="chain", name="Practice chain", material="practice grit", idler_spacing=0.6, angle=0.0, speed=0.5,
        length=24.0, rated=60 / 3.6, total_division=2.0, bridge_division=10.0, decimals=4, factor=0.982,
    )  # fmt: skip
    controls = tuple(
        one.model_copy(update={"figure": {"feed": 45.0, "turn": 48.0, "hang": 30.0}[one.name]})
        if one.name in ("feed", "turn", "hang") else one
        for one in CONTROLS
    ) + (
        Control(name="press-left", group="weigh", words="Press the left cell", does="press", figure=1, serves=("pressed", "released")),
        Control(name="press-right", group="weigh", words="Press the right cell", does="press", figure=2, serves=("pressed", "released")),
        Control(name="release", group="weigh", words="Let go", does="press", serves=("pressed", "released")),
    )  # fmt: skip
    doing = {**Belt.doing, "press": does("press"), "release": (Does("press", 0),)}
    capacity: ClassVar[float] = 100.0

    @classmethod
    def on_record(cls) -> OnRecord:
        cells = {"cells": ("left", "right"), "cell_capacity": f"{cls.capacity:g} kg", "cell_sensitivity": "2 mV/V"}
        return super().on_record().model_copy(update=cells)

    def cells(self, on_it: float, pressed: int, t: float) -> tuple[Readout, ...]:
        found = []
        for place, name in enumerate(("left", "right"), 1):
            signal = 2.0 * (on_it / 2 + (12.0 if pressed == place else 0.0)) / self.capacity + self.noise(
                t, 0.0004, name
            )
            found.append(
                Readout(
                    key=f"cell-{name}", title=f"cell {name}", text=f"{signal:.3f}", value=signal, unit="mV/V", steady=True,
                    into=("empty", "pressed", "released", "running_low", "running_high"), capture=f"{signal:.3f}", of=name,
                )
            )  # fmt: skip
        return tuple(found)


STAND_INS: dict[str, type[StandIn]] = {"chain": Chain}
