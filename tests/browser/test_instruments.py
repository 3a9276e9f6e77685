"""Instruments on the line at the screen: live readings on a real job, silence, teaching by pointing, a serial port, loads by themselves."""

import re
from typing import Any

from playwright.sync_api import expect

from beacon.bench.models import Entry, Job
from beacon.links.models import Link
from beacon.loads.models import Load, Watch
from beacon.plant.models import System
from tests.browser.base import BrowserTestCase
from tests.server.on_the_line import FILLED, on_the_line
from tests.server.plant import enter
from tests.server.test_visits import PLATFORM

SERIAL = """
const sent = new TextEncoder();
let push;
const readable = () => new ReadableStream({ start(controller) { push = (text) => controller.enqueue(sent.encode(text)); } });
Object.defineProperty(navigator, "serial", { value: { requestPort: async () => {
  const port = { readable: null, open: async (given) => { window.opened = given; port.readable = readable(); }, close: async () => {} };
  return port;
} } });
window.send = (text) => push(text);
"""


class OnTheLine(BrowserTestCase):
    """Against a real server process, since readings are streamed, and a real instrument on loopback."""

    streams = True

    def setUp(self) -> None:
        super().setUp()
        self.platform = self.plant.add_system("Receiving platform", "platform", "vessel", PLATFORM)

    def link(self, port: int, system: System | None = None, **more: Any) -> Link:
        given = {"host": "127.0.0.1", "address": "127.0.0.1", "port": port, "unit": "kg"} | more
        link = Link.objects.create(
            organisation=self.plant.organisation, name="Floor display", changed_by=self.plant.lead, **given
        )
        link.systems.add(system or self.platform)
        return link

    @property
    def live(self):  # type: ignore[no-untyped-def]
        return self.page.get_by_role("region", name="Live readings")

    def visit(self) -> None:
        page = self.page
        page.goto(f"/systems/{self.platform.id}")
        page.get_by_role("button", name=re.compile("Begin a visit")).click()
        expect(page.get_by_role("complementary", name="The call")).to_be_visible()
        self.go("Passes")

    def test_a_reading_is_captured_into_the_field_in_hand_with_its_line(self) -> None:
        with on_the_line() as (instrument, port):
            self.link(port)
            self.visit()
            page = self.page
            expect(self.live).to_contain_text("steady")
            page.get_by_role("textbox", name="Shown empty").focus()
            expect(self.live.get_by_role("button", name="Capture 0.0 kg c")).to_be_enabled()
            page.keyboard.press("c")
            # The next field is in hand at once.
            expect(page.get_by_role("textbox", name="Shown with the load on")).to_be_focused()
            expect(page.locator(".kept")).not_to_contain_text("on the way")
            entry = Entry.objects.get(path__endswith=".zero", path__startswith="passes")
            self.assertEqual((entry.text, entry.unit, entry.source, entry.steady), ("0.0", "kg", "captured", True))
            self.assertEqual(entry.raw, "weight=0.0 kg steady")
            instrument.trouble = "pounds"
            expect(self.live).to_contain_text("when it was taught it sent kg")
            instrument.trouble = "over"
            expect(self.live).to_contain_text("over its range")
            expect(self.live.get_by_role("button", name=re.compile("^Capture"))).to_be_disabled()
            self.assert_accessible()

    def test_readings_are_gathered_over_time_and_their_mean_is_taken(self) -> None:
        with on_the_line() as (_, port):
            self.link(port)
            self.visit()
            page = self.page
            page.get_by_role("textbox", name="Shown empty").focus()
            self.live.get_by_role("button", name="Gather over time").click()
            page.get_by_role("textbox", name="Shown empty").focus()
            self.live.get_by_role("button", name=re.compile("Take the mean of ([3-9]|[1-9][0-9]) readings")).click()
            expect(self.live).to_contain_text("spread")
            expect(page.locator(".kept")).not_to_contain_text("on the way")
            entry = Entry.objects.get(path__endswith=".zero", path__startswith="passes")
            self.assertEqual((entry.text, entry.source), ("0.00", "captured"))
            self.assertIn("mean 0.00 kg of", entry.raw)

    def test_a_mean_goes_into_no_field_that_does_not_take_it(self) -> None:
        with on_the_line() as (_, port):
            self.link(port)
            self.visit()
            self.page.get_by_role("textbox", name="Shown empty").focus()
            self.live.get_by_role("button", name="Gather over time").click()
            mean = self.live.get_by_role("button", name=re.compile("Take the mean of ([3-9]|[1-9][0-9]) readings"))
            expect(mean).to_be_visible()
            self.go("Close")
            mean.click()
            expect(self.live).to_contain_text("The field in hand does not take it: type it where it belongs.")
            expect(self.live).to_contain_text("mean 0.00 kg of")
            self.assertFalse(Entry.objects.filter(source="captured").exists())

    def test_when_it_falls_silent_the_page_says_so_within_two_seconds_and_typing_goes_on(self) -> None:
        with on_the_line() as (instrument, port):
            self.link(port)
            self.visit()
            page = self.page
            expect(self.live).to_contain_text("steady")
            instrument.trouble = "silent"
            expect(page.get_by_text("Floor display is silent.")).to_be_visible(timeout=10_000)
            self.in_dock("0.0", "400.0")
            expect(page.locator(".kept")).not_to_contain_text("on the way")
            self.assertEqual(Entry.objects.get(path__endswith=".span", path__startswith="passes").source, "typed")
            instrument.trouble = ""
            expect(page.get_by_text("Floor display is silent.")).to_be_hidden()
            expect(self.live).to_contain_text("kg")

    def test_a_figure_that_is_left_alone_is_watched_and_answers_its_look(self) -> None:
        """A minute goes by at once: the page's own clock is moved on between readings that really come."""
        with on_the_line() as (_, port):
            self.link(port)
            self.page.clock.install()
            self.visit()
            page = self.page
            job = Job.objects.get()
            shown = {"zero": "0.0 kg", "span": "398.2 kg", "zero_after": "0.0 kg"}
            enter(job, self.plant.technician, {"inputs.test_load": "400 kg"} | {f"passes.p1.{key}": one for key, one in shown.items()})  # fmt: skip
            page.reload()
            page.get_by_role("button", name=re.compile("and .* more, together")).click()
            page.get_by_role("button", name=re.compile("Water in the junction box")).click()
            could = page.get_by_role("region", name="What it could be")
            could.get_by_role("button", name="Watch it for a minute").click()
            enough = could.get_by_role("button", name="That is enough")
            expect(enough).to_be_disabled()
            expect(could.get_by_role("timer")).to_contain_text(re.compile("[4-9] s of 60"))
            self.assert_accessible()
            page.clock.fast_forward(30_000)
            expect(could.get_by_role("timer")).to_contain_text(re.compile("3[6-9] s of 60"))
            enough.click()
            self.wait_until(lambda: Entry.objects.filter(path="looked.still", text="fine").exists())
            noted = Entry.objects.get(path="look_noted.still").text
            self.assertRegex(noted, r"^weight stood at 0\.0 kg for 3\d s\.$")
            expect(could).to_contain_text(noted)

    def test_one_may_choose_to_type_them_all(self) -> None:
        with on_the_line() as (_, port):
            self.link(port)
            self.visit()
            expect(self.live).to_contain_text("steady")
            self.live.get_by_label("Readings from").select_option(label="type them all")
            expect(self.live.get_by_role("button", name=re.compile("^Capture"))).to_have_count(0)
            self.page.reload()
            self.assertEqual(self.live.get_by_label("Readings from").input_value(), "")

    def test_an_instrument_is_registered_and_taught_by_pointing(self) -> None:
        lead = self.signed_in(self.new_context(), self.plant.lead)
        with on_the_line(speech="columns") as (_, port):
            lead.goto("/instruments")
            lead.get_by_role("button", name="Register an instrument").click()
            lead.get_by_label("Name").fill("Floor display")
            lead.get_by_label("Address").fill("8.8.8.8")
            lead.get_by_label("Port").fill(str(port))
            lead.get_by_role("button", name="Keep").click()
            expect(lead.get_by_text("not on a network where instruments may be")).to_be_visible()
            lead.get_by_label("Address").fill("127.0.0.1")
            lead.get_by_label("Receiving platform").check()
            lead.get_by_role("button", name="Keep").click()
            lead.get_by_role("button", name="Teach Floor display").click()
            teach = lead.get_by_role("region", name="Teach Floor display")
            expect(teach.locator(".teach-lines code").first).to_contain_text("[07]")
            expect(teach).to_contain_text("not understood")
            teach.locator(".teach-lines button").first.click()
            expect(teach.get_by_role("heading", name="Which piece is the figure?")).to_be_visible()
            tokens = teach.locator(".teach-tokens button")
            tokens.filter(has_text=re.compile(r"^\d+\.\d$")).click()
            tokens.filter(has_text="KG").click()
            tokens.filter(has_text="OK").click()
            expect(teach.locator(".teach-lines li").last).to_contain_text("steady")
            self.assert_accessible(lead)
            teach.get_by_role("button", name="Keep what it was taught").click()
            expect(teach).to_contain_text("Kept.")
            link = Link.objects.get()
            self.assertEqual((link.unit, link.pattern["steady_is"]), ("kg", "OK"))
            self.visit()
            expect(self.live).to_contain_text("steady")

    def test_a_wrong_piece_is_said_at_once_and_nothing_is_kept(self) -> None:
        lead = self.signed_in(self.new_context(), self.plant.lead)
        with on_the_line(speech="columns") as (_, port):
            self.link(port)
            lead.goto("/instruments")
            lead.get_by_role("button", name="Teach Floor display").click()
            teach = lead.get_by_role("region", name="Teach Floor display")
            teach.locator(".teach-lines button").first.click()
            teach.locator(".teach-tokens button").filter(has_text="OK").click()
            expect(teach.get_by_role("alert")).to_contain_text("is no figure")
            expect(teach.get_by_role("button", name="Keep what it was taught")).to_be_disabled()

    def test_a_serial_port_of_one_s_own_device_is_read_by_the_same_patterns(self) -> None:
        self.link(0, way="serial", host="", address=None, baud=4800)
        page = self.page
        page.add_init_script(SERIAL)
        self.visit()
        self.live.get_by_role("button", name="Open the serial port").click()
        page.wait_for_function("window.opened && window.opened.baudRate === 4800")
        page.evaluate("setInterval(() => window.send('weight=12.5 kg steady\\r\\n'), 200)")
        expect(self.live).to_contain_text("12.5")
        page.get_by_role("textbox", name="Shown empty").focus()
        expect(self.live.get_by_role("button", name=re.compile("^Capture 12.5"))).to_be_enabled()
        page.keyboard.press("c")
        expect(page.locator(".kept")).not_to_contain_text("on the way")
        entry = Entry.objects.get(path__endswith=".zero", path__startswith="passes")
        self.assertEqual((entry.text, entry.raw), ("12.5", "weight=12.5 kg steady"))

    def test_where_the_browser_has_no_serial_port_the_page_says_what_to_use(self) -> None:
        self.link(0, way="serial", host="", address=None)
        self.page.add_init_script("Object.defineProperty(Navigator.prototype, 'serial', { value: undefined })")
        self.visit()
        expect(self.live).to_contain_text("This browser reaches no serial port. Use Chromium or Edge on a computer")

    def test_a_live_weight_keeps_the_log_of_loads_by_itself(self) -> None:
        cart = self.plant.add_system(
            "Harvest trailer", "cart", "load-cart", {"indicated_division": "20 kg", "capacity": "14 t"}
        )
        with on_the_line("cart") as (instrument, port):
            self.link(port, cart, most="14000 kg")
            page = self.page
            page.goto(f"/systems/{cart.id}/loads")
            page.get_by_role("button", name="Let Floor display keep the log").click()
            expect(page.get_by_role("region", name="Live weight")).to_contain_text("steady")
            self.wait_until(Watch.objects.exclude(base=None).exists)
            # It goes on with the page closed.
            page.goto("/sums")
            instrument.held_at = FILLED
            self.wait_until(Load.objects.filter(state="stored").exists, 40)
            page.goto(f"/systems/{cart.id}/loads")
            row = (
                page.locator(".load-list, table").get_by_text(re.compile("3 ?9[0-9]0 kg|3900 kg|3880 kg|3920 kg")).first
            )
            expect(row).to_be_visible()
            load = Load.objects.get()
            self.assertEqual((load.state, load.how), ("stored", "steady"))
            page.get_by_role("button", name="By hand again").click()
            expect(page.get_by_role("button", name="Let Floor display keep the log")).to_be_visible()
