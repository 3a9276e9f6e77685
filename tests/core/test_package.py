"""The core as a package: built as a wheel, it works where nothing else is but pydantic, and has the command `wary`."""

import importlib.metadata
import json
import re
import shutil
import subprocess
import sys
import tempfile
import tomllib
import unittest
import zipfile
from pathlib import Path

from wary import VERSION

ROOT = Path(__file__).resolve().parents[2]
STANDS_ON = ("pydantic", "pydantic-core", "annotated-types", "typing-extensions", "typing-inspection")
ALONE = "import sys; sys.path[:0] = [sys.argv.pop(1)]; import runpy; runpy.run_module('wary', run_name='__main__', alter_sys=True)"


class Package(unittest.TestCase):
    folder: tempfile.TemporaryDirectory[str]

    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(cls.folder.cleanup)
        source, cls.site = Path(cls.folder.name) / "source", Path(cls.folder.name) / "site"
        shutil.copytree(ROOT / "wary", source / "wary", ignore=shutil.ignore_patterns("__pycache__"))
        for file in ("pyproject.toml", "docs/job-file.md"):
            (source / file).parent.mkdir(exist_ok=True)
            shutil.copy(ROOT / file, source / file)
        done = subprocess.run(
            [sys.executable, "-c", f"from flit_core.buildapi import build_wheel; print(build_wheel({cls.folder.name!r}))"],
            cwd=source, capture_output=True, text=True, check=True,
        )  # fmt: skip
        cls.wheel = Path(cls.folder.name) / done.stdout.split()[-1]
        zipfile.ZipFile(cls.wheel).extractall(cls.site)
        for name in STANDS_ON:
            for file in importlib.metadata.files(name) or []:
                to = cls.site / file
                if ".." not in file.parts and "__pycache__" not in file.parts:
                    to.parent.mkdir(parents=True, exist_ok=True)
                    shutil.copy(str(file.locate()), to)

    def run_alone(self, *arguments: str) -> subprocess.CompletedProcess[str]:
        """The command line with this wheel and what it stands on, and nothing else that is installed."""
        return subprocess.run(
            [sys.executable, "-I", "-S", "-c", ALONE, str(self.site), *arguments],
            capture_output=True, text=True, check=False, cwd=self.folder.name,
        )  # fmt: skip

    def test_it_holds_the_core_and_nothing_of_the_server(self) -> None:
        names = {name.partition("/")[0] for name in zipfile.ZipFile(self.wheel).namelist()}
        self.assertEqual(names, {"wary", f"wary_beacon-{VERSION}.dist-info"})
        about = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
        self.assertEqual(about["version"], VERSION)
        self.assertEqual([re.split(r"[><=~]", one)[0] for one in about["dependencies"]], ["pydantic"])
        entry = (self.site / f"wary_beacon-{VERSION}.dist-info/entry_points.txt").read_text()
        self.assertIn("wary=wary.__main__:run", entry)

    def test_it_judges_a_job_file_alone(self) -> None:
        text = re.search(r"```json\n(\{.*?\n\})\n```", (ROOT / "docs/job-file.md").read_text(), re.S)
        assert text
        file = Path(self.folder.name) / "job.json"
        file.write_text(text[1])
        done = self.run_alone("assess", str(file))
        self.assertEqual(done.returncode, 0, done.stderr)
        here = subprocess.run([sys.executable, "-m", "wary", "assess", str(file)], cwd=ROOT, capture_output=True, text=True, check=True)  # fmt: skip
        self.assertEqual(done.stdout, here.stdout)
        self.assertIn("call", json.loads(done.stdout))

    def test_five_lines_of_python_do_what_the_docs_say(self) -> None:
        docs = (ROOT / "docs/job-file.md").read_text()
        lines = re.search(r"```python\n(.*?)```", docs, re.S)
        text = re.search(r"```json\n(\{.*?\n\})\n```", docs, re.S)
        assert lines and text
        self.assertLessEqual(sum(bool(line) for line in lines[1].split("\n")), 5)
        (Path(self.folder.name) / "job.json").write_text(text[1])
        program = f"import sys; sys.path[:0] = [{str(self.site)!r}]\n{lines[1]}"
        done = subprocess.run([sys.executable, "-I", "-S", "-c", program], cwd=self.folder.name, capture_output=True, text=True, check=False)  # fmt: skip
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertTrue(done.stdout.strip())
