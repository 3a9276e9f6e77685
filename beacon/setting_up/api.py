"""Setting a plant up from a spreadsheet: the template, a look at what a file holds, and taking it."""

from typing import Annotated, Any

from django.http import HttpRequest, HttpResponse
from ninja import Router
from pydantic import Field

from beacon.people.access import organisation, person
from beacon.people.keeping import invitation_link
from beacon.people.models import Role
from beacon.people.rate_limit import limited
from beacon.problems import Problem, ProblemDocument
from beacon.setting_up import schemas
from beacon.setting_up.reading import NotATable, rows_of
from beacon.setting_up.taking import take
from beacon.setting_up.template import workbook
from beacon.tables import XLSX

router = Router(tags=["setting up"])


@router.get("set-up/template.xlsx", response={200: bytes})
def template(request: HttpRequest) -> HttpResponse:
    """The workbook to fill in; only for a lead."""
    organisation(person(request), Role.LEAD)
    answer = HttpResponse(workbook(), content_type=XLSX)
    answer["Content-Disposition"] = 'attachment; filename="plant.xlsx"'
    return answer


@router.post("set-up", response={200: schemas.SetUpView, 422: ProblemDocument})
@limited("files to bring in")
def set_up(
    request: HttpRequest, name: Annotated[str, Field(max_length=200)] = "", keep: bool = False
) -> dict[str, Any]:
    """Looks at a filled-in spreadsheet, and takes it with `keep`: all of it, or nothing; only a lead may."""
    user = person(request)
    here = organisation(user, Role.LEAD)
    try:
        rows = rows_of(request.body, name)
    except NotATable as unread:
        raise Problem(422, "This file cannot be taken in", str(unread)) from None
    found = take(user, here, rows, keep)
    return {
        "taken": keep and not found.refused,
        "lines": [vars(line) for line in found.lines],
        "refused": found.refused,
        "new_sites": found.sites,
        "invited": [{"name": n, "address": a, "link": invitation_link(s)} for n, a, s in found.invited],
    }
