"""After a cure: what was read before it stays where it was written down, and counts no longer."""

from collections.abc import Set
from dataclasses import replace
from functools import lru_cache

from wary.job.places import CURED, REFERENCES, Parts, Place, joined, place, scalars_of
from wary.log import Field, Fold, Row
from wary.machines import all_machines
from wary.methods import all_methods

SAID = ("string", "word")
"""What a row is called is no reading: it stays."""


def cures(fold: Fold) -> dict[str, int]:
    """The suspects that were put right in this job, each with the number of the entry that says so."""
    return {suspect: field.seq for suspect, field in fold.under(CURED).items()}


def since_the_cure(fold: Fold, parts: Parts) -> Fold:
    """The fold without what was read before the last cure; the same one where nothing was cured.

    What is read stands in rows, in those places that the machine has to do something for; and in the single figures
    that showed what was put right.
    """
    done = cures(fold)
    last = max(done.values(), default=0)
    if not last:
        return fold
    showing = _showing(parts, frozenset(done))
    fields: dict[str, Field] = dict(fold.fields)
    rows = {name: dict(held) for name, held in fold.rows.items()}
    for path, field in fold.fields.items():
        if field.seq >= last or not field.is_typed:
            continue
        where = place(parts, path)
        if where is None or not (path in showing or _is_read(where, field, parts)):
            continue
        fields[path] = replace(field, text="", unit="", previous=field.brief, earlier=field.earlier + 1, clash=False)
        for name, row in where.rows:
            rows[name][row] = replace(rows[name][row], filled=rows[name][row].filled - 1)
    return replace(fold, fields=fields, rows=rows)


def _is_read(where: Place, field: Field, parts: Parts) -> bool:
    """Whether a place in a row holds a reading: what a row is called or is set to holds none, nor does what the
    record says of it."""
    if not where.rows or where.rows[0][0] == REFERENCES or where.kind in SAID:
        return False
    name = where.rows[0][0].rpartition("/")[2]
    method = all_methods()[dict(parts)[where.part]]
    at = f"{name}.{where.key}"
    return at in method.acts or not (field.source == "record" or at in method.stays)


@lru_cache(maxsize=256)
def _showing(parts: Parts, done: Set[str]) -> frozenset[str]:
    """The single figures that showed one of these suspects, and no plates: they are to be read again."""
    suspects = [one for kind in all_machines().values() for one in kind.all_suspects() if one.key in done]
    sure = {tell.look.key for one in suspects for tell in one.tells if tell.sure}
    found = set()
    for part, method in parts:
        for read in all_methods()[method].reads:
            known = scalars_of(method).get(read.at)
            if read.look.key in sure and known and not known.plate:
                found |= {f"inputs.{read.at}", joined(part, f"inputs.{read.at}")}
    return frozenset(found)


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
