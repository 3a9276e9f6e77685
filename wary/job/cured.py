"""After a cure: what was read before it stays where it was written down, and counts no longer."""

from wary.job.fold import RECORD, Field, Fold, singles, under
from wary.job.places import CURED, REFERENCES, Parts, place

SAID = ("string", "word")
"""What a row is called is no reading: it stays."""


def cures(fold: Fold) -> dict[str, int]:
    """The suspects that were put right in this job, each with the number of the entry that says so."""
    return {suspect: field["seq"] for suspect, field in under(fold, CURED).items()}


def since_the_cure(fold: Fold, parts: Parts) -> Fold:
    """The fold without the readings in rows that were typed before the last cure; the same one where nothing was cured."""
    last = max(cures(fold).values(), default=0)
    if not last:
        return fold
    fields: dict[str, Field] = dict(fold["fields"])
    rows = {name: {row: dict(one) for row, one in held.items()} for name, held in fold["rows"].items()}
    for path, field in fold["fields"].items():
        if field["seq"] >= last or field["source"] == RECORD or not field["text"]:
            continue
        where = place(parts, path)
        if where is None or not where.rows or where.rows[0][0] == REFERENCES or where.kind in SAID:
            continue
        was = {key: field[key] for key in ("id", "text", "unit", "who", "at")}
        fields[path] = field | {
            "text": "",
            "unit": "",
            "previous": was,
            "earlier": field["earlier"] + 1,
            "clash": False,
        }
        for name, row in where.rows:
            rows[name][row]["filled"] -= 1
    return fold | {"fields": fields, "rows": rows}


def before_the_cure(fold: Fold, parts: Parts) -> Fold | None:
    """What had been read when the first cure was made; None where nothing was cured."""
    first = min(cures(fold).values(), default=0)
    if not first:
        return None
    fields = {path: field for path, field in fold["fields"].items() if field["seq"] < first}
    rows: dict[str, dict[str, dict[str, int]]] = {}
    for path, field in fields.items():
        where = place(parts, path)
        for name, row in where.rows if where else ():
            held = rows.setdefault(name, {}).setdefault(row, {"begun": fold["rows"][name][row]["begun"], "filled": 0})
            held["filled"] += field["text"] != ""
    alone = [path for path in singles(fold) if path in fields]
    return fold | {"count": len(fields), "fields": fields, "rows": rows, "singles": alone}
