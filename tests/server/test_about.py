"""What the page says of the program: its version, and the licences of what ships with it."""

import json
import tempfile
from pathlib import Path

from django.conf import settings

from beacon.licences import main, of_the_page, of_the_server
from beacon.web import _page
from tests.server.plant import PlantTestCase, enter, runs
from tests.server.test_closing import IN_ORDER
from wary import VERSION, WRITTEN_BY


class About(PlantTestCase):
    def test_every_package_that_ships_has_its_licence_and_the_text_of_it(self) -> None:
        for one in (*of_the_page(), *of_the_server()):
            self.assertTrue(one.licence, one.name)
            self.assertGreater(len(one.text), 400, one.name)

    def test_they_are_all_that_the_page_and_the_server_run_on_and_nothing_of_the_tests(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            main(Path(folder) / "licences.json")
            listed = json.loads((Path(folder) / "licences.json").read_text(encoding="utf-8"))
        names = {one["of"]: {row["name"].lower() for row in listed if row["of"] == one["of"]} for one in listed}
        package = json.loads((settings.ROOT / "web/package.json").read_text(encoding="utf-8"))
        self.assertLessEqual(set(package["dependencies"]), names["page"])
        self.assertFalse(set(package["devDependencies"]) & names["page"] - {"@types/react"})
        self.assertLessEqual({"django", "uvicorn", "psycopg", "weasyprint", "pydantic_core"}, names["server"])
        self.assertFalse({"hypothesis", "moto", "mypy", "playwright"} & names["server"])

    def test_the_page_and_what_is_written_say_the_version(self) -> None:
        if (settings.WEB_BUILD / "index.html").exists():
            self.assertIn(f'<meta name="version" content="{VERSION}">', _page(None))
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))
        file = json.loads(self.client.get(f"/api/jobs/{job.id}/job.json").content)
        self.assertEqual(file["written_by"], WRITTEN_BY)
        self.send(f"/api/jobs/{job.id}/close", {"signed": "x", "outcome": "complete"})
        record = self.client.get("/api/log").json()["rows"][0]["record"]
        sealed = json.loads(self.client.get(f"/api/records/{record}/record.json").content)
        self.assertEqual(sealed["written_by"], WRITTEN_BY)
