"""Pages made into PDF, readable by a screen reader; done in a process of its own."""

import logging

from weasyprint import HTML

from beacon.own_process import ROOT

for _name in ("weasyprint", "fontTools"):
    logging.getLogger(_name).setLevel(logging.ERROR)


def work(page: bytes) -> bytes:
    """A page in HTML as PDF."""
    return bytes(HTML(string=page.decode(), base_url=f"{ROOT}/").write_pdf(pdf_variant="pdf/ua-1"))
