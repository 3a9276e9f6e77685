"""`./run follow`: what comes of following the page to the letter, a row for each kind and state, and in all."""

import argparse
import os
from collections.abc import Iterable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

from wary.machines import all_machines
from wary.simulators import stand_in_of, stand_ins
from wary.simulators.follow import Followed, follow
from wary.simulators.stand_in import Right

TOO_LONG = 1.5
"""A visit takes no longer than so many times what the stand-in says it takes somebody who knows the work."""


@dataclass(frozen=True)
class Row:
    """What came of one state: how often it was followed, left changed though nothing was to be set, named, put
    right; the mean of its minutes against the stand-in's own."""

    kind: str
    fault: str
    right: Right
    times: int
    rightly: int
    touched: int
    named: int
    minutes: float
    slow: int


def row_of(kind: str, fault: str, visits: Sequence[Followed]) -> Row:
    """One state, from its visits."""
    usual = stand_in_of(all_machines()[kind])
    hidden = usual.faults[fault]
    minutes = sum(one.minutes for one in visits) / len(visits) / usual.minutes
    slow = sum(one.minutes > TOO_LONG * usual.minutes for one in visits)
    named = sum(one.named for one in visits)
    rightly, changed = sum(one.right for one in visits), sum(one.left_changed for one in visits)
    return Row(kind, fault, hidden.right, len(visits), rightly, changed, named, minutes, slow)


def rows(kinds: Iterable[str], seeds: range, workers: int = 1) -> list[Row]:
    """Every state of these kinds with each of these seeds."""
    states = [(kind, fault) for kind in kinds for fault in stand_in_of(all_machines()[kind]).faults]
    if workers < 2:
        return [_row(kind, fault, seeds) for kind, fault in states]
    with ProcessPoolExecutor(workers) as pool:
        return list(pool.map(_row, *zip(*[(kind, fault, seeds) for kind, fault in states], strict=True)))


def _row(kind: str, fault: str, seeds: range) -> Row:
    return row_of(kind, fault, [follow(kind, fault, seed) for seed in seeds])


@dataclass(frozen=True)
class InAll:
    """What came of all of them, in per cent: the goals are `GOALS`."""

    touched_over: float
    named: float
    in_order_touched: float
    put_right: float
    slow: float


GOALS = InAll(1.0, 95.0, 1.0, 97.0, 5.0)
"""Left changed over a fault, in order and left changed, and too slow at most; named rightly, and put right within its
limit at least."""


def in_all(found: Sequence[Row]) -> InAll:
    """All rows together."""

    def share(right: Right, of: str) -> float:
        some = [one for one in found if one.right == right]
        times = sum(one.times for one in some)
        count = sum({"touched": one.touched, "named": one.named, "rightly": one.rightly}[of] for one in some)
        return 100 * count / times if times else 0.0

    slow = 100 * sum(one.slow for one in found) / max(1, sum(one.times for one in found))
    return InAll(share("find-fault", "touched"), share("find-fault", "named"), share("leave", "touched"), share("adjust", "rightly"), slow)  # fmt: skip


def main() -> None:
    """Prints the table."""
    parser = argparse.ArgumentParser(prog="./run follow", description="Follows what the page says, at every stand-in.")
    parser.add_argument("kinds", nargs="*", metavar="KIND", help=f"of {', '.join(stand_ins())}")
    parser.add_argument("--seeds", default="0-19", help="from and to, 0-19 where nothing is said")
    asked = parser.parse_args()
    first, _, last = asked.seeds.partition("-")
    unknown = [kind for kind in asked.kinds if kind not in all_machines()]
    if unknown:
        parser.error(f"{unknown[0]} is no kind of machine; expected {', '.join(all_machines())}")
    found = rows(asked.kinds or stand_ins(), range(int(first), int(last or first) + 1), os.cpu_count() or 1)
    print(f"{'kind':18}{'state':14}{'right is':12}{'rightly':>9}{'changed':>9}{'named':>7}{'minutes':>9}")
    for one in found:
        named = f"{one.named}" if one.right == "find-fault" else ""
        print(
            f"{one.kind:18}{one.fault:14}{one.right:12}{one.rightly:5}/{one.times:<3}{one.touched:9}{named:>7}{one.minutes:8.2f}×"
        )
    whole = in_all(found)
    for words, value, goal, most in (
        ("left changed over a fault", whole.touched_over, GOALS.touched_over, True),
        ("the fault named rightly", whole.named, GOALS.named, False),
        ("in order and left changed", whole.in_order_touched, GOALS.in_order_touched, True),
        ("out and put right", whole.put_right, GOALS.put_right, False),
        (f"longer than {TOO_LONG} times its own minutes", whole.slow, GOALS.slow, True),
    ):
        meets = value <= goal if most else value >= goal
        print(f"{words:40}{value:7.2f} %   ({'meets' if meets else 'MISSES'} {'≤' if most else '≥'} {goal:g})")


if __name__ == "__main__":
    main()
