"""What was typed is read twice, at the page to echo it and at the server to keep it: over one table, alike."""

import re

from playwright.sync_api import expect

from tests.browser.base import BrowserTestCase
from wary.quantities import NotAQuantity, from_si, quantity
from wary.typed import as_in_a_file

TEXTS = (
    "34.10", "34,10", "34.10 t", "34,10 t", "34100 kg", "34 100 kg", "34\u00a0100", "12 lb 6 oz", "12lb 6oz", "12 lbs 6 oz",
    "1e3 kg", "1E-1", "-0.02", "\u22120.02 t", "+5", "5.", ".5 t", "7 tonnes", "7 tonne", "250 g", "1,000.5", "1,2,3", "about 34",
    "34 lorries", "34t", "t", "--5", "3 4", "5 m", "12 oz", "0x10", "1_000", "infinity", "nan", "34 .1", "½ t",
)  # fmt: skip
"""Each is a mass, in a field that shows tonnes, or is no mass at all."""


def at_the_server(text: str) -> float | None:
    """In tonnes as the core reads it; None where it refuses it."""
    try:
        return from_si(quantity(as_in_a_file(text, "mass", "t"), "mass").si, "t")
    except NotAQuantity:
        return None


class Readers(BrowserTestCase):
    def test_both_read_the_same_figures_and_refuse_the_same_texts(self) -> None:
        page = self.open_bench()
        self.go("As found")
        gross = page.get_by_role("textbox", name="Gross", exact=True)
        says = page.locator(".dock .entry").first.locator(".entry-says")
        for text in TEXTS:
            with self.subTest(text):
                gross.fill("")
                gross.fill(text)
                wanted = at_the_server(text)
                echoed = says.inner_text().removeprefix("= ").removesuffix(" t").replace("\u2212", "-")
                if wanted is None:
                    self.assertEqual(echoed, "")
                elif echoed:
                    self.assertAlmostEqual(float(echoed), wanted, delta=abs(wanted) * 1e-5)
                else:
                    # No echo: the field says it as it was typed, a plain number in its own unit.
                    figure = re.sub(r"\s*(t|tonnes?)$", "", text.replace("\u2212", "-")).replace(",", ".")
                    self.assertAlmostEqual(float(figure), wanted, 9)

    def test_what_neither_can_read_is_kept_and_said(self) -> None:
        page = self.open_bench()
        self.go("As found")
        gross = page.get_by_role("textbox", name="Gross", exact=True)
        for text in [text for text in TEXTS if at_the_server(text) is None][:4]:
            gross.fill(text)
            gross.press("Shift+Enter")
            expect(page.locator(".dock .entry-wrong .entry-says").first).to_contain_text("expected a mass")
            expect(gross).to_have_value(text.strip())
