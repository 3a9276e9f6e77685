"""The command line, run as its users run it."""

import json
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

from tests.core.jobs import AGREEING, belt

ROOT = Path(__file__).parents[2]


def wary(*arguments: str, typed: str = "") -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "wary", *arguments]
    return subprocess.run(command, input=typed, capture_output=True, text=True, cwd=ROOT, encoding="utf-8")


class CommandLine(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.good, self.bad = Path(folder.name, "good.json"), Path(folder.name, "bad.json")
        self.good.write_text(json.dumps(belt(AGREEING, factor=1.1420, factor_decimals=4)))
        self.bad.write_text(json.dumps(belt([("20", "twenty")])))

    def test_one_file_is_assessed_and_exits_zero_whatever_the_call(self) -> None:
        done = wary("assess", str(self.good))
        self.assertEqual(done.returncode, 0)
        self.assertEqual(json.loads(done.stdout)["results"]["new_factor"]["value"], 1.1262)
        self.assertEqual(json.loads(wary("assess", "-", typed="{}").stdout)["call"], "not-ready")

    def test_a_refused_file_exits_two_and_says_which_field(self) -> None:
        done = wary("assess", str(self.bad))
        self.assertEqual((done.returncode, done.stdout), (2, ""))
        self.assertIn("inputs.runs[0].indicated", done.stderr)
        self.assertEqual(wary("assess", "no-such-file.json").returncode, 2)

    def test_several_files_give_a_line_each_in_their_order(self) -> None:
        done = wary("assess", str(self.good), str(self.bad), str(self.good))
        lines = [json.loads(line) for line in done.stdout.splitlines()]
        self.assertEqual(done.returncode, 2)
        self.assertEqual(lines[0]["call"], "adjust")
        self.assertEqual(lines[1]["refused"][0]["path"], "inputs.runs[0].indicated")
        self.assertEqual(lines[2], lines[0])

    def test_methods_describe_and_schema(self) -> None:
        self.assertIn("belt-material-test", wary("methods").stdout)
        described = wary("describe", "belt-material-test").stdout
        for word in ("rated_rate", "As found", "Isolate"):
            self.assertIn(word, described)
        self.assertEqual(wary("describe", "guess").returncode, 2)
        self.assertIn("$defs", json.loads(wary("schema").stdout))

    def test_the_core_needs_neither_django_nor_numpy(self) -> None:
        code = "import sys, wary.job.file; print([m for m in ('django', 'numpy', 'scipy') if m in sys.modules])"
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, cwd=ROOT)
        self.assertEqual(done.stdout.strip(), "[]")
