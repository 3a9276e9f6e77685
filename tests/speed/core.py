"""The core alone: an assessment, one entry, a stand-in."""

import datetime
import statistics
import uuid

from tests.core.jobs import AGREEING, belt
from tests.speed.timing import show, timed, wanted
from wary.job.file import read


def core() -> None:
    """Assessing in the core alone."""
    small = read(belt([*AGREEING, AGREEING[0]], factor=1.142, factor_decimals=4, reference_division="20 kg"))
    large = read(belt(AGREEING * 50, factor=1.142, factor_decimals=4, reference_division="20 kg"))
    few, many = timed(small.assess, 200), timed(large.assess, 60)
    show("core: assess a job of 5 runs", few)
    show("core: assess a job of 200 runs", many)
    print(f"{'':58} 40 times the runs cost {statistics.median(many) / statistics.median(few):.1f} times as much")


def one_entry() -> None:
    """An entry in a visit of 300 entries, from what is typed to what of the page changed, in the core alone."""
    from wary.job.assess import assess, assess_again, parts_of
    from wary.job.fold import Folding, rebuilt
    from wary.job.subject import Subject
    from wary.job.view import bench, bench_again, changes
    from wary.log import Entry
    from wary.machines import all_machines

    machine = all_machines()["belt"]
    order, day = parts_of(machine.visit), datetime.date(2031, 3, 4)
    plates = {"rated_rate": "400 t/h", "revolution_time": "42 s", "belt_speed": "2 m/s", "idler_spacing": "1.2 m"}
    texts = {
        "inputs.rated_rate": "400 t/h", "inputs.revolution_time": "42 s", "inputs.factor": "1.142", "inputs.factor_decimals": "4",
        "inputs.reference_division": "20 kg", "inputs.indicated_division": "10 kg", "inputs.zero_done": "today",
        "zero/idle.a.value": "2 kg", "zero/idle.b.value": "2 kg",
    }  # fmt: skip
    for n in range(73):
        texts |= {f"runs.r{n}.gross": f"34.{12 + n % 7} t", f"runs.r{n}.tare": "13.50 t"}
        texts |= {f"runs.r{n}.indicated": f"20.{40 + n % 9} t", f"runs.r{n}.duration": "6 min"}
    entries = [Entry(uuid.uuid4(), n, path, text) for n, (path, text) in enumerate(texts.items(), 1)]
    subject = Subject(machine, plates=plates, profile={"name": machine.profile})
    fold = rebuilt(entries, order)
    snapshot = assess(subject, machine.visit, fold, day)
    held = [(fold, snapshot, bench(snapshot))]

    def enter() -> None:
        fold, was, shown = held[-1]
        entry = Entry(uuid.uuid4(), fold.count + 1, "runs.r1.gross", f"34.{10 + fold.count % 30} t")
        folding = Folding(order, fold)
        folding.take(entry, lambda path: [])
        now = assess_again(was, folding.now, [entry.path], day)
        after = bench_again(shown, was, now, [entry.path])
        changes(shown, after)
        held[:] = [(folding.now, now, after)]

    took = timed(enter, 300)
    show(f"core: one entry in a visit of {len(entries)} entries", took)
    print(f"{'':58} {statistics.median(took):15.2f} ms{wanted(statistics.median(took), 1.5)}")


def at_stand_ins() -> None:
    """An hour of each stand-in, followed from its beginning."""
    from wary.simulators import stand_ins
    from wary.simulators.stand_in import Action

    slowest: tuple[float, str] = (0.0, "")
    for name, machine in stand_ins().items():
        for fault in machine.faults:
            acts = [
                Action(20.0 * number, one.does, one.figure)
                for number, one in enumerate(machine.controls)
                if one.does not in ("skip", "stop")
            ]
            built = machine(3, fault)
            took = min(timed(lambda built=built, acts=acts: built.followed(acts).live(3600.0), 3))  # type: ignore[misc]
            slowest = max(slowest, (took, f"{name}, {fault}"))
    print(f"{'core: an hour of the slowest stand-in':58} {slowest[0]:8.2f} ms   {slowest[1]}{wanted(slowest[0], 50)}")
