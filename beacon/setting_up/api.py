"""Setting a plant up from a spreadsheet: the template, a look at what a file holds, and taking it."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Annotated, Any
from uuid import UUID

from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.db import IntegrityError, transaction
from django.http import Http404, HttpRequest, HttpResponse
from ninja import Router
from procrastinate.contrib.django import app
from pydantic import Field

from beacon.background.view import MadeView, view_of
from beacon.people.access import organisation, person
from beacon.people.models import Organisation, Person, Role
from beacon.people.rate_limit import limited
from beacon.problems import Problem, ProblemDocument
from beacon.setting_up import schemas
from beacon.setting_up.models import SetUp
from beacon.setting_up.reading import NotATable, rows_of
from beacon.setting_up.taking import take
from beacon.setting_up.tasks import TASK
from beacon.setting_up.template import workbook
from beacon.tables import XLSX

router = Router(tags=["setting up"])
AT_ONCE = 150
"""So many rows are gone through while somebody waits: about a second."""


@router.get("set-up/template.xlsx", response={200: bytes})
def template(request: HttpRequest) -> HttpResponse:
    """The workbook to fill in; only for a lead."""
    organisation(person(request), Role.LEAD)
    answer = HttpResponse(workbook(), content_type=XLSX)
    answer["Content-Disposition"] = 'attachment; filename="plant.xlsx"'
    return answer


@router.post("set-up", response={200: schemas.SetUpView, 202: MadeView, 409: ProblemDocument, 422: ProblemDocument})
@limited("files to bring in")
def set_up(
    request: HttpRequest, name: Annotated[str, Field(max_length=200)] = "", keep: bool = False
) -> tuple[int, dict[str, Any]]:
    """Looks at a filled-in spreadsheet, and takes it with `keep`: all of it, or nothing; only a lead may.

    A long one is gone through in the background: the answer is then 202, and says where it is.
    """
    user = person(request)
    here = organisation(user, Role.LEAD)
    try:
        rows = rows_of(request.body, name, str(user.pk))
    except NotATable as unread:
        raise Problem(422, "This file cannot be taken in", str(unread)) from None
    if len(rows) > AT_ONCE:
        return 202, view_of(_begun(user, here, name, keep, request.body, len(rows)))
    return 200, take(user, here, rows, keep).view(keep)


def _begun(user: Person, of: Organisation, name: str, keep: bool, content: bytes, rows: int) -> SetUp:
    with _one_at_a_time():
        begun = SetUp.objects.create(organisation=of, by=user, file=name, keep=keep, of=rows)
        default_storage.save(begun.name, ContentFile(content))
        app.configure_task(TASK, queue="spreadsheets").defer(set_up=str(begun.pk))
    return begun


@contextmanager
def _one_at_a_time() -> Iterator[None]:
    try:
        with transaction.atomic():
            yield
    except IntegrityError:
        why = "Wait until it is through; whoever chose it sees here how far it is."
        raise Problem(409, "A spreadsheet of this organisation is being gone through", why) from None


@router.post("set-ups/{set_up_id}/keep", response={202: MadeView, 409: ProblemDocument})
@limited("files to bring in")
def keep_looked_at(request: HttpRequest, set_up_id: UUID) -> tuple[int, dict[str, Any]]:
    """Takes a long spreadsheet that was looked at, and of which nothing was refused: all of it, or nothing."""
    user = person(request)
    mine = organisation(user, Role.LEAD).set_ups.filter(by=user).select_for_update(of=("self",))
    with _one_at_a_time():
        one = mine.filter(pk=set_up_id).first()
        if one is None:
            raise Http404
        if one.keep or one.found is None or one.found["refused"]:
            raise Problem(409, "This cannot be kept", "Choose the file again, and look at what it comes to.")
        one.keep, one.found, one.finished_at, one.done, one.begun = True, None, None, 0, 0
        one.save(update_fields=["keep", "found", "finished_at", "done", "begun"])
        app.configure_task(TASK, queue="spreadsheets").defer(set_up=str(one.pk))
    return 202, view_of(one)


@router.get("set-ups", response=list[schemas.LongSetUp])
def set_ups(request: HttpRequest) -> list[dict[str, Any]]:
    """The long spreadsheet that this person chose last, with what it came to once it is through."""
    user = person(request)
    found = organisation(user, Role.LEAD).set_ups.filter(by=user).select_related("by")[:1]
    return [view_of(one) | {"file": one.file, "keep": one.keep, "found": one.found} for one in found]
