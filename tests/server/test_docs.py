"""What the docs say of adding a method and a kind of machine, followed to the letter in a folder of its own."""

import importlib
import re
import sys
import tempfile
from pathlib import Path
from typing import Any

from django.conf import settings

from beacon.plant.models import LimitProfile
from beacon.records.looking import why_broken
from beacon.records.models import Record
from tests.server.plant import PlantTestCase
from wary.machines import WHERE as MACHINES
from wary.machines import all_machines
from wary.methods import WHERE as METHODS
from wary.methods import all_methods
from wary.rules.profiles import STARTING, TITLES

DOCS = settings.ROOT / "docs"
BLOCK = re.compile(r"```python\n# (wary/\S+\.py)\n(.*?)```", re.DOTALL)


def files_in(name: str) -> dict[str, str]:
    """The whole files that a document holds, by their paths."""
    return dict(BLOCK.findall((DOCS / name).read_text(encoding="utf-8")))


def forget() -> None:
    all_methods.cache_clear()
    all_machines.cache_clear()


class ByTheDocs(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        packages = {"methods": METHODS, "machines": MACHINES}
        for path, text in (files_in("adding-a-method.md") | files_in("adding-a-machine.md")).items():
            _, room, *_, name = path.split("/")
            package = folder / f"by_the_docs_{room}"
            package.mkdir(exist_ok=True)
            (package / "__init__.py").touch()
            (package / name).write_text(text, encoding="utf-8")
        sys.path.insert(0, str(folder))
        importlib.invalidate_caches()
        for room, where in packages.items():
            where.append(f"by_the_docs_{room}")
        forget()
        self.addCleanup(self.gone, str(folder), packages)

    def gone(self, folder: str, packages: dict[str, list[str]]) -> None:
        for room, where in packages.items():
            where.remove(f"by_the_docs_{room}")
        sys.path.remove(folder)
        for name in [name for name in sys.modules if name.startswith("by_the_docs_")]:
            del sys.modules[name]
        STARTING.pop("meal", None)
        TITLES.pop("meal", None)
        forget()

    def enter(self, job: str, texts: dict[str, str]) -> dict[str, Any]:
        from beacon.bench.models import Job

        answer = self.send_entries(Job.objects.get(id=job), texts)
        self.assertEqual(answer["refused"], [])
        return answer

    def test_a_job_is_worked_on_a_machine_that_is_one_file(self) -> None:
        self.assertIn("meal-hopper", all_machines())
        lead = self.signed_in(self.plant.lead)
        site = str(self.plant.system.site_id)
        plates = {"capacity": "1500 kg", "division": "0.5 kg", "nominal": "25 kg"}
        made = self.send("/api/systems", {"site": site, "kind": "meal-hopper", "name": "Meal", "plates": plates}, lead)
        self.assertEqual(made.status_code, 201, made.content)
        system = made.json()
        # Its own limits are the organisation's from its first machine on.
        self.assertEqual((system["profile"], system["profile_title"]), ("meal", "Meal hopper"))
        self.assertEqual(LimitProfile.objects.get(organisation=self.plant.organisation, key="meal").accept, "0.4 %")
        row = next(one for one in self.client.get("/api/round").json()["systems"] if one["name"] == "Meal")
        self.assertEqual(row["kind_name"], "meal hopper")
        opened = self.send("/api/jobs", {"system": system["id"], "method": "visit"}).json()
        self.assertEqual([part["method"] for part in opened["parts"]], ["zero-span", "bag-weight"])
        span = {"test_load": "1000 kg"} | {f"{key}": text for key, text in plates.items() if key != "nominal"}
        texts = {f"span/inputs.{key}": text for key, text in span.items()}
        self.enter(opened["id"], texts | {"span/passes.p1.zero": "0 kg", "span/passes.p1.span": "1000 kg"})
        bags = {f"bags.b{n}.value": text for n, text in enumerate(("25.02 kg", "24.98 kg", "25.06 kg"))}
        job = self.enter(opened["id"], bags)["job"]
        parts = {part["method"]: part["assessment"] for part in job["parts"]}
        self.assertEqual((parts["zero-span"]["call"], parts["bag-weight"]["call"]), ("leave", "leave"))
        # (25.02 + 24.98 + 25.06)/3 = 25.02 kg: 0.08 % off, of 0.4 % that its own limits let pass.
        self.assertAlmostEqual(parts["bag-weight"]["results"]["error"]["value"], 0.08, 9)
        self.assertIn("0.40 % is let pass", parts["bag-weight"]["lead"])
        closed = self.send(f"/api/jobs/{opened['id']}/close", {"signed": "Ines", "outcome": "complete"})
        self.assertEqual(closed.status_code, 200, closed.content)
        record = Record.objects.get(job_id=opened["id"])
        self.assertIsNone(why_broken(record))
        self.assertIn("mean bag", record.content)
        self.assertEqual(self.client.get(f"/api/records/{record.id}/certificate.pdf").status_code, 200)

    def test_the_command_line_knows_it_and_a_file_names_its_limits(self) -> None:
        from wary.job.file import read, schema

        bags = {"nominal": "25 kg", "bags": ["25.2 kg", "25.2 kg", "25.2 kg"]}
        answer = read({"method": "bag-weight", "profile": {"name": "meal"}, "inputs": bags}).assess()
        self.assertEqual((answer.call, answer.headline), ("adjust", "Set the spout"))
        self.assertIn("bag-weight.results", schema()["$defs"])
