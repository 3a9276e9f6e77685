"""Fillers, a doser and a grader at the screen: tuning trial by trial, recipes, the site's own list, doses, grades."""

import re

from playwright.sync_api import Page, expect

from beacon.bench.models import Entry
from beacon.plant.models import Channel, System
from tests.browser.base import BrowserTestCase
from tests.browser.test_steps import OVERLAPS
from tests.server.plant import enter

FIGURES = {"number": 1, "target": "1000 g", "over": "10 g", "under": "10 g", "fast": "300 g", "medium": "100 g", "fine": "20 g"}  # fmt: skip


class Filling(BrowserTestCase):
    def filler(self, kind: str = "filler", **plates: object) -> System:
        system = self.plant.add_system("Pouch filler", kind, "filling", {"division": "1 g", "bench_division": "0.1 g"} | plates)  # fmt: skip
        figures = FIGURES if kind == "filler" else {k: v for k, v in FIGURES.items() if k != "fast"}
        Channel.objects.filter(system=system).update(name="Flake 1 kg", figures=figures, factor="")
        return system

    def bench(self, method: str, system: System) -> Page:
        self.job = self.plant.job(method, system)
        self.page.goto(f"/jobs/{self.job.id}")
        expect(self.page.get_by_role("complementary", name="The call")).to_be_visible()
        return self.page

    def fills(self, trial: int, *weights: str) -> None:
        inner = self.page.get_by_role("region", name=f"Fills of trial {trial}")
        weight = inner.get_by_label("Weight", exact=True)
        for number, text in enumerate(weights, 1):
            weight.fill(text)
            weight.press("Enter")
            expect(inner.locator("tbody tr:has(.tally-number)")).to_have_count(number)
            expect(weight).to_have_value("")

    def verdict(self, words: str) -> None:
        expect(self.page.locator(".call .verdict")).to_contain_text(words)


class Tuning(Filling):
    def test_the_call_says_what_to_move_and_the_next_trial_begins_with_it(self) -> None:
        page = self.bench("fill-tuning", self.filler())
        self.go("The pack")
        expect(page.get_by_role("textbox", name="Target")).to_have_value("1000")
        self.go("Trials")
        self.fills(1, "1025 g", "1006", "1004")
        self.verdict("Medium 100 → 123 g")
        expect(page.locator(".call .reasons")).to_contain_text("fine stays where it is")
        expect(page.locator(".list-table").first).to_contain_text("scattered")
        page.get_by_role("button", name="Trial 2, set as the call says").click()
        expect(page.locator(".call .not-valid")).to_contain_text("do not show yet")
        self.fills(2, "1012 g", "1011", "1013")
        self.verdict("Fine 20 → 32 g")
        page.get_by_role("button", name="Trial 3, set as the call says").click()
        self.fills(3, "1001 g", "999", "1000")
        self.verdict("Look first")
        expect(page.locator(".call")).to_contain_text("before it was set")
        self.make_looks()
        self.verdict("Tuned: leave it alone")
        expect(page.locator(".call .not-valid")).to_have_count(0)
        expect(page.get_by_role("button", name="set as the call says")).to_have_count(0)
        self.assertEqual(page.evaluate(OVERLAPS), [])
        self.assert_accessible()
        expect(page.locator(".kept")).not_to_contain_text("on the way")
        said = Entry.objects.filter(path__endswith=".medium", job=self.job).values_list("text", flat=True)
        self.assertEqual(list(said), ["100 g", "123 g", "123 g"])

    def test_the_fills_lie_beside_each_other_on_one_scale(self) -> None:
        page = self.bench("fill-tuning", self.filler())
        self.go("Trials")
        self.fills(1, "1025 g", "1006", "1004")
        figure = page.locator(".figure svg[role=img]")
        expect(figure).to_have_attribute("aria-label", re.compile("trial 1: 3 weighed. scattered|trial 1: 3 weighed, scattered"))  # fmt: skip
        expect(figure).to_contain_text("scattered")
        expect(figure).to_contain_text("+10 g")
        for label in ("fast", "medium", "fine"):
            expect(figure).to_contain_text(label)
        # One of three is out of tolerance: a lozenge among the discs.
        expect(figure.locator("circle")).to_have_count(2)

    def test_a_fill_when_the_hopper_ran_empty_is_set_aside_with_its_reason(self) -> None:
        page = self.bench("fill-tuning", self.filler())
        self.go("Trials")
        self.fills(1, "1002 g", "1001", "999", "640")
        self.verdict("Find the fault first")
        inner = page.get_by_role("region", name="Fills of trial 1")
        inner.get_by_role("button", name="Row 4: change").click()
        inner.get_by_role("button", name="Set aside").click()
        page.get_by_role("dialog").get_by_label("What happened to it?").fill("the hopper ran empty")
        page.keyboard.press("Enter")
        self.verdict("Tuned: leave it alone")
        expect(inner).to_contain_text("set aside: the hopper ran empty")

    def test_a_machine_with_two_speeds_says_it_in_its_own_words(self) -> None:
        page = self.bench("fill-tuning", self.filler("two-speed-filler"))
        self.go("Trials")
        dock = page.locator(".dock").first
        expect(dock.get_by_label("Filled slowly").first).to_have_value("100")
        expect(dock.get_by_label("Fast ends before")).to_have_count(0)
        self.fills(1, "1012 g", "1011", "1013")
        self.verdict("In flight 20 → 32 g")
        expect(page.locator(".figure")).to_contain_text("in flight")

    def test_cut_offs_in_the_wrong_order_are_said_before_any_fill(self) -> None:
        system = self.filler()
        page = self.bench("fill-tuning", system)
        enter(self.job, self.plant.technician, {"trials.o1.fills.f1.weight": "1000 g"})
        page.reload()
        self.go("Trials")
        page.get_by_role("button", name="Row 1: change").first.click()
        medium = page.locator(".dock").first.get_by_label("Medium ends before").first
        medium.fill("10 g")
        medium.press("Enter")
        self.verdict("Not ready yet")
        expect(page.locator(".call .reasons")).to_contain_text("out of order")


class Recipes(Filling):
    def test_they_stand_side_by_side_and_one_is_copied_for_another_size(self) -> None:
        system = self.filler()
        page = self.page
        page.goto(f"/systems/{system.id}")
        table = page.locator(".recipes")
        expect(table).to_contain_text("Flake 1 kg")
        page.get_by_role("button", name="Copy Flake 1 kg").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_role("button", name="Add it at the next free number").click()
        expect(dialog.get_by_role("alert")).to_contain_text("What is it called?")
        dialog.get_by_label("Name", exact=True).fill("Flake 500 g")
        dialog.get_by_label("Target").fill("500 m")
        dialog.get_by_role("button", name="Add it at the next free number").click()
        expect(dialog.get_by_role("alert")).to_contain_text("500 m")
        dialog.get_by_label("Target").fill("500 g")
        dialog.get_by_role("button", name="Add it at the next free number").click()
        expect(dialog).to_be_hidden()
        row = table.get_by_role("row", name=re.compile("^Target"))
        expect(row).to_contain_text("1000 g")
        expect(row).to_contain_text("500 g")
        expect(table.get_by_role("row", name=re.compile("^Number"))).to_contain_text("2")
        expect(table.get_by_role("row", name=re.compile("^Medium"))).to_contain_text("100 g")
        self.assert_accessible()

    def test_a_change_by_hand_stands_in_the_trail(self) -> None:
        system = self.filler()
        page = self.page
        page.goto(f"/systems/{system.id}")
        page.get_by_role("button", name="Change Flake 1 kg").click()
        page.get_by_role("dialog").get_by_label("Fine ends before").fill("22 g")
        page.get_by_role("dialog").get_by_role("button", name="Keep").click()
        expect(page.get_by_text("Flake 1 kg, fine ends before: 20 g → 22 g")).to_be_visible()

    def test_the_site_writes_its_own_list_and_the_next_check_begins_with_it(self) -> None:
        system = self.filler()
        page = self.page
        page.goto(f"/systems/{system.id}")
        page.get_by_role("button", name="Change this list: Tried before product").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("Part, row 7").fill("Bag chute")
        dialog.get_by_label("Expected, row 7").fill("swings clear")
        dialog.get_by_role("button", name="Keep").click()
        expect(page.locator(".own-list").first).to_contain_text("Bag chute, swings clear")
        page = self.bench("fill-precheck", system)
        self.go("Parts")
        rows = page.locator(".list-table tbody tr:has(.tally-number)")
        expect(rows).to_have_count(7)
        for number in range(7):
            rows.nth(number).get_by_role("button").click()
            page.locator(".dock").get_by_role("group", name="It did").get_by_role("button", name="no" if number == 4 else "yes", exact=True).click()  # fmt: skip
        self.go("Supplies")
        page.get_by_role("textbox", name="Read").fill("6.1")
        page.keyboard.press("Enter")
        self.verdict("Not ready: a row failed")
        expect(page.locator(".call .reasons")).to_contain_text("Clamp did not do what is expected")
        self.assert_accessible()


class Watching(Filling):
    def test_samples_stand_in_their_order_and_a_far_one_is_drift(self) -> None:
        page = self.bench("fill-check", self.filler())
        self.go("Samples")
        for number, (machine, bench) in enumerate(((1001, 1001), (1003, 1002.5), (1002, 1002), (1004, 1003.6), (1001, 1001)), 1):  # fmt: skip
            self.in_dock(f"{machine} g", f"{bench} g")
            expect(page.locator(".list-table tbody tr:has(.tally-number)")).to_have_count(number)
        self.verdict("It fills right: leave it alone")
        figure = page.locator(".figure svg[role=img]")
        expect(figure).to_have_attribute("aria-label", re.compile("5 samples in their order"))
        self.assertEqual(page.evaluate(OVERLAPS), [])
        self.assert_accessible()
        rows = {f"samples.s{n}.bench": f"{1001 + n % 2} g" for n in range(12)} | {"samples.t1.bench": "1009.5 g"}
        enter(self.job, self.plant.technician, rows)
        page.reload()
        self.verdict("Find the fault first")
        expect(page.locator(".call .reasons")).to_contain_text("beyond three deviations")

    def test_what_is_given_away_is_said_in_money(self) -> None:
        page = self.bench("fill-check", self.filler())
        rows = {f"samples.s{n}.bench": f"{1000 + error} g" for n, error in enumerate((1, 3, 2, 4, 0))}
        enter(self.job, self.plant.technician, rows)
        page.reload()
        self.go("What it costs")
        block = page.get_by_role("group", name="What the product costs")
        block.get_by_role("textbox", name="Costs").fill("2.4")
        block.get_by_role("textbox", name="Costs").press("Enter")
        block.get_by_role("textbox", name="For each").fill("1 kg")
        block.get_by_role("textbox", name="For each").press("Enter")
        page.get_by_role("textbox", name="Packs in a year").fill("250000")
        page.keyboard.press("Enter")
        expect(page.locator(".bench, main").first).to_contain_text("It fills right")
        expect(page.locator(".kept")).not_to_contain_text("on the way")
        view = page.request.get(f"/api/jobs/{self.job.id}").json()
        self.assertAlmostEqual(view["parts"][0]["assessment"]["results"]["giveaway_cost_per_year"]["value"], 1200, 6)


class DosingAndGrading(Filling):
    def test_a_check_mass_then_doses_until_three_in_a_row_are_right(self) -> None:
        doser = self.plant.add_system("Doser", "doser", "filling", {"bench_division": "0.1 g"})
        Channel.objects.filter(system=doser).update(figures={"target": "200 g"}, factor="")
        page = self.bench("dose-check", doser)
        self.go("Check mass and tolerance")
        page.get_by_role("textbox", name="Check mass", exact=True).fill("400 g")
        page.keyboard.press("Enter")
        self.go("As found", number=0)
        for text in ("404 g", "404"):
            self.in_dock(text)
        self.verdict("Look first")
        self.make_looks()
        self.verdict("Take the span again")
        self.go("After the span")
        self.in_dock("400.2 g")
        self.verdict("Dose next")
        expect(page.locator(".call .not-valid")).to_contain_text("no three doses in a row")
        self.go("Doses", number=1)
        for number, text in enumerate(("206 g", "201", "199.5", "200.5"), 1):
            self.in_dock(text)
            expect(page.locator(".list-table tbody tr:has(.tally-number)")).to_have_count(number)
        self.verdict("It doses right: leave it alone")
        expect(page.locator(".figure svg[role=img]")).to_contain_text("doses")
        self.assertEqual(page.evaluate(OVERLAPS), [])
        self.assert_accessible()

    def test_limits_in_the_wrong_order_are_named_and_put_right(self) -> None:
        grader = self.plant.add_system("Grader", "grader", "filling", {"outlets": 4, "reject_limit": "130 g"})
        page = self.bench("grade-check", grader)
        self.go("The machine")
        page.get_by_role("group", name="A limit is").get_by_role("button", name="the least of its grade").click()
        self.go("Grades")
        for number, row in enumerate((("small", "60 g", "1"), ("medium", "100 g", "2"), ("large", "80 g", "3")), 1):
            self.in_dock(*row)
            expect(page.locator(".list-table tbody tr:has(.tally-number)")).to_have_count(number)
        self.verdict("Limits or outlets are mistyped")
        expect(page.locator(".call .reasons")).to_contain_text("do not go one way")
        for place, text in ((1, "80 g"), (2, "100 g")):
            page.locator(".list-table tbody").get_by_role("button").nth(place).click()
            limit = page.locator(".dock").get_by_role("textbox", name="Limit")
            limit.fill(text)
            limit.press("Enter")
        self.verdict("The grades are in order")
        figure = page.locator(".figure svg[role=img]")
        expect(figure).to_have_attribute("aria-label", re.compile("small to outlet 1; medium to outlet 2; large to outlet 3; rejected beyond 130 g"))  # fmt: skip
        self.go("Batch")
        self.in_dock("small", "10", "900 g")
        self.verdict("Find the fault first")
        self.assertEqual(page.evaluate(OVERLAPS), [])
        self.assert_accessible()
        # Clearing asks first; what stood there stays in the trail.
        page.get_by_role("button", name="Clear the batch", exact=True).click()
        expect(page.locator(".list-table tbody tr:has(.tally-number)")).to_have_count(1)
        page.get_by_role("button", name="Clear the batch: sure").click()
        expect(page.locator(".list-table tbody tr:has(.tally-number)")).to_have_count(0)
        self.verdict("The grades are in order")
        expect(page.locator(".kept")).not_to_contain_text("on the way")
        counts = Entry.objects.filter(job=self.job, path__endswith=".count").values_list("text", flat=True)
        self.assertEqual(list(counts), ["10", ""])

    def test_a_batch_is_chosen_from_those_of_the_days_before(self) -> None:
        days = [{"day": day, "batch": name, "count": "20", "total_mass": "1.5 kg"} for day, name in (("2031-05-03", "North beds"), ("2031-05-04", "South beds"))]  # fmt: skip
        grader = self.plant.add_system("Grader", "grader", "filling", {"reject_limit": "130 g"}, lists={"days": days})
        page = self.bench("grade-check", grader)
        self.go("Batch")
        known = page.get_by_role("group", name="Known here").get_by_role("button")
        expect(known).to_have_text(["North beds", "South beds"])
        known.nth(1).click()
        expect(page.get_by_role("textbox", name="Batch")).to_have_value("South beds")
        expect(known.nth(1)).to_have_attribute("aria-pressed", "true")
        expect(page.locator(".kept")).not_to_contain_text("on the way")
        self.assertEqual(Entry.objects.get(job=self.job, path="inputs.batch_name", text="South beds").source, "typed")
        self.assert_accessible()


class OnAPhone(Filling):
    size = {"width": 390, "height": 844}

    def test_trials_can_be_read_and_nothing_lies_over_another(self) -> None:
        system = self.filler()
        job = self.plant.job("fill-tuning", system)
        texts = {}
        for trial, weights in (("o1", (1025, 1006, 1004)), ("t2", (1012, 1011, 1013)), ("t3", (1001, 1000, 999))):
            texts |= {f"trials.{trial}.{stage}": FIGURES[stage] for stage in ("fast", "medium", "fine")}
            texts |= {f"trials.{trial}.fills.f{n}.weight": f"{w} g" for n, w in enumerate(weights, 1)}
        enter(job, self.plant.technician, {path: str(text) for path, text in texts.items()})
        page = self.page
        page.goto(f"/jobs/{job.id}")
        expect(page.locator(".call-bar")).to_contain_text("Tuned")
        expect(page.locator(".figure svg")).to_contain_text("trial 3")
        self.assertEqual(page.evaluate(OVERLAPS), [])
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
        page.goto(f"/systems/{system.id}")
        expect(page.locator(".recipes")).to_contain_text("Flake 1 kg")
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)


class LongLists(Filling):
    def test_the_latest_rows_of_a_long_list_are_shown_and_all_when_asked(self) -> None:
        page = self.bench("fill-check", self.filler())
        rows = {f"samples.s{n:03}.bench": f"{1000 + n % 5} g" for n in range(150)}
        enter(self.job, self.plant.technician, rows)
        page.reload()
        self.go("Samples")
        listed = page.locator(".list-table tbody tr:has(.tally-number)")
        expect(listed).to_have_count(120)
        expect(listed.last).to_contain_text("150")
        page.get_by_role("button", name="30 earlier: show them too").click()
        expect(listed).to_have_count(150)
        expect(page.locator(".figure svg[role=img]")).to_have_attribute("aria-label", re.compile("150 samples"))
