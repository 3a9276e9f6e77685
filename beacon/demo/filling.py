"""What the demo's fillers, its doser and its grader have lived through.

A pouch filler whose fine was moved to chase what medium did, a bagger that is being tuned, a stand
for bulk bags, a doser whose cell was knocked, a grader whose limits were once typed in the wrong order.
"""

from beacon.demo.past import Past
from beacon.demo.stories import Teller, days_ago

POUCHES = "Dulse-flake pouch filler"
BAGGER = "Kelp-meal bagger"


def tell(teller: Teller) -> None:
    """Notes the past of the fillers, the bag stand, the doser and the grader."""
    teller.on(148, _bagger_tuned, teller)
    teller.on(0, _bagger_under_way, teller)
    teller.on(88, _fine_chased, teller)
    teller.on(80, _medium_put_right, teller)
    teller.on(20, _watched, teller)
    teller.on(57, _bag_stand, teller)
    teller.on(34, _cell_found, teller)
    teller.on(29, _cell_renewed, teller)
    teller.on(15, _limits, teller)


def _trial(past: Past, row: str, fills: str, times: str = "", unit: str = "g", **cut_offs: str) -> Past:
    """A trial: its cut-offs, then its fills, with the seconds for which fine was seen."""
    texts = {f"trials.{row}.{stage}": text for stage, text in cut_offs.items()}
    seen = times.split()
    for number, weight in enumerate(fills.split(), 1):
        if seen:
            texts[f"trials.{row}.fills.f{number}.fine_time"] = f"{seen[number - 1]} s"
        texts[f"trials.{row}.fills.f{number}.weight"] = f"{weight} {unit}"
    return past.enter(texts)


def _precheck(past: Past) -> Past:
    """The machine's own list, all as expected."""
    past.look(parts=("before",))
    fields = past.snapshot.fold.fields
    parts = [path.rpartition(".")[0] for path in fields if path.startswith("before/parts.") and path.endswith(".name")]
    past.enter({f"{part}.as_expected": "yes" for part in parts})
    return past.enter({"before/supplies.s1.read": "6.2"})


def _bagger_tuned(teller: Teller) -> None:
    past = Past(teller.ines, teller.channel(BAGGER), "fill-tuning", days_ago(148, 8))
    past.look("correction")
    _trial(past, "o1", "25.12 25.10 25.11", "1.2 1.1 1.1", "kg")
    _trial(past, "t2", "25.02 25.00 25.01", "1.1 1.0 1.1", "kg", medium="1.2 kg", fine="90 g")
    past.enter({"loose.correction": "done"}).close()


def _bagger_under_way(teller: Teller) -> None:
    """Being tuned: scattered at first, now beside the target every time."""
    past = Past(teller.ines, teller.channel(BAGGER), "visit", days_ago(0, 9, 20))
    _precheck(past).look("correction", "auto-zero")
    _trial(past, "o1", "25.16 25.05 25.12", "0.3 0.2 0.4", "kg")
    _trial(past, "t2", "25.08 25.06 25.07", "1.0 1.1 1.0", "kg", medium="1.37 kg", fine="90 g")


def _fine_chased(teller: Teller) -> None:
    """Three times fine was moved, and the fills scattered as before: it was not fine."""
    past = Past(teller.ines, teller.channel(POUCHES), "fill-tuning", days_ago(88, 14))
    past.look("correction")
    _trial(past, "o1", "103.1 101.2 102.9")
    _trial(past, "t2", "101.9 103.0 101.2", fast="100 g", medium="8 g", fine="4.4 g")
    _trial(past, "t3", "102.2 100.8 102.6", fast="100 g", medium="8 g", fine="6.4 g")
    past.enter({"note": "Fine moved twice, the fills scatter as they did. The shift is over."})
    past.enter({"loose.correction": "done"}).close("not-confirmed", reason="fills still scatter, the shift is over")


def _medium_put_right(teller: Teller) -> None:
    """Medium gives fine its room; then fine goes back by what it had been moved to chase that."""
    past = Past(teller.corin, teller.channel(POUCHES), "fill-tuning", days_ago(80, 9), "complaint")
    past.look("correction")
    _trial(past, "o1", "102.2 101.0 102.6", "0.2 0.3 0.2", fine="6.4 g")
    _trial(past, "t2", "96.9 97.3 97.2", "0.9 1.0 0.9", fast="100 g", medium="10.8 g", fine="6.4 g")
    _trial(past, "t3", "100.2 99.9 100.4", "1.0 1.0 1.1", fast="100 g", medium="10.8 g", fine="3.5 g")
    past.enter({"loose.correction": "done"}).close()


def _watched(teller: Teller) -> None:
    """Samples of a shift, and what is given away."""
    past = Past(teller.ines, teller.channel(POUCHES), "fill-check", days_ago(20, 10))
    past.look().enter({"inputs.sampling.first": "5", "inputs.sampling.every": "60"})
    machine = "100.2 100.5 99.9 100.8 100.4 100.1 100.9 100.3 99.8 100.6 100.2 100.7 100.0 100.5"
    bench = "100.3 100.4 100.0 100.9 100.3 100.2 100.8 100.4 99.9 100.5 100.3 100.6 100.1 100.4"
    rows = [{"machine": f"{m} g", "bench": f"{b} g"} for m, b in zip(machine.split(), bench.split(), strict=True)]
    past.rows("samples", rows)
    past.enter({"inputs.cost_per_mass.amount": "38", "inputs.cost_per_mass.per": "1 kg", "inputs.packs_per_year": "410000"})  # fmt: skip
    past.enter({"inputs.cycle_counter": "48210", "inputs.cycle_counter_before": "31904"}).close()


def _bag_stand(teller: Teller) -> None:
    """Weights hung from the hangers; they come off, and it shows zero again."""
    past = Past(teller.corin, teller.channel("Bulk-bag stand"), "visit", days_ago(57, 11))
    past.look().rows("passes", [{"zero": "0 kg", "span": "400.0 kg", "zero_after": "0 kg"}])
    past.close()


def _cell_found(teller: Teller) -> None:
    """The check mass reads far off: not a span that has wandered, but a cell that took a knock."""
    past = Past(teller.ines, teller.channel("Mineral doser"), "dose-check", days_ago(34, 8), "complaint")
    past.look().enter({"inputs.check_mass": "400 g"})
    past.rows("readings_before", [{"value": f"{g} g"} for g in (417.4, 421.9, 415.0)])
    past.rows("doses_before", [{"value": f"{g} g"} for g in (191.0, 188.2)])
    past.close(
        "left-for-repair",
        fault="cell bent: it reads 4 % heavy and does not come back",
        told="Corin Hale",
        suspect="bent",
    )


def _cell_renewed(teller: Teller) -> None:
    """A new cell: the span with the check mass, then doses until three in a row are right."""
    channel = teller.channel("Mineral doser")
    teller.event(channel.system, 30, "cell", "cell renewed after a knock", ("dose-check",))
    past = Past(teller.corin, channel, "dose-check", days_ago(29, 9), "repair")
    past.look().enter({"inputs.check_mass": "400 g"})
    past.rows("readings_before", [{"value": f"{g} g"} for g in (402.9, 403.0, 402.8)])
    past.rows("readings_after", [{"value": f"{g} g"} for g in (400.1, 400.0, 400.1)])
    past.rows("doses", [{"value": f"{g} g"} for g in (203.1, 200.4, 199.8, 200.2)])
    past.enter({"loose.tares": "done"}).close()


def _limits(teller: Teller) -> None:
    """Two limits were typed in the wrong order, seen, and put right; then a batch."""
    past = Past(teller.ines, teller.channel("Oyster grader"), "visit", days_ago(15, 10))
    past.look(parts=("span",)).enter({"span/inputs.test_load": "200 g"})
    past.rows("span/passes", [{"zero": "0 g", "span": "200 g", "zero_after": "0 g"}]).look()
    past.enter({"inputs.limit_kind": "lower"})
    grades = (("small", "60 g"), ("medium", "105 g"), ("large", "80 g"), ("extra", "130 g"))
    past.rows("grades", [{"name": name, "limit": limit, "outlet": str(n)} for n, (name, limit) in enumerate(grades, 1)])
    past.enter({"grades.d2.limit": "80 g", "grades.d3.limit": "105 g"})
    batch = (("small", 412, "29.4 kg"), ("medium", 903, "83.0 kg"), ("large", 388, "44.7 kg"), ("extra", 57, "7.9 kg"))
    past.enter({"inputs.batch_name": "ebb tide, beds 3 and 4"})
    past.rows("batch", [{"grade": g, "count": str(n), "total_mass": total} for g, n, total in batch]).close()
