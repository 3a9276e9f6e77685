"""`./run price [KIND …]`: what looking costs and what it keeps from being touched, over visits that follow the page to the letter."""

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
    """Two faults at once, and each with a wrong setting; what the same act ends is one fault."""
    faults, out = states(kind, "find-fault"), states(kind, "adjust")
    hidden = stand_in_of(all_machines()[kind]).faults
    found = list(itertools.combinations(faults, 2))
    return [BOTH.join(pair) for pair in (*found, *itertools.product(faults, out)) if hidden]


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
    print(
        f"{'kind':18}{'looks':>6}{'min':>6}{'seen':>6}{'min':>6}{'mix':>6}{'over %':>8}{'order %':>8}{'out ok%':>8}{'two':>5}{'touch':>6}{'right':>6}{'stuck':>6}"
    )
    for one in found:
        print(
            f"{one.kind:18}{one.looks:6.1f}{one.minutes:6.1f}{one.seen_looks:6.1f}{one.seen_minutes:6.1f}{one.mix:6.2f}"
            f"{one.left_changed:8.1f}{one.in_order_touched:8.1f}{one.out_right:8.1f}{one.pairs:5}{one.pairs_touched:6}{one.pairs_right:6}{one.pairs_stuck:6}"
        )
    many = len(found)
    all_pairs = sum(one.pairs for one in found) or 1
    print(
        f"{'all':18}{sum(o.looks for o in found) / many:6.1f}{sum(o.minutes for o in found) / many:6.1f}"
        f"{sum(o.seen_looks for o in found) / many:6.1f}{sum(o.seen_minutes for o in found) / many:6.1f}"
        f"{sum(o.mix for o in found) / many:6.2f}{sum(o.left_changed for o in found) / many:8.1f}"
        f"{sum(o.in_order_touched for o in found) / many:8.1f}{sum(o.out_right for o in found) / many:8.1f}{all_pairs:5}"
        f"{100 * sum(o.pairs_touched for o in found) / all_pairs:5.1f}%{100 * sum(o.pairs_right for o in found) / all_pairs:5.1f}%"
        f"{100 * sum(o.pairs_stuck for o in found) / all_pairs:5.1f}%"
    )


if __name__ == "__main__":
    main()
