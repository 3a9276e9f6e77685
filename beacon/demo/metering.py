"""What the demo's drill, spreaders and dosing screw have lived through.

A drill whose two containers once changed places, a spreader whose constant closed over four catches, a
gritter with two gates tried and its card printed, a screw whose catches its silo's own scale weighs.
"""

from beacon.demo.past import Past
from beacon.demo.stories import Teller, days_ago
from wary.methods.metering.constant_catch.method import ConstantResults
from wary.simulators.metering import BeltSpreader


def tell(teller: Teller) -> None:
    """Notes the past of the drill, the spreaders and the screw."""
    teller.on(43, _swapped, teller)
    teller.on(42, _rear_tank, teller)
    teller.on(0, _drill_under_way, teller)
    teller.on(24, _closing_in, teller)
    teller.on(12, _two_gates, teller)
    teller.on(18, _screw, teller)


def _catch(turns: str, gross: str, tare: str = "0.52 kg") -> dict[str, str]:
    return {"amount": turns, "gross": gross, "tare": tare}


def _swapped(teller: Teller) -> None:
    """Both tanks caught at once: the containers stood under each other's outlet, which the first catch showed."""
    past = Past(teller.ines, teller.channel("Granule drill"), "meter-catch", days_ago(43, 9))
    past.look().enter({"inputs.per": "revolution", "inputs.primed": "yes", "inputs.display_unit": "kg"})
    past.rows("runs", [_catch("20", "6.74 kg")])
    past.enter({"inputs.other_tank.old_value": "0.310 kg/rev", "inputs.other_tank.net": "2.42 kg", "inputs.other_tank.amount": "20"})  # fmt: skip
    # Seen, and read again with each container under its own outlet.
    past.enter({"runs.d1.gross": "2.93 kg", "inputs.other_tank.net": "6.22 kg"})
    past.enter({f"runs.d2.{key}": text for key, text in _catch("20", "2.94 kg").items()})
    past.enter({"note": "Containers had changed places at the first catch; labels renewed."}).close()


def _rear_tank(teller: Teller) -> None:
    past = Past(teller.ines, teller.channel("Granule drill", 1), "meter-catch", days_ago(42, 10))
    past.look().enter({"inputs.per": "revolution", "inputs.primed": "yes", "inputs.display_unit": "kg"})
    past.rows("runs", [_catch("20", "6.76 kg"), _catch("20", "6.74 kg")]).close()


def _drill_under_way(teller: Teller) -> None:
    """Another product: the first catches do not agree yet."""
    past = Past(teller.ines, teller.channel("Granule drill"), "visit", days_ago(0, 10))
    past.look().enter({"inputs.per": "revolution", "inputs.primed": "yes", "inputs.display_unit": "kg"})
    past.rows("runs", [_catch("20", "3.02 kg"), _catch("20", "3.10 kg"), _catch("20", "3.11 kg")])


def _closing_in(teller: Teller) -> None:
    """The constant closes over four catches; the last is within what the scale can tell."""
    past = Past(teller.corin, teller.channel("Shell-lime spreader"), "visit", days_ago(24, 9))
    past.look().enter({"inputs.purged": "yes"})
    machine = BeltSpreader(11, truth=8120.0, scatter=0.006)
    constant = "7400"
    for number in range(1, 7):
        caught = machine.catch(float(constant))
        past.enter({f"runs.d{number}.constant": constant, f"runs.d{number}.controller": f"{caught.controller:g} kg"})
        past.enter({f"runs.d{number}.gross": f"{caught.net + 18.4:.1f} kg", f"runs.d{number}.tare": "18.4 kg"})
        answer = past.snapshot.main.assessment
        if answer.call != "adjust":
            break
        assert isinstance(answer.results, ConstantResults) and answer.results.new_factor
        constant = f"{answer.results.new_factor.value:g}"
    past.close()


def _two_gates(teller: Teller) -> None:
    """The first gate gave too much; after the second only one catch was made again."""
    past = Past(teller.ines, teller.channel("Path gritter"), "rate-chart", days_ago(12, 7, 40))
    past.look().enter({"inputs.prepared": "yes", "inputs.engine": "1800", "inputs.material": "shell grit 0 to 4"})
    past.enter({"inputs.working.setting": "2", "inputs.working.speed": "20 km/h", "inputs.season_distance": "900 km", "inputs.price_per_tonne": "85"})  # fmt: skip
    past.rows("speeds", [{"value": f"{kmh} km/h"} for kmh in (10, 15, 20)])
    past.rows("gate_readings", [{"value": "52 mm"}, {"value": "54 mm"}])
    past.rows("settings", [{"setting": s, "revolutions": r, "seconds": "60"} for s, r in (("1", "5"), ("2", "9.5"), ("3", "13.5"), ("4", "13.5"))])  # fmt: skip
    past.rows("catches", [{"revolutions": "10", "gross": "24.6 kg", "tare": "2.2 kg"}])
    past.enter({"earlier.e1.gate_opening": "53 mm", "earlier.e1.mass_per_revolution": "2.24 kg/rev"})
    past.enter({"gate_readings.d1.value": "41 mm", "gate_readings.d2.value": "42 mm"})
    past.enter({"catches.d1.gross": "18.0 kg"}).close()


def _screw(teller: Teller) -> None:
    """So many turns out of the silo, whose own scale says what left it."""
    past = Past(teller.corin, teller.channel("Alginate dosing screw"), "meter-catch", days_ago(18, 13))
    past.look("trim").enter({"inputs.per": "revolution", "inputs.primed": "yes"})
    weighed = (("18.640 t", "17.290 t"), ("17.290 t", "15.935 t"))
    past.rows("runs", [{"amount": "3000", "start_mass": start, "end_mass": end} for start, end in weighed])
    past.enter({"loose.trim": "done"}).close()
