"""Pages made into PDF, and the QR codes on them."""

import io
from typing import Any

from django.template.loader import render_to_string

from beacon.own_process import MB, OwnProcess, TooMuch
from beacon.problems import Problem

PRESS = OwnProcess("beacon.printing.press", seconds=30.0, memory=1300 * MB)


def pdf(template: str, said: dict[str, Any]) -> bytes:
    """A template as PDF, readable by a screen reader. Raises Problem for what is too long to be printed."""
    try:
        return PRESS.asked(render_to_string(f"records/{template}.html", said).encode())
    except TooMuch:
        text = (
            "It takes more room than there is for printing. Everything in it is in the readings of the record, as CSV."
        )
        raise Problem(422, "This is too long to be printed", text) from None


def qr(text: str) -> str:
    """A QR code as a picture to stand in a page."""
    import segno

    picture = io.BytesIO()
    segno.make(text, error="m").save(picture, kind="svg", xmldecl=False, svgns=True, scale=1, border=0)
    return picture.getvalue().decode()
