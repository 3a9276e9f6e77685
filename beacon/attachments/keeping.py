"""Keeping photographs and papers: the file first, then the row that speaks of it."""

import datetime
import logging
import re
import unicodedata
import uuid
from collections.abc import Iterable
from typing import Any, NoReturn

from django.db import IntegrityError, transaction
from django.utils import timezone

from beacon.attachments import store
from beacon.attachments.intake import NotTaken, NotYet, Taken, digest, taken
from beacon.attachments.models import Attachment
from beacon.bench.models import Job
from beacon.people.models import Organisation, Person
from beacon.plant.models import Reference
from beacon.problems import Problem
from wary.job.assess import parts_of
from wary.job.titles import belongs_to

LOG = logging.getLogger(__name__)
MOST_OF_A_JOB = 200
SMALL = "small"


def kept_at(organisation: uuid.UUID, sha256: str, what: str = "") -> str:
    """Where a file lies: by organisation and content, so that what is there is never written over."""
    return f"papers/{organisation}/{sha256[:2]}/{sha256}{what and f'.{what}'}"


def file_of(attachment: Attachment, what: str = "") -> bytes:
    """The bytes of an attachment, or of its thumbnail. Raises FileNotFoundError where they are gone."""
    return store.read(kept_at(attachment.organisation_id, attachment.sha256, what))


def why_gone(attachment: Attachment) -> str:
    """What is wrong with the file of an attachment; empty where it is the one that was kept."""
    try:
        return (
            ""
            if digest(file_of(attachment)) == attachment.sha256
            else f"the file “{attachment.name}” was changed after it was kept"
        )
    except OSError:
        return f"the file “{attachment.name}” is gone"


def _put(organisation: uuid.UUID, found: Taken) -> None:
    """Keeps a file and its thumbnail. Raises Problem where there is no room for them: then it is sent again."""
    try:
        for what, content in (("", found.content), (SMALL, found.small)):
            if content:
                store.put(kept_at(organisation, found.sha256, what), content)
    except OSError as why:
        LOG.error("a file could not be kept: %s", why)
        text = "There is no room for it on the server. It is sent again by itself; whoever runs the server has to free some."
        raise Problem(507, "This file is not kept yet", text) from None


def keep_again(organisation: uuid.UUID, sha256: str, content: bytes) -> None:
    """Keeps a file that was kept elsewhere before, as it is, with a new thumbnail. Raises ValueError for another one."""
    if digest(content) != sha256:
        raise ValueError(f"the file {sha256[:12]}… is not the one that was kept")
    store.put(kept_at(organisation, sha256), content)
    try:
        small = taken(content).small
    except (NotTaken, NotYet):
        # It was taken once, under other bounds: it is kept as it is, and only its thumbnail is missing.
        small = b""
    if small:
        store.put(kept_at(organisation, sha256, SMALL), small)


def clean_name(name: str) -> str:
    """A file's name for reading: its last part, without what no name should hold."""
    last = re.split(r"[/\\]", unicodedata.normalize("NFC", name))[-1]
    kept = "".join(c for c in last if unicodedata.category(c)[0] != "C" and c not in '<>:"|?*').strip(" .")
    return kept[:120] or "photograph"


def keep_attachment(
    user: Person,
    of: Job | Reference,
    content: bytes,
    *,
    id: uuid.UUID,
    name: str,
    path: str = "",
    sha256: str = "",
    at: datetime.datetime | None = None,
) -> Attachment:
    """Keeps a file. Raises Problem where it cannot be read, or may not stand there.

    The same file at the same place is kept once: whoever sends it again is given the first.
    `sha256` is of the file as the device has it, where it says so. What it takes long to look at is
    looked at first; whether it may stand there is asked again when its row is put in, with the job locked.
    """
    sent = digest(content)
    if sha256 and sha256.lower() != sent:
        _refuse("file", "The file did not arrive whole. It is sent again by itself; if not, choose it once more.")
    there = _there(of, id, path, sent)
    if there:
        return there
    _may_stand(of, path)
    try:
        found = taken(content, str(user.pk))
    except NotTaken as why:
        _refuse("file", str(why))
    except NotYet:
        text = "Many photographs came at once. It is sent again by itself; if not, choose it once more."
        raise Problem(503, "This file is not kept yet", text, headers={"Retry-After": "5"}) from None
    job, reference = (of, None) if isinstance(of, Job) else (None, of)
    organisation: Organisation = job.channel.system.site.organisation if job else of.organisation  # type: ignore[union-attr]
    _put(organisation.id, found)
    now = timezone.now()
    with transaction.atomic():
        # Whoever closes the job waits for this row, or this row waits for the seal and is refused.
        locked: Job | Reference = type(of).objects.select_for_update(of=("self",), no_key=True).get(pk=of.pk)
        there = _there(of, id, path, sent)
        if there:
            return there
        _may_stand(locked, path)
        try:
            with transaction.atomic():
                return Attachment.objects.create(
                    id=id,
                    organisation=organisation,
                    job=job,
                    reference=reference,
                    path=path,
                    name=clean_name(name),
                    kind=found.kind,
                    size=len(found.content),
                    width=found.width,
                    height=found.height,
                    pages=found.pages,
                    sha256=found.sha256,
                    sent_sha256=sent,
                    who=user,
                    at=min(at or now, now),
                )
        except IntegrityError:
            _refuse("id", USED_BEFORE)


USED_BEFORE = "This id was used before for something else; choose the file again."


def _there(of: Job | Reference, id: uuid.UUID, path: str, sent: str) -> Attachment | None:
    """The attachment that was kept already under this id, or of this file at this place."""
    here = {"job_id": of.pk, "reference_id": None} if isinstance(of, Job) else {"job_id": None, "reference_id": of.pk}
    there = (
        Attachment.objects.filter(id=id).first()
        or Attachment.objects.filter(path=path, sent_sha256=sent, **here).first()
    )
    if there and (there.job_id, there.reference_id, there.sent_sha256) != (here["job_id"], here["reference_id"], sent):
        _refuse("id", USED_BEFORE)
    return there


def _may_stand(of: Job | Reference, path: str) -> None:
    """Raises Problem where a job has no such place, takes no more, or is closed."""
    if not isinstance(of, Job):
        return
    if not of.is_open:
        raise Problem(409, "This job is closed", "What belongs to it can no longer change. Open a job to put it right.")
    if belongs_to(parts_of(of.parts), path) is None:
        _refuse("path", f"“{path}” is no place in a job of this kind.")
    if Attachment.objects.filter(job=of).count() >= MOST_OF_A_JOB:
        _refuse("file", f"A job holds at most {MOST_OF_A_JOB} photographs and papers.")


def _refuse(path: str, text: str) -> NoReturn:
    raise Problem(422, "This file is not kept", text, [{"path": path, "text": text}])


@transaction.atomic
def carry_over(user: Person, before: Job, to: Job) -> None:
    """Takes the attachments of a job over to the one that puts it right; the files themselves are there already."""
    for attachment in before.attachments.filter(set_aside=""):
        attachment.pk, attachment.job, attachment.who = uuid.uuid4(), to, attachment.who
        attachment._state.adding = True
        attachment.save(force_insert=True)


def sealed_attachments(job: Job, attachments: Iterable[Attachment] | None = None) -> list[dict[str, Any]]:
    """The attachments of a job as its record holds them, each with the hash of its file; `attachments` are its own, where at hand."""
    found = attachments if attachments is not None else job.attachments.filter(late=None).select_related("who")
    order = parts_of(job.parts)
    return [
        {
            "id": str(attachment.id),
            "path": attachment.path,
            "belongs_to": belongs_to(order, attachment.path) or "",
            "name": attachment.name,
            "kind": attachment.kind,
            "size": attachment.size,
            "sha256": attachment.sha256,
            "sent_sha256": attachment.sent_sha256,
            "who": str(attachment.who),
            "person": str(attachment.who_id),
            "at": attachment.at.isoformat(),
            "on_certificate": attachment.on_certificate,
            "set_aside": attachment.set_aside,
        }
        for attachment in found
    ]
