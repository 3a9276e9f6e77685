"""What somebody left behind in a job on which they may not work any more, in words, for the leads of its organisation."""

from collections.abc import Iterator
from itertools import groupby
from typing import Any

from beacon.bench.models import LeftBehind
from beacon.people.models import Organisation
from beacon.records.trail_words import places, says
from wary.job.words import words_of


def left_in(here: Organisation) -> Iterator[dict[str, Any]]:
    """What was left in the jobs of an organisation and no lead has seen to, by job and person, each entry in words."""
    rows = LeftBehind.objects.filter(job__channel__system__site__organisation=here, seen_at=None)
    rows = rows.select_related("job__channel__system__site", "job__record", "person").order_by(
        "job", "person", "at", "id"
    )
    for (job, person), left in groupby(
        rows.defer("job__fold", "job__record__content"), lambda row: (row.job, row.person)
    ):
        entries = list(left)
        content = {"trail": [{"id": str(one.entry_id), "path": one.path, "text": one.text, "unit": one.unit} for one in entries]}  # fmt: skip
        methods = {part.key: part.method for part in job.parts} | {"": job.method}
        words = zip(places(content, methods, words_of), says(content, methods, words_of), entries, strict=True)
        yield {
            "job": job.id,
            "record": job.record.id if hasattr(job, "record") else None,
            "name": job.channel.system.name,
            "site": job.channel.system.site.name,
            "person": person.pk,
            "by": str(person),
            "at": entries[-1].at,
            "entries": [
                {"where": where, "says": "taken back" if one.undoes else said, "at": one.at}
                for where, said, one in words
            ],
        }
