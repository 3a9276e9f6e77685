"""Opening jobs and keeping entries: what the screen says is kept is in the database by then."""

import datetime
import uuid
from dataclasses import dataclass, field
from functools import partial
from typing import Any

from django.db import transaction
from django.http import Http404
from django.utils import timezone

from beacon.bench import fold as folding
from beacon.bench.document import Assessed, assess
from beacon.bench.models import Entry, Job
from beacon.bench.opening import from_the_record
from beacon.bench.paths import REFERENCES, VALUE, Parts, lists, place
from beacon.people.access import is_lead, own_systems
from beacon.people.models import Person
from beacon.plant.models import Channel, Reference
from beacon.problems import Problem
from wary.fields import limit
from wary.quantities import quantity
from wary.typed import as_in_a_file


@dataclass
class Given:
    """An entry as a device sends it. `supersedes` is what the device saw at that path."""

    id: uuid.UUID
    path: str
    text: str = ""
    unit: str = ""
    source: str = Entry.Source.TYPED
    steady: bool | None = None
    supersedes: uuid.UUID | None = None
    undoes: bool = False
    at: datetime.datetime | None = None


@dataclass
class Kept:
    """What became of a batch: kept ids, refused ones with the reason, and the job as it now stands."""

    job: Job
    assessed: Assessed
    kept: list[uuid.UUID] = field(default_factory=list)
    refused: list[dict[str, str]] = field(default_factory=list)


def job_of(user: Person, job_id: uuid.UUID) -> Job:
    """The job, where this person may work on it. Raises Http404 otherwise."""
    found = (
        Job.objects.filter(id=job_id, channel__system__in=own_systems(user))
        .select_related(
            "channel__system__site__organisation", "channel__system__profile", "channel__system__reference", "opened_by"
        )
        .first()
    )
    if found is None:
        raise Http404
    return found


@transaction.atomic
def open_job(
    user: Person,
    channel: Channel,
    method: str,
    occasion: str,
    entries: list[Given] | None = None,
    at: datetime.datetime | None = None,
    visit: list[dict[str, str]] | None = None,
    practice: bool = False,
) -> Kept:
    """A new job; what the system's record knows is entered first, marked as from the record.

    `at` is when it was opened, where that is not now.
    """
    now = at or timezone.now()
    job = Job.objects.create(
        channel=channel,
        method=method,
        visit=visit or [],
        practice=practice,
        opened_by=user,
        opened_at=now,
        touched_at=now,
        fold=folding.empty(),
    )
    if entries is None:
        known = from_the_record(channel, job.parts)
        entries = [Given(uuid.uuid4(), path, text, source=Entry.Source.RECORD) for path, text in known.items()]
        entries.append(Given(uuid.uuid4(), "occasion", occasion))
        if channel.system.reference:
            reference, first = channel.system.reference, uuid.uuid4()
            entries.append(Given(first, f"{REFERENCES}.r1.id", str(reference.id), source=Entry.Source.RECORD))
            entries += _reference_entries(reference, job.parts, "r1", first)
    for entry in entries:
        entry.at = entry.at or now
    return keep(user, job, entries, _opening=True)


def _reference_entries(reference: Reference, parts: Parts, row: str, seed: uuid.UUID) -> list[Given]:
    """What follows from naming a reference; ids come from the naming entry's, so a resend is harmless.

    The figures that it brings stand in the inputs of a method that takes them: the division and
    uncertainty of a scale, the mass of weights, the tare of a container.
    """
    texts = {
        "name": reference.name,
        "certificate": reference.certificate,
        "due": reference.due.isoformat() if reference.due else "",
        "range": reference.range,
        "allowed_by": "",
    }
    texts = {f"{REFERENCES}.{row}.{key}": text for key, text in texts.items()}
    if reference.kind == Reference.Kind.SCALE:
        texts |= {
            "inputs.reference_division": reference.division,
            "inputs.reference_uncertainty": reference.uncertainty,
            "inputs.reference_readings": "2",
        }
    elif reference.kind == Reference.Kind.WEIGHTS:
        texts |= {
            "inputs.test_load": reference.nominal,
            "inputs.test_mass": reference.nominal,
            "inputs.test_load_uncertainty": "" if reference.uncertainty.endswith("%") else reference.uncertainty,
        }
    else:
        texts["plates.tare"] = reference.tare
    return [
        Given(uuid.uuid5(seed, path), path, text, source=Entry.Source.RECORD)
        for path, text in texts.items()
        if place(parts, path)
    ]


@transaction.atomic
def keep(user: Person, job: Job, given: list[Given], _opening: bool = False) -> Kept:
    """Keeps entries, in their order, folds them in and assesses the job.

    An entry whose id is kept already is passed over, so that a resend is harmless. One that may
    not stand is refused with a sentence, and the others are kept all the same.
    """
    locked = Job.objects.select_for_update().get(pk=job.pk)
    job.fold, job.state, job.touched_at = locked.fold or folding.empty(), locked.state, locked.touched_at
    job.reference_ids = locked.reference_ids
    known = {
        entry.entry_id: entry
        for entry in Entry.objects.filter(job=job, entry_id__in=[one.id for one in given]).select_related("who")
    }
    kept, refused, fresh = [], [], []
    for one in given:
        before = known.get(one.id)
        reason = _same(before, one) if before else _why_not(user, job, one, _opening)
        if reason:
            refused.append({"id": str(one.id), "path": one.path, "text": reason})
            continue
        kept.append(one.id)
        if before is None:
            fresh.append(one)
            known[one.id] = Entry(entry_id=one.id, path=one.path, text=one.text, unit=one.unit, undoes=one.undoes)
            if _names_a_reference(one) and one.source == Entry.Source.TYPED:
                reference = Reference.objects.get(id=one.text)
                fresh += _reference_entries(reference, job.parts, one.path.split(".")[1], one.id)
    if fresh:
        _store(user, job, fresh)
    assessed = assess(job, job.fold)
    if fresh:
        job.call, job.headline = assessed.assessment.call, assessed.assessment.headline
        job.state = stage(job, assessed)
        job.save(update_fields=["fold", "state", "call", "headline", "touched_at", "reference_ids"])
    return Kept(job, assessed, kept, refused)


def _store(user: Person, job: Job, fresh: list[Given]) -> None:
    now = timezone.now()
    first = job.fold["count"] + 1
    rows = [
        Entry(
            job=job,
            entry_id=one.id,
            sequence=first + number,
            path=one.path,
            text=one.text,
            unit=one.unit,
            source=one.source,
            steady=one.steady,
            supersedes=one.supersedes,
            undoes=one.undoes,
            who=user,
            at=min(one.at or now, now),
        )
        for number, one in enumerate(fresh)
    ]
    Entry.objects.bulk_create(rows)
    for row in rows:
        folding.apply(job.fold, row, job.parts, partial(_at_path, job, row.sequence))
        if _names_a_reference(row) and uuid.UUID(row.text) not in job.reference_ids:
            job.reference_ids.append(uuid.UUID(row.text))
    job.touched_at = max(job.touched_at, rows[-1].at)


def _names_a_reference(one: Given | Entry) -> bool:
    return one.path.startswith(f"{REFERENCES}.") and one.path.endswith(".id") and one.text != ""


def _at_path(job: Job, upto: int, path: str) -> list[Entry]:
    found = Entry.objects.filter(job=job, path=path, sequence__lte=upto)
    return list(found.select_related("who").order_by("sequence"))


def _same(before: Entry, one: Given) -> str | None:
    if (before.path, before.text, before.unit, before.undoes) == (one.path, one.text, one.unit, one.undoes):
        return None
    return "This entry's id was used before for something else; type it again."


def _why_not(user: Person, job: Job, one: Given, opening: bool) -> str | None:
    """Why an entry may not stand, in a sentence; None where it may."""
    if not job.is_open:
        return "This job is closed: what it says can no longer change. Open a new job on the system."
    if place(job.parts, one.path) is None:
        return f"“{one.path}” is no place in a job of this kind."
    if len(one.text) > 2000 or "\x00" in one.text:
        return "That is too long, or holds a character that cannot be kept: at most 2000 characters of text."
    if one.undoes and not _there(job, one):
        return "There is nothing there to take back."
    organisation = job.channel.system.site.organisation
    if one.path.endswith(".allowed_by") and one.text and not opening and not is_lead(user, organisation):
        return "Only a lead may let an overdue reference pass, on the record. Ask one, or use another reference."
    if _names_a_reference(one) and one.source == Entry.Source.TYPED:
        try:
            found = Reference.objects.filter(organisation=organisation, id=uuid.UUID(one.text)).exists()
        except ValueError:
            found = False
        if not found:
            return "This reference is not in the list."
    if one.path.startswith("profile.") and one.text and not is_lead(user, organisation) and _loosens(job, one):
        return "A technician may only tighten limits on a job; loosening takes a lead, and stands on the record."
    return None


def _there(job: Job, one: Given) -> bool:
    """Whether what an entry takes back is there."""
    if one.supersedes is None:
        return False
    return Entry.objects.filter(job=job, path=one.path, entry_id=one.supersedes, undoes=False).exists()


def _loosens(job: Job, one: Given) -> bool:
    profile, key = job.channel.system.profile, one.path.removeprefix("profile.")
    where = place(job.parts, one.path)
    assert where is not None
    try:
        typed = as_in_a_file(one.text, where.kind, one.unit or "%")
        if key == "minimum_runs":
            return float(typed) < profile.minimum_runs
        if key == "accept":
            old, new = limit(profile.accept), limit(typed)
            if old.rule != "one" or old.parts[0].family != new.parts[0].family:
                return True
            return new.parts[0].si > old.parts[0].si
        before = profile.repeat if key == "repeat" else profile.plausible
        return not before or quantity(typed, "percentage").si > quantity(before, "percentage").si
    except (ValueError, TypeError):
        # What cannot be read changes no limit; its field says what was expected.
        return False


def stage(job: Job, assessed: Assessed) -> str:
    """The state of an open job, from what has been entered."""
    if folding.live_rows(job.fold, "as_left"):
        return Job.State.AS_LEFT
    if folding.text_at(job.fold, "read_back"):
        return Job.State.ADJUSTING
    return Job.State.AS_FOUND if folding.live_rows(job.fold, "runs") else Job.State.OPEN


def import_job(user: Person, channel: Channel, file: dict[str, Any]) -> Kept:
    """A job file as a new job, its values as entries marked as imported. The file was read before."""
    entries: list[Given] = []

    def add(path: str, value: Any) -> None:
        text = {True: "yes", False: "no"}.get(value, value) if isinstance(value, bool) else value
        entries.append(Given(uuid.uuid4(), path, str(text), source=Entry.Source.IMPORTED))

    add("occasion", file.get("occasion", "routine"))
    for key, value in file.get("inputs", {}).items():
        if key in lists(file["method"]):
            for number, row in enumerate(value or [], 1):
                for name, part in (row if isinstance(row, dict) else {VALUE: row}).items():
                    if part is not None:
                        add(f"{key}.i{number:03d}.{name}", part)
        elif key == "plates":
            for name, part in (value or {}).items():
                add(f"plates.{name}", part)
        elif value is not None:
            add(f"inputs.{key}", value)
    for number, reference in enumerate(file.get("references") or [], 1):
        for name in ("name", "certificate", "due", "range"):
            if reference.get(name):
                add(f"{REFERENCES}.i{number:03d}.{name}", reference[name])
    known = {entry.path for entry in entries}
    for path, text in from_the_record(channel, (("", file["method"]),)).items():
        if path not in known and path.startswith("plates."):
            entries.append(Given(uuid.uuid4(), path, text, source=Entry.Source.RECORD))
    done = open_job(user, channel, file["method"], "", entries)
    if done.refused:
        raise Problem(422, "This job file cannot be taken in", errors=[
            {"path": row["path"], "text": row["text"]} for row in done.refused
        ])  # fmt: skip
    return done
