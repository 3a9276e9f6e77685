"""After a cure: what was read before it stays where it was written down, and counts no longer."""

from dataclasses import replace

from wary.job.places import CURED, REFERENCES, Parts, place
from wary.log import Field, Fold, Row

SAID = ("string", "word")
"""What a row is called is no reading: it stays."""


def cures(fold: Fold) -> dict[str, int]:
    """The suspects that were put right in this job, each with the number of the entry that says so."""
    return {suspect: field.seq for suspect, field in fold.under(CURED).items()}


def since_the_cure(fold: Fold, parts: Parts) -> Fold:
    """The fold without the readings in rows that were typed before the last cure; the same one where nothing was cured."""
    last = max(cures(fold).values(), default=0)
    if not last:
        return fold
    fields: dict[str, Field] = dict(fold.fields)
    rows = {name: dict(held) for name, held in fold.rows.items()}
    for path, field in fold.fields.items():
        if field.seq >= last or not field.is_typed:
            continue
        where = place(parts, path)
        if where is None or not where.rows or where.rows[0][0] == REFERENCES or where.kind in SAID:
            continue
        fields[path] = replace(field, text="", unit="", previous=field.brief, earlier=field.earlier + 1, clash=False)
        for name, row in where.rows:
            rows[name][row] = replace(rows[name][row], filled=rows[name][row].filled - 1)
    return replace(fold, fields=fields, rows=rows)


def before_the_cure(fold: Fold, parts: Parts) -> Fold | None:
    """What had been read when the first cure was made; None where nothing was cured."""
    first = min(cures(fold).values(), default=0)
    if not first:
        return None
    fields = {path: field for path, field in fold.fields.items() if field.seq < first}
    rows: dict[str, dict[str, Row]] = {}
    for path, field in fields.items():
        where = place(parts, path)
        for name, row in where.rows if where else ():
            held = rows.setdefault(name, {})
            was = held.get(row) or Row(fold.rows[name][row].begun)
            held[row] = replace(was, filled=was.filled + (field.text != ""))
    alone = tuple(path for path in fold.singles if path in fields)
    return replace(fold, count=len(fields), fields=fields, rows=rows, singles=alone)
