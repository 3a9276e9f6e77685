"""Pages made into PDF, and the QR codes on them."""

import io
from typing import Any

import segno
from django.conf import settings
from django.template.loader import render_to_string
from weasyprint import HTML


def pdf(template: str, said: dict[str, Any]) -> bytes:
    """A template as PDF, readable by a screen reader."""
    page = render_to_string(f"records/{template}.html", said)
    return bytes(HTML(string=page, base_url=str(settings.ROOT)).write_pdf(pdf_variant="pdf/ua-1"))


def qr(text: str) -> str:
    """A QR code as a picture to stand in a page."""
    picture = io.BytesIO()
    segno.make(text, error="m").save(picture, kind="svg", xmldecl=False, svgns=True, scale=1, border=0)
    return picture.getvalue().decode()
