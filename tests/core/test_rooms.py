"""The rooms of the house: which may know which, and where the names of methods and machines may stand."""

import ast
import re
import unittest
from functools import cache
from pathlib import Path

from wary.methods import all_methods

ROOT = Path(__file__).parents[2]

CORE = [
    "clean",
    "log",
    "discovery",
    "quantities",
    "fields",
    "typed",
    "results",
    "live",
    "lines",
    "reading",
    "rules",
    "acts",
    "suspects",
    "drawings",
    "methods",
    "machines",
    "simulators",
    "references",
    "job",
    "sums",
    "loads",
    "practising",
    "device",
]
"""The rooms of the core; a room knows those before it and, of those after it, none."""
SERVER = [
    "policy", "whole", "own_process",
    "licences", "database", "backups", "problems", "validation", "metrics", "outside", "tables", "downloads", "background", "people", "plant", "links", "bench", "attachments",
    "records", "history", "printing", "loads", "planner", "setting_up", "system", "practice", "programs", "mail", "accounts", "archive",
    "demo",
]  # fmt: skip
OPEN = {
    "wary/__main__.py",
    "wary/simulators/follow.py",
    "wary/simulators/followed.py",
    "beacon/api.py",
    "beacon/urls.py",
    "beacon/asgi.py",
    "beacon/settings.py",
    "beacon/web.py",
}
"""Files that put the rooms together."""


def sources(room: str) -> list[Path]:
    return [path for path in sorted((ROOT / room).rglob("*.py")) if "migrations" not in path.parts]


@cache
def tree_of(path: Path) -> ast.Module:
    """The tree of a file of Python, read once for all who ask; nobody changes it."""
    return ast.parse(path.read_text(encoding="utf-8"))


def imports(path: Path) -> list[str]:
    """The modules that a file imports, those for the types alone as well."""
    found = []
    for node in ast.walk(tree_of(path)):
        if isinstance(node, ast.Import):
            found += [alias.name for alias in node.names]
        elif isinstance(node, ast.ImportFrom):
            if node.level:
                raise AssertionError(f"{path}: a relative import hides its room")
            found += [node.module or "", *(f"{node.module}.{alias.name}" for alias in node.names)]
    return found


def named(path: Path) -> str:
    parts = path.relative_to(ROOT).with_suffix("").parts
    return ".".join(parts[:-1] if parts[-1] == "__init__" else parts)


def room_of(module: str, package: str) -> str | None:
    parts = module.split(".")
    return parts[1] if parts[0] == package and len(parts) > 1 else None


class Rooms(unittest.TestCase):
    def test_imports_go_one_way(self) -> None:
        for package, rooms in (("wary", CORE), ("beacon", SERVER)):
            for path in sources(package):
                if str(path.relative_to(ROOT)) in OPEN or path.parent == ROOT / package and path.stem == "__init__":
                    continue
                here = room_of(named(path), package)
                self.assertIn(here, rooms, f"{path} stands in no room")
                for module in imports(path):
                    there = room_of(module, package)
                    if there in rooms:
                        self.assertLessEqual(
                            rooms.index(there), rooms.index(str(here)), f"{path.relative_to(ROOT)} imports {module}"
                        )

    def test_the_server_computes_no_weight(self) -> None:
        for path in sources("beacon"):
            where = path.relative_to(ROOT)
            if where.parts[1] == "demo":
                continue
            text = path.read_text(encoding="utf-8")
            for node in ast.walk(tree_of(path)):
                self.assertFalse(
                    isinstance(node, ast.Attribute) and node.attr == "si", f"{where} computes with figures"
                )
            for name in ("from_si", "to_si", "wary.rules.evidence", "wary.rules.planning", "wary.rules.slips"):
                self.assertNotIn(name, text, f"{where} computes with {name}")

    def test_modules_of_the_api_do_not_know_each_other(self) -> None:
        apis = {named(path) for path in sources("beacon") if path.stem == "api" or path.stem.endswith("_api")}
        for path in sources("beacon"):
            if named(path) in apis and named(path) != "beacon.api":
                self.assertFalse(apis & set(imports(path)), f"{path.relative_to(ROOT)} knows another module of the API")

    def test_the_last_rooms_of_the_server_do_not_know_each_other(self) -> None:
        for here, not_there in (("planner", "practice"), ("practice", "planner"), ("planner", "demo")):
            for path in sources(f"beacon/{here}"):
                self.assertNotIn(not_there, [room_of(module, "beacon") for module in imports(path)], str(path))

    def test_no_file_stands_in_a_circle(self) -> None:
        files = {named(path): path for package in ("wary", "beacon") for path in sources(package)}
        knows = {name: {one for one in imports(path) if one in files and one != name} for name, path in files.items()}
        seen: dict[str, int] = {}

        def walk(name: str, way: tuple[str, ...]) -> None:
            if seen.get(name) == 2:
                return
            self.assertNotIn(name, way, f"a circle: {' → '.join((*way, name))}")
            for other in sorted(knows[name]):
                # A package that only lists what is in it is looked through by importlib, not by import.
                walk(other, (*way, name))
            seen[name] = 2

        for name in files:
            walk(name, ())

    def test_the_core_is_nothing_that_a_browser_could_not_run(self) -> None:
        allowed = {
            "abc", "ast", "bisect", "collections", "contextlib", "csv", "dataclasses", "datetime", "decimal", "functools", "gc", "importlib",
            "io", "itertools", "json", "math", "operator", "pkgutil", "random", "re", "statistics", "sys", "types", "typing",
            "uuid", "pathlib", "argparse", "os", "pydantic", "pydantic_core", "fractions", "wary", "copy", "enum", "hashlib", "string",
        }  # fmt: skip
        for path in sources("wary"):
            for module in imports(path):
                self.assertIn(module.split(".")[0], allowed, f"{path.relative_to(ROOT)} imports {module}")

    def test_methods_do_not_know_each_other_and_machines_do_not_know_jobs(self) -> None:
        files = [path for path in sources("wary/methods") if "METHOD = " in path.read_text(encoding="utf-8")]
        self.assertEqual(len(files), len(all_methods()))
        modules = {named(path) for path in files}
        for path in files:
            self.assertFalse(modules & set(imports(path)), f"{path} knows another method")


class Web(unittest.TestCase):
    """The files of the page."""

    SOURCE = ROOT / "web/src"
    IMPORT = re.compile(r"""(?:from|import)\s*\(?\s*["'](\.{1,2}/[^"']+)["']""")

    def files(self) -> dict[Path, str]:
        found = [path for path in self.SOURCE.rglob("*.ts*") if path.name != "schema.d.ts"]
        return {path.resolve(): path.read_text(encoding="utf-8") for path in sorted(found)}

    def test_no_file_stands_in_a_circle(self) -> None:
        files = self.files()

        def target(path: Path, said: str) -> Path | None:
            base = (path.parent / said).resolve()
            return next((one for one in (base.with_suffix(".ts"), base.with_suffix(".tsx")) if one in files), None)

        # A page is fetched when it is first shown: what names it then stands in no circle with it.
        knows = {
            path: {
                one for said in self.IMPORT.findall(re.sub(r"import\(.*?\)", "", text)) if (one := target(path, said))
            }
            for path, text in files.items()
        }
        done: set[Path] = set()

        def follow(path: Path, way: tuple[Path, ...]) -> None:
            if path in done:
                return
            names = " → ".join(one.name for one in (*way, path))
            self.assertNotIn(path, way, f"a circle: {names}")
            for other in sorted(knows[path]):
                follow(other, (*way, path))
            done.add(path)

        for path in files:
            follow(path, ())

    def test_the_grammar_of_paths_stands_in_one_place(self) -> None:
        takes_apart = re.compile(r"""(?:split|indexOf|lastIndexOf)\(["'][./]["']\)""")
        may = {"job/path.ts", "ahead.ts", "ui/words.ts"}
        for path, text in self.files().items():
            where = str(path.relative_to(self.SOURCE))
            if where not in may:
                self.assertIsNone(takes_apart.search(text), f"{where} takes a path apart; `job/path.ts` does that")

    def test_no_component_names_a_result(self) -> None:
        names = {one.key for method in all_methods().values() for one in method.describe().results if "_" in one.key}
        # Some are fields of the API too, under the same word.
        names -= {"mean_error", "minimum_runs", "predicted_error", "gate_opening", "mass_per_revolution"}
        for path, text in self.files().items():
            for said in re.findall(r"[\"'`.]([a-z]+(?:_[a-z]+)+)\b", text):
                self.assertNotIn(
                    said,
                    names - {"predicted_error", "percent_change", "test_load"},
                    f"{path.name} names the result {said}",
                )
