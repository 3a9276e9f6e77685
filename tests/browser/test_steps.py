"""Every step of every method: opened, typed into, and what the bench then says."""

import re

from playwright.sync_api import Locator, Page, expect

from beacon.plant.models import Cell, System
from tests.added import added
from tests.browser.base import BrowserTestCase
from tests.worked import WORKED, Worked
from wary.machines import all_machines
from wary.methods import all_methods
from wary.methods.tree import Input

OVERLAPS = """() => {
  const boxes = [...document.querySelectorAll('.figure text, .drawing-heads b, .drawing-heads small')]
    .filter((text) => text.textContent.trim() && text.getBoundingClientRect().width)
    .map((text) => [text.textContent, text.getBoundingClientRect()]);
  const over = [];
  boxes.forEach(([a, one], place) => boxes.slice(place + 1).forEach(([b, two]) => {
    const wide = Math.min(one.right, two.right) - Math.max(one.left, two.left);
    const high = Math.min(one.bottom, two.bottom) - Math.max(one.top, two.top);
    if (wide > 1 && high > 4) over.push(`${a} / ${b}`);
  }));
  const frame = document.querySelector('.figure');
  const out = frame ? boxes.filter(([, box]) => box.left < frame.getBoundingClientRect().left - 2
    || box.right > frame.getBoundingClientRect().right + 2).map(([text]) => `${text} is cut off`) : [];
  return [...over, ...out];
}"""


class EveryStep(BrowserTestCase):
    def system(self, one: Worked) -> System:
        """Its machine, with the cells on record that its steps do not ask for themselves."""
        system = self.plant.add_system(f"For {one.method}", one.kind, one.profile, one.plates)
        steps = all_methods()[one.method].describe().steps
        asked = [step.rows.list for step in steps if step.kind == "rows"]
        given = {path.split(".")[1] for path in one.texts if path.startswith("cells.")} if "cells" not in asked else ()
        for place, row in enumerate(sorted(given), 1):
            texts = {key: one.texts[f"cells.{row}.{key}"] for key in ("capacity", "sensitivity")}
            Cell.objects.create(channel=system.channels.get(), place=place, label=str(place), source="plate", **texts)
        return system

    def opened(self, one: Worked) -> Page:
        job = self.plant.job(one.method, self.system(one))
        self.page.goto(f"/jobs/{job.id}")
        expect(self.page.get_by_role("complementary", name="The call")).to_be_visible()
        return self.page

    def type_in(self, field: Locator, text: str) -> None:
        field.fill(text)
        field.press("Enter")

    def work(self, one: Worked) -> Page:
        """Goes through the steps in their order, and types what this worked job types, where it is asked for."""
        page = self.opened(one)
        rest = dict(one.texts)
        machine = all_machines()[one.kind]
        described = all_methods()[one.method].describe(machine.asked_of, machine.says)
        inputs = {one.key: one for one in described.inputs}
        for step in described.steps:
            sheet = page.get_by_role("navigation", name="Run sheet")
            sheet.get_by_role("button", name=re.compile(rf"^(\d+|done) {re.escape(step.title)}\b")).first.click()
            body = page.locator(f"#step--{step.key}")
            expect(body.get_by_role("heading", name=step.title).first).to_be_visible()
            for caution in step.cautions:
                expect(body).to_contain_text(caution)
            for item in step.items:
                expect(body.get_by_label(item.text)).to_be_visible()
            for key in step.fields:
                self.single(body, inputs[key], rest.pop(f"inputs.{key}", None))
            if step.kind in ("rows", "tally", "sheet"):
                name = step.rows.list if step.kind == "rows" else step.list
                rows: dict[str, dict[str, str]] = {}
                for path in [path for path in rest if path.startswith(f"{name}.")]:
                    _, row, key = path.split(".", 2)
                    rows.setdefault(row, {})[key] = rest[path]
                typed = step.rows.typed if step.kind == "rows" else ()
                if step.kind == "rows" and rows:
                    self.rows(body, rows, typed, {one.key: one for one in inputs[name].inside()})
                elif step.kind == "tally" and step.stage == "found":
                    self.runs(page, rows)
                elif step.kind == "sheet":
                    self.settings(body, rows)
            self.assertEqual(page.evaluate(OVERLAPS), [], f"{one.method}, {step.key}")
        return page

    def choose(self, within: Locator, one: Input, text: str) -> None:
        says = next(choice.says for choice in one.words if choice.word == text)
        within.get_by_role("group", name=one.title).get_by_role("button", name=says, exact=True).click()

    def single(self, body: Locator, one: Input, text: str | None) -> None:
        """One field of a step: it is there, and takes what the worked job types."""
        place = body.locator(f"[data-path='inputs.{one.key}'], [data-path^='inputs.{one.key}.']")
        self.assertGreater(place.count(), 0, one.key)
        if text is not None and one.words:
            self.choose(body, one, text)
        elif text is not None:
            self.type_in(place, text)

    def rows(
        self, body: Locator, rows: dict[str, dict[str, str]], typed: tuple[str, ...], inside: dict[str, Input]
    ) -> None:
        """Rows one after the other: a new one, or the next of those that are there."""
        listed = body.locator(".list-table tbody tr:has(.tally-number)")
        for number, texts in enumerate(rows.values()):
            if listed.count() > number:
                listed.nth(number).get_by_role("button").click()
            dock = body.locator(".dock").first
            row = dock.get_attribute("data-row")
            for key in [key for key in typed if key in texts]:
                if inside[key].words:
                    self.choose(dock, inside[key], texts[key])
                    continue
                place = body.locator(f"[data-path$='.{row}.{key}']").first
                place.fill(texts[key])
                place.press("Enter")
            expect(listed).not_to_have_count(number)
            self.inside(dock, texts)
            if number + 1 < len(rows) and not any("." in path for path in texts) and listed.count() <= number + 1:
                # A row stands in the list from its first figure on; the next is begun a moment after its last.
                expect(dock).not_to_have_attribute("data-row", row or "")

    def inside(self, dock: Locator, texts: dict[str, str]) -> None:
        """Rows of a list inside a row, by their path in it: `fills.f1.weight`."""
        rows: dict[str, dict[str, str]] = {}
        for path in [path for path in texts if "." in path]:
            _, row, key = path.split(".")
            rows.setdefault(row, {})[key] = texts[path]
        inner = dock.get_by_role("region")
        for number, row in enumerate(rows.values(), 1):
            for key, text in row.items():
                self.type_in(inner.locator(f".dock [data-path$='.{key}']").first, text)
            expect(inner.locator("tbody tr:has(.tally-number)")).to_have_count(number)

    def runs(self, page: Page, rows: dict[str, dict[str, str]]) -> None:
        if not rows:
            return
        page.get_by_label("How it was weighed").select_option("net")
        for number, texts in enumerate(rows.values(), 1):
            for label, key in (("Net weighed", "reference"), ("Shown", "indicated")):
                self.type_in(page.locator(".dock").get_by_role("textbox", name=label), texts[key])
            # The answer may add a row above: a click is made once it is there.
            expect(page.locator(".tally-run").nth(number - 1).locator(".tally-error")).to_contain_text("%")
            page.locator(".dock").get_by_role("button", name="New run").click()
            expect(page.locator(".tally-run")).to_have_count(number)

    def settings(self, body: Locator, rows: dict[str, dict[str, str]]) -> None:
        row = body.locator(".settings-row").first
        for place, text in enumerate(next(iter(rows.values()))[key] for key in ("found", "left")):
            self.type_in(row.locator("input").nth(place), text)

    def test_every_step_is_opened_typed_into_and_comes_to_its_call(self) -> None:
        for one in WORKED:
            with self.subTest(one.method):
                page = self.work(one)
                # A constant that was moved is looked at before it is closed.
                headline = "Look first" if one.method == "constant-catch" else one.headline
                expect(page.locator(".call .verdict")).to_contain_text(headline)
                self.assertEqual(page.locator(".entry-wrong").count(), 0)
                # The bench scrolls inside itself: the call and the run sheet stay where they are.
                self.assertLessEqual(page.evaluate("document.documentElement.scrollHeight - innerHeight"), 0)


class Added(BrowserTestCase):
    """The method of the tests alone: rows inside rows, a block, a stopwatch, on a screen that knows none of it."""

    def setUp(self) -> None:
        known = added()
        known.__enter__()
        self.addCleanup(known.__exit__, None, None, None)
        super().setUp()
        self.system = self.plant.add_system("Tray filler 2", "tray-filler", "vessel", {"nominal": "500 g"})

    def test_it_is_done_from_the_round_to_the_record(self) -> None:
        page = self.page
        page.goto(f"/systems/{self.system.id}")
        page.get_by_role("button", name="Begin a visit").click()
        expect(page.get_by_role("complementary", name="The call")).to_contain_text("Does it fill what it should?")
        self.go("Set up")
        expect(page.get_by_role("textbox", name="Nominal fill")).to_have_value("500")
        block = page.get_by_role("group", name="How it runs")
        block.get_by_label("Strokes a minute").fill("30")
        page.keyboard.press("Enter")
        expect(block.get_by_label("Nozzles")).to_be_focused()
        self.go("Strokes")
        tap = page.locator(".timer-tap")
        rows = page.locator(".list-table tbody tr:has(.tally-number)")
        for count in (0, 1, 2):
            tap.click()
            expect(rows).to_have_count(count)
        self.go("Trials")
        outer = page.locator(".dock").first
        outer.get_by_label("What was set").first.fill("stroke 4")
        outer.get_by_label("What was set").first.press("Enter")
        inner = page.get_by_role("region", name="Trays of trial 1")
        weight = inner.get_by_label("Weight", exact=True)
        expect(weight).to_be_focused()
        for number, text in enumerate(("505 g", "507", "700"), 1):
            weight.fill(text)
            weight.press("Enter")
            expect(inner.locator("tbody tr:has(.tally-number)")).to_have_count(number)
            expect(weight).to_be_focused()
            expect(weight).to_have_value("")
        expect(page.locator(".call .verdict")).to_contain_text("Turn the stroke")
        weight.press("x")
        dialog = page.get_by_role("dialog")
        expect(dialog.get_by_label("What happened to it?")).to_be_focused()
        dialog.get_by_label("What happened to it?").fill("two trays at once")
        page.keyboard.press("Enter")
        expect(page.locator(".call .verdict")).to_contain_text("It fills what it should")
        expect(inner).to_contain_text("set aside: two trays at once")
        expect(page.locator(".figure")).to_contain_text("capacity 500 g")
        page.keyboard.press("Control+z")
        expect(page.locator(".call .verdict")).to_contain_text("Turn the stroke")
        page.keyboard.press("Control+z")
        expect(page.locator(".call .verdict")).to_contain_text("It fills what it should")
        page.reload()
        expect(page.locator(".call .verdict")).to_contain_text("It fills what it should")
        self.go("Close")
        page.get_by_label("Your name, to sign").fill("Ines")
        page.get_by_role("button", name="Close and seal").click()
        page.get_by_role("link", name="To its record and certificate").click()
        expect(page.get_by_role("heading", name="Tray fill: It fills what it should")).to_be_visible()
        expect(page.get_by_text("Trials 1, Trays 1, weight").first).to_be_visible()
        self.assert_accessible()
