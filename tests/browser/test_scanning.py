"""Codes before the camera: a machine's label opens its page, a reference's and a container's go where they are chosen."""

import base64
import io
import re

import segno
from playwright.sync_api import Page, Route, expect

from beacon.bench.models import Entry
from beacon.plant.models import Reference
from tests.browser.base import BrowserTestCase

CAMERA = """([picture]) => {
  const canvas = Object.assign(document.createElement('canvas'), {width: 640, height: 480});
  const pen = canvas.getContext('2d');
  const image = new Image();
  image.src = picture;
  const paint = () => {
    pen.fillStyle = '#999'; pen.fillRect(0, 0, 640, 480);
    pen.drawImage(image, 180, 100, 280, 280);
  };
  image.onload = () => setInterval(paint, 50);
  navigator.mediaDevices.getUserMedia = async () => canvas.captureStream(20);
}"""

LATE = """() => {
  const given = navigator.mediaDevices.getUserMedia;
  navigator.mediaDevices.getUserMedia = async () => {
    const empty = new MediaStream();
    window.begin = async () => (await given()).getTracks().forEach((track) => empty.addTrack(track));
    return empty;
  };
}"""
"""A camera that gives its pictures only when it is told to begin."""


NOT_UPRIGHT = (
    "1715609f-7c74-6c6d-c20f-c1e1d0a4e909",
    "afd9d690-6cdb-1650-b188-4a29cd141d97",
    "c6ef372f-e94f-82be-7398-0c0b9db906a0",
    "035e2aa2-e7e4-7aea-5ad1-8ccc5794970a",
)
"""Machines whose labels the reader that ships does not find in a picture that stands exactly upright, however large."""


def picture(text: str) -> bytes:
    kept = io.BytesIO()
    segno.make(text, error="m", micro=False).save(kept, kind="png", scale=6, border=4)
    return kept.getvalue()


class Scanned(BrowserTestCase):
    size = {"width": 390, "height": 844}

    def camera_shows(self, page: Page, text: str) -> None:
        """What the camera of this device shows from now on."""
        address = f"data:image/png;base64,{base64.b64encode(picture(text)).decode()}"
        page.evaluate(CAMERA, [address])

    def test_a_machine_s_code_opens_its_page_from_the_round(self) -> None:
        page = self.page
        page.goto("/")
        self.camera_shows(page, f"https://elsewhere.example/systems/{self.plant.system.id}")
        page.get_by_role("button", name="Scan").click()
        expect(page.get_by_role("heading", name=self.plant.system.name)).to_be_visible()
        self.assertTrue(page.url.endswith(f"/systems/{self.plant.system.id}"))

    def test_codes_that_are_not_found_upright_are_read_all_the_same(self) -> None:
        page = self.page
        for name in NOT_UPRIGHT:
            self.plant.add_system(f"Belt {name[:4]}", "belt", "belt-fine", {}, id=name)
            page.goto("/")
            page.evaluate("() => { navigator.mediaDevices.getUserMedia = async () => { throw new Error('none') } }")
            page.get_by_role("button", name="Scan").click()
            code = picture(f"https://b.example/systems/{name}")
            choose = page.get_by_role("dialog").locator("input[type=file]")
            choose.set_input_files({"name": "code.png", "mimeType": "image/png", "buffer": code})
            expect(page).to_have_url(re.compile(name))
        page.goto("/")
        self.camera_shows(page, f"https://b.example/systems/{NOT_UPRIGHT[0]}")
        page.get_by_role("button", name="Scan").click()
        expect(page).to_have_url(re.compile(NOT_UPRIGHT[0]))

    def test_a_text_is_looked_for(self) -> None:
        page = self.page
        page.goto("/")
        self.camera_shows(page, self.plant.system.name[:6])
        page.get_by_role("button", name="Scan").click()
        expect(page.get_by_label("Find a system")).to_have_value(self.plant.system.name[:6])

    def test_a_container_s_code_types_its_tare_and_another_s_is_said(self) -> None:
        here = self.plant.organisation
        crate = Reference.objects.create(organisation=here, kind="container", name="Crate", label="K-7", tare="42 kg")
        scale = Reference.objects.create(organisation=here, kind="scale", name="Floor scale", division="0.2 kg")
        job = self.plant.job("known-load", self.plant.add_system("Silo", "vessel", "vessel", {}))
        page = self.page
        page.goto(f"/jobs/{job.id}")
        steps = page.get_by_label("Step", exact=True)
        steps.select_option(label=steps.locator("option", has_text="As found").inner_text())
        page.get_by_label("How it was weighed").select_option("gross")
        self.camera_shows(page, f"https://b.example/references/{scale.id}")
        page.locator(".tares").get_by_role("button", name="Scan").click()
        expect(page.get_by_role("status").filter(has_text="no container")).to_be_visible()
        self.assert_accessible()
        self.camera_shows(page, "K-7")
        page.get_by_role("button", name="Close").click()
        page.locator(".tares").get_by_role("button", name="Scan").click()
        expect(page.locator(".dock").get_by_role("textbox", name="Tare")).to_have_value("42")
        self.wait_until(lambda: Entry.objects.filter(job=job, path__endswith=".tare", text="42 kg").exists())
        self.assertEqual(crate.label, "K-7")

    def test_a_reference_s_code_chooses_it(self) -> None:
        other = Reference.objects.create(organisation=self.plant.organisation, kind="scale", name="Far scale", division="20 kg")  # fmt: skip
        job = self.plant.job()
        page = self.page
        page.goto(f"/jobs/{job.id}")
        steps = page.get_by_label("Step", exact=True)
        steps.select_option(label=steps.locator("option", has_text="How much").inner_text())
        self.camera_shows(page, f"https://b.example/references/{other.id}")
        page.get_by_role("button", name="Scan").first.click()
        self.wait_until(lambda: Entry.objects.filter(job=job, path="references.r1.name", text="Far scale").exists())

    def test_a_camera_without_a_picture_is_said_and_looked_at_further(self) -> None:
        page = self.page
        page.clock.install()
        page.goto("/")
        self.camera_shows(page, f"https://b.example/systems/{self.plant.system.id}")
        page.evaluate(LATE)
        page.get_by_role("button", name="Scan").click()
        video = page.get_by_label("What the camera shows")
        page.wait_for_function("(video) => video.srcObject", arg=video.element_handle())
        page.clock.fast_forward(7_000)
        expect(page.get_by_role("status")).to_contain_text("gives no picture yet")
        page.evaluate("() => window.begin()")
        expect(page).to_have_url(re.compile(str(self.plant.system.id)))

    def test_a_reader_that_did_not_come_at_first_is_asked_for_again(self) -> None:
        page, times = self.page, []

        def first_time(route: Route) -> None:
            times.append(route.request.url)
            if len(times) > 1:
                route.continue_()
            else:
                route.abort()

        # This browser reads no codes by itself, so the reader is taken along once the page can be used.
        page.route(re.compile("/assets/reader-"), first_time)
        page.goto("/")
        self.wait_until(lambda: bool(times))
        self.camera_shows(page, f"https://b.example/systems/{self.plant.system.id}")
        page.get_by_role("button", name="Scan").click()
        expect(page).to_have_url(re.compile(str(self.plant.system.id)))
        self.assertGreater(len(times), 1)

    def test_without_a_camera_a_photograph_does(self) -> None:
        page = self.page
        page.goto("/")
        page.evaluate("() => { navigator.mediaDevices.getUserMedia = async () => { throw new Error('none') } }")
        page.get_by_role("button", name="Scan").click()
        expect(page.get_by_role("dialog")).to_contain_text("No camera can be used here")
        choose = page.get_by_role("dialog").locator("input[type=file]")
        choose.set_input_files({"name": "nothing.png", "mimeType": "image/png", "buffer": b"no picture"})
        expect(page.get_by_role("status")).to_contain_text("no code in this photograph")
        code = picture(f"https://b.example/systems/{self.plant.system.id}")
        choose.set_input_files({"name": "code.png", "mimeType": "image/png", "buffer": code})
        expect(page).to_have_url(re.compile(str(self.plant.system.id)))

    def test_a_label_of_a_reference_carries_its_code(self) -> None:
        scale = self.plant.bridge
        answer = self.page.request.get(f"{self.live_server_url}/api/references/{scale.id}/label.pdf")
        self.assertEqual((answer.status, answer.headers["content-type"]), (200, "application/pdf"))
