"""Header names of CSV files, said once and remembered for each organisation and list."""

from pydantic import TypeAdapter, ValidationError

from beacon.bench.models import HeaderName, Job
from beacon.problems import Problem
from wary.job.assess import parts_of
from wary.job.places import split
from wary.job.rows_in import header_name

SAID = TypeAdapter(dict[str, str])
MOST = 200


def _list_of(job: Job, full: str) -> str:
    """A list as it is remembered: its method and name, whichever job and row it lies in."""
    part, rest = split(full)
    words = rest.split(".")
    return f"{dict(parts_of(job.parts)).get(part, '')}:{words[0]}{'.' + words[-1] if len(words) > 1 else ''}"[:100]


def said_of_headers(text: str) -> dict[str, str]:
    """What a device says of header names. Raises Problem where it is not read."""
    if not text:
        return {}
    try:
        said = SAID.validate_json(text)
    except ValidationError:
        raise Problem(
            422,
            "These columns cannot be read",
            errors=[{"path": "columns", "text": "expected names and columns as JSON"}],
        ) from None
    return {header_name(name)[:120]: column[:60] for name, column in list(said.items())[:MOST]}


def remembered(job: Job, full: str) -> dict[str, str]:
    """What the organisation of a job said of header names before."""
    of = job.channel.system.site.organisation
    return dict(HeaderName.objects.filter(organisation=of, list=_list_of(job, full)).values_list("header", "column"))


def remember(job: Job, full: str, said: dict[str, str]) -> None:
    """Remembers what was said of header names, for the next file."""
    of = job.channel.system.site.organisation
    for header, column in said.items():
        HeaderName.objects.update_or_create(
            organisation=of, list=_list_of(job, full), header=header, defaults={"column": column}
        )
