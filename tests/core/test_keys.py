"""Where the key of a method or of a kind of machine may stand, and that what a method says of itself is there."""

import ast
import json
import re
import unittest

from tests.core.test_rooms import ROOT, sources, tree_of
from wary.machines import all_machines
from wary.methods import all_methods
from wary.rules.profiles import STARTING
from wary.sums import SUMS


class Words(unittest.TestCase):
    """The key of a method stands in its own file and where jobs are told; a kind of machine where machines are."""

    METHODS_MAY = ("wary/methods", "wary/machines", "wary/simulators", "wary/job", "wary/sums", "beacon/demo")
    KINDS_MAY = (*METHODS_MAY, "wary/rules/profiles.py", "wary/drawings.py", "web/src/drawings")

    def strings(self) -> list[tuple[str, str]]:
        """Every string of the program: the file that it stands in, and what it says."""
        found: list[tuple[str, str]] = []
        for path in [*sources("wary"), *sources("beacon")]:
            tree = tree_of(path)
            said = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
            where = str(path.relative_to(ROOT))
            for node in ast.walk(tree):
                if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in said:
                    found.append((where, node.value))
        for path in sorted((ROOT / "web/src").rglob("*.ts*")):
            if path.name != "schema.d.ts":
                where = str(path.relative_to(ROOT))
                text = re.sub(r"^import .*$|/\*.*?\*/|//.*$", "", path.read_text(encoding="utf-8"), flags=re.M | re.S)
                found += [(where, one) for one in re.findall(r"[\"'`]([^\"'`\n]*)[\"'`]", text)]
        return found

    def test_no_key_of_a_method_outside_its_rooms(self) -> None:
        keys = set(all_methods())
        for where, text in self.strings():
            if not where.startswith(self.METHODS_MAY):
                self.assertNotIn(text, keys, f"{where} knows the method “{text}”")

    def test_no_kind_of_machine_outside_its_rooms(self) -> None:
        # `bench` and `chain` are words of the program too, of a screen and of seals.
        kinds = set(all_machines()) - {"bench", "chain"}
        for where, text in self.strings():
            if not where.startswith(self.KINDS_MAY) and not where.startswith("beacon/practice"):
                self.assertNotIn(text, kinds, f"{where} knows the kind “{text}”")

    def test_a_method_names_no_kind_of_machine(self) -> None:
        # The others are words of the trade too: names of profiles, of steps, of what hangs where.
        kinds = {kind for kind in all_machines() if "-" in kind and kind not in STARTING}
        for where, text in self.strings():
            if where.startswith("wary/methods"):
                self.assertNotIn(text, kinds, f"{where} knows the kind “{text}”")

    def test_no_name_is_put_together_to_reach_an_attribute(self) -> None:
        for path in sources("wary"):
            for node in ast.walk(tree_of(path)):
                if (
                    isinstance(node, ast.Call)
                    and isinstance(node.func, ast.Name)
                    and node.func.id in ("getattr", "setattr")
                ):
                    self.assertNotIsInstance(node.args[1], (ast.JoinedStr, ast.BinOp), f"{path}:{node.lineno}")

    def test_no_title_of_a_method_is_compared_anywhere(self) -> None:
        titles = {method.title for method in all_methods().values()} | {one.title for one in all_machines().values()}
        for where, text in self.strings():
            if not where.startswith((*self.METHODS_MAY, "wary/")):
                self.assertNotIn(text, titles, f"{where} says “{text}” itself")

    def test_every_key_is_its_file_s_name(self) -> None:
        for key, method in all_methods().items():
            *_, folder, name = type(method).__module__.split(".")
            self.assertEqual((folder if name == "judging" else name).replace("_", "-"), key)
        for key, machine in all_machines().items():
            self.assertEqual(type(machine).__module__.rpartition(".")[2].replace("_", "-"), key)


class WhatTheySay(unittest.TestCase):
    """What methods and machines say of themselves fits together."""

    def test_a_method_s_steps_name_inputs_that_it_has(self) -> None:
        for method in all_methods().values():
            described = method.describe()
            inputs = {one.key: one for one in described.inputs}
            for step in described.steps:
                where = f"{method.key}, {step.key}"
                for key in step.fields:
                    self.assertIn(key, inputs, where)
                if step.kind == "rows":
                    self.rows(step.rows, inputs, where)
                if step.kind == "tally":
                    self.assertEqual(inputs[step.list].kind, "list", where)
                if step.kind == "sheet":
                    self.assertEqual(
                        {one.key for one in inputs[step.list].fields} >= {"name", "found", "left"}, True, where
                    )
            self.assertEqual(described.steps[-1].kind, "close", f"{method.key} is closed at its end")
            keys = [step.key for step in described.steps]
            self.assertEqual(len(keys), len(set(keys)), method.key)

    def rows(self, rows, inputs, where: str) -> None:  # type: ignore[no-untyped-def]
        self.assertIn(rows.list, inputs, where)
        inside = {one.key: one for one in inputs[rows.list].inside()}
        ways = [key for way in rows.either for key in way.split("+")]
        for key in (*rows.typed, *rows.ends, *ways, *rows.where):
            self.assertIn(key, inside, where)
        for column in rows.columns:
            self.assertTrue(column.remark or column.key in inside, f"{where}: {column.key}")
        if rows.inner:
            self.rows(rows.inner, inside, where)

    def test_a_method_is_for_machines_that_there_are_and_each_machine_has_its_visit(self) -> None:
        for method in all_methods().values():
            self.assertTrue(any(method.key in machine.does for machine in all_machines().values()), method.key)
            for item in method.makes_stale:
                self.assertLessEqual(set(item.by), set(all_methods()), method.key)
        for machine in all_machines().values():
            self.assertLessEqual({part.method for part in machine.visit}, set(machine.methods()), machine.key)
            self.assertEqual([part.key for part in machine.visit].count(""), 1, machine.key)
            for kind, event in machine.events.items():
                self.assertLessEqual(set(event.stale), set(all_methods()), f"{machine.key}, {kind}")
            for plate in machine.plates:
                self.assertTrue(plate.title and plate.kind, machine.key)

    def test_a_method_says_what_to_do_where_something_is_missing(self) -> None:
        from wary.job.file import read

        for key in all_methods():
            answer = read({"method": key, "inputs": {}}).assess()
            self.assertEqual(answer.call, "not-ready", key)
            for reason in answer.reasons:
                self.assertNotIn("still missing", reason.text, key)
                self.assertRegex(reason.text, r"[.!]$", f"{key}: {reason.text}")

    def test_a_sum_that_is_carried_into_a_job_names_inputs_of_its_method(self) -> None:
        for one in SUMS.values():
            described = one.describe()
            if described.method:
                inputs = {place.key for place in all_methods()[described.method].describe().inputs}
                self.assertLessEqual({to.split(".")[0] for to in described.carries.values()}, inputs, described.key)

    def test_what_a_method_describes_can_be_written_as_json(self) -> None:
        for method in all_methods().values():
            text = json.dumps(method.describe().model_dump(mode="json"))
            self.assertIn(method.title, text)
