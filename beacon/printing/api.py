"""The papers of a record over HTTP: certificate, work sheets, readings, stickers; labels and cards of machines."""

from datetime import date
from typing import Annotated, Literal
from uuid import UUID

from django.db.models import QuerySet
from django.http import Http404, HttpRequest, HttpResponse, StreamingHttpResponse
from ninja import Query, Router

from beacon import tables
from beacon.database.apart import apart
from beacon.downloads import as_file
from beacon.people.access import here, person, works_in
from beacon.people.rate_limit import limited
from beacon.plant.access import reference_in, system_to_work_on
from beacon.printing.card import card
from beacon.printing.certificate import certificate
from beacon.printing.sheets import READINGS, label, readings, reference_label, sticker, work_sheet
from beacon.printing.together import MOST_IN_A_PDF, MOST_IN_A_ZIP, as_pdf, as_zip, chosen, in_period
from beacon.problems import ProblemDocument
from beacon.records.access import channel_of, record_of, visible_in
from beacon.records.models import Record
from beacon.validation import Day

router = Router(tags=["records"])
BYTES = {200: bytes}


@router.get("records/{record_id}/readings.csv", response=BYTES)
@limited("tables to take away")
@apart
def readings_file(request: HttpRequest, record_id: UUID) -> HttpResponse:
    """Every entry of a record as CSV: where it stands in words, what was typed, by whom and when."""
    record = record_of(person(request), record_id)
    return as_file(tables.as_csv(READINGS, readings(record)), tables.CSV, f"readings-{record.number}.csv")


@router.get("records/{record_id}/work-sheet.pdf", response=BYTES)
@limited("papers to print")
@apart
def work_sheet_file(
    request: HttpRequest, record_id: UUID, sheet: Annotated[int, Query(ge=1, le=1000)] = 1
) -> HttpResponse:
    """Every reading of a record, with who and when; of a long job the sheet of this number."""
    record = record_of(person(request), record_id)
    return as_file(work_sheet(record, sheet), "application/pdf", f"work-sheet-{record.number}.pdf", "inline")


@router.get("records/{record_id}/sticker.pdf", response=BYTES)
@limited("papers to print")
@apart
def sticker_file(request: HttpRequest, record_id: UUID, size: Literal["62x29", "a7"] = "62x29") -> HttpResponse:
    """The sticker of a record, in one of two sizes."""
    record = record_of(person(request), record_id)
    return as_file(sticker(record, size), "application/pdf", f"sticker-{record.number}.pdf", "inline")


@router.get("systems/{system_id}/label.pdf", response=BYTES)
@limited("papers to print")
def label_file(request: HttpRequest, system_id: UUID) -> HttpResponse:
    """The label of a system, whose QR code opens its page."""
    system = system_to_work_on(person(request), system_id)
    return as_file(label(system), "application/pdf", "label.pdf", "inline")


@router.get("references/{reference_id}/label.pdf", response=BYTES)
@limited("papers to print")
def reference_label_file(request: HttpRequest, reference_id: UUID) -> HttpResponse:
    """The label of a reference: a code that is scanned where one is chosen."""
    reference = reference_in(works_in(person(request)), reference_id)
    return as_file(reference_label(reference), "application/pdf", "label.pdf", "inline")


@router.get("records/{record_id}/certificate.pdf", response=BYTES)
@limited("papers to print")
@apart
def certificate_file(request: HttpRequest, record_id: UUID) -> HttpResponse:
    """The certificate of a record."""
    record = record_of(person(request), record_id)
    name = f"certificate-{record.number}.pdf"
    return as_file(certificate(record), "application/pdf", name, "inline")


@router.get("certificates.zip", response={200: bytes, 422: ProblemDocument})
@limited("papers to print")
@apart
def certificates_zip(
    request: HttpRequest, since: Day | None = None, until: Day | None = None, site: UUID | None = None
) -> StreamingHttpResponse:
    """All certificates of a period that this person may see, each as a PDF in one ZIP."""
    found = chosen(_of_period(request, since, until, site), MOST_IN_A_ZIP)
    answer = StreamingHttpResponse(as_zip(found), content_type="application/zip")
    answer["Content-Disposition"] = 'attachment; filename="certificates.zip"'
    return answer


@router.get("certificates.pdf", response={200: bytes, 422: ProblemDocument})
@limited("papers to print")
@apart
def certificates_pdf(
    request: HttpRequest, since: Day | None = None, until: Day | None = None, site: UUID | None = None
) -> HttpResponse:
    """All certificates of a period that this person may see, as one PDF."""
    found = chosen(_of_period(request, since, until, site), MOST_IN_A_PDF)
    return as_file(b"".join(as_pdf(found)), "application/pdf", "certificates.pdf")


def _of_period(request: HttpRequest, since: date | None, until: date | None, site: UUID | None) -> QuerySet[Record]:
    user = person(request)
    records = visible_in(here(user), user)
    if site:
        records = records.filter(job__channel__system__site=site)
    return in_period(records.select_related("job__channel__system__site"), since, until)


@router.get("channels/{channel_id}/card.pdf", response=BYTES)
@limited("papers to print")
def card_file(request: HttpRequest, channel_id: UUID) -> HttpResponse:
    """The card for the cab: how to weigh with this machine, and when it was last proven."""
    channel = channel_of(request, channel_id)
    if not channel.system.machine.card:
        raise Http404
    return as_file(card(channel), "application/pdf", "card.pdf", "inline")
