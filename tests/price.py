"""`./run price [KIND …]`: what looking costs and what it keeps from being touched.

It goes over visits that follow the page to the letter.
"""

import argparse
import itertools
import os
from collections.abc import Iterable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

from wary.machines import all_machines
from wary.simulators import stand_in_of, stand_ins
from wary.simulators.follow import Followed, follow
from wary.simulators.stand_in import BOTH

IN_ORDER, OUT, FAULT = 0.75, 0.15, 0.10
"""The real mix of visits: so many find the machine in order, simply out, with a fault."""


@dataclass(frozen=True)
class Price:
    """What looking comes to at one kind of machine. Shares are per cent, times minutes.

    `looks` and `minutes` are those asked for beyond the visit's own lists where the figure is simply out, `seen_…` the same
    after a visit at which all was looked at; `mix` what a visit of the real mix costs, a figure left over a fault
    included.
    """

    kind: str
    looks: float
    minutes: float
    seen_looks: float
    seen_minutes: float
    mix: float
    left_changed: float
    in_order_touched: float
    out_right: float
    pairs: int
    pairs_touched: int
    pairs_right: int
    pairs_stuck: int


def states(kind: str, right: str) -> list[str]:
    """The states of a kind's stand-in in which this is right."""
    return [fault for fault, hidden in stand_in_of(all_machines()[kind]).faults.items() if hidden.right == right]


def pairs_of(kind: str) -> list[str]:
    """Two faults at once, every pair, and each fault with a wrong setting."""
    faults, out = states(kind, "find-fault"), states(kind, "adjust")
    return [BOTH.join(pair) for pair in (*itertools.combinations(faults, 2), *itertools.product(faults, out))]


def price_of(kind: str, seeds: range) -> Price:
    """The price of looking at one kind."""
    machine = all_machines()[kind]

    def visits(right: str, **more: bool) -> list[Followed]:
        return [follow(kind, fault, seed, **more) for fault in states(kind, right) for seed in seeds]

    def mean(values: Iterable[float]) -> float:
        some = list(values)
        return sum(some) / len(some) if some else 0.0

    order, out, faulty = visits("leave"), visits("adjust"), visits("find-fault")
    known = visits("adjust", seen=True)
    harm = machine.minutes
    cost = {
        right: mean(one.looked_minutes + harm * one.left_changed * (right != "adjust") for one in some)
        for right, some in (("leave", order), ("adjust", out), ("find-fault", faulty))
    }
    both = [follow(kind, pair, seed) for pair in pairs_of(kind) for seed in seeds[:1]]
    return Price(
        kind,
        mean(one.looked for one in out),
        mean(one.looked_minutes for one in out),
        mean(one.looked for one in known),
        mean(one.looked_minutes for one in known),
        IN_ORDER * cost["leave"] + OUT * cost["adjust"] + FAULT * cost["find-fault"],
        100 * mean(one.left_changed for one in faulty),
        100 * mean(one.left_changed for one in order),
        100 * mean(one.right for one in out),
        len(both),
        sum(one.left_changed for one in both),
        sum(one.ended_well for one in both),
        sum(one.stuck for one in both),
    )


def main() -> None:
    """Prints the table."""
    parser = argparse.ArgumentParser(
        prog="./run price", description="What looking costs, and what it keeps from being touched."
    )
    parser.add_argument("kinds", nargs="*", metavar="KIND", help=f"of {', '.join(stand_ins())}")
    parser.add_argument("--seeds", default="0-9", help="from and to, 0-9 where nothing is said")
    asked = parser.parse_args()
    first, _, last = asked.seeds.partition("-")
    seeds = range(int(first), int(last or first) + 1)
    kinds: Sequence[str] = asked.kinds or list(stand_ins())
    unknown = [kind for kind in kinds if kind not in all_machines()]
    if unknown:
        parser.error(f"{unknown[0]} is no kind of machine; expected {', '.join(all_machines())}")
    with ProcessPoolExecutor(os.cpu_count() or 1) as pool:
        found = list(pool.map(price_of, kinds, [seeds] * len(kinds)))
    print(_line("kind", HEADS))
    for one in found:
        print(_line(one.kind, [f"{value:.{digits}f}" for value, digits in zip(_figures(one), DIGITS, strict=True)]))
    many, pairs = len(found), sum(one.pairs for one in found) or 1
    means = [sum(column) / many for column in zip(*(_figures(one)[:8] for one in found), strict=True)]
    texts = [f"{value:.{digits}f}" for value, digits in zip(means, DIGITS[:8], strict=True)]
    two = [sum(getattr(one, name) for one in found) for name in ("pairs_touched", "pairs_right", "pairs_stuck")]
    print(_line("all", [*texts, str(pairs), *(f"{100 * count / pairs:.1f}%" for count in two)]))


HEADS = ("looks", "min", "seen", "min", "mix", "over %", "order %", "out ok%", "two", "touch", "right", "stuck")
DIGITS = (1, 1, 1, 1, 2, 1, 1, 1, 0, 0, 0, 0)


def _figures(one: Price) -> tuple[float, ...]:
    """What stands in a row, in the order of `HEADS`."""
    return (
        one.looks, one.minutes, one.seen_looks, one.seen_minutes, one.mix, one.left_changed, one.in_order_touched,
        one.out_right, one.pairs, one.pairs_touched, one.pairs_right, one.pairs_stuck,
    )  # fmt: skip


def _line(name: str, texts: Sequence[str]) -> str:
    return f"{name:18}" + "".join(f"{text:>8}" for text in texts)


if __name__ == "__main__":
    main()
