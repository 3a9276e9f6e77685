"""The command line: `methods`, `describe METHOD`, `assess FILE…`, `schema`."""

import argparse
import gc
import io
import json
import sys

from wary.job.file import Refusal, Refused, answered, decode, read, schema
from wary.methods import all_methods
from wary.methods.tree import Input
from wary.results import ResultField


def main(arguments: list[str] | None = None) -> int:
    """Runs one command and returns its exit status: 0, or 2 where a file was refused."""
    parser = argparse.ArgumentParser(prog="wary", description="Judges the evidence in job files.")
    commands = parser.add_subparsers(dest="command", required=True)
    commands.add_parser("methods", help="list the methods, a line each")
    describing = commands.add_parser("describe", help="inputs, results, steps and cautions of a method")
    describing.add_argument("method")
    assessing = commands.add_parser("assess", help="assess job files; - is standard input")
    assessing.add_argument("files", nargs="+", metavar="FILE")
    commands.add_parser("schema", help="the JSON Schema of a job file")
    asked = parser.parse_args(arguments)
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(encoding="utf-8", errors="backslashreplace")
    if asked.command == "methods":
        for method in all_methods().values():
            print(f"{method.key}\t{method.title}: {method.summary}")
        return 0
    if asked.command == "describe":
        return _describe(asked.method)
    if asked.command == "schema":
        print(json.dumps(schema(), indent=2, ensure_ascii=False))
        return 0
    return _assess_one(asked.files[0]) if len(asked.files) == 1 else _assess_several(asked.files)


def _text(name: str) -> str:
    try:
        if name == "-":
            return sys.stdin.buffer.read().decode("utf-8-sig")
        with open(name, encoding="utf-8-sig") as file:
            return file.read()
    except (OSError, UnicodeDecodeError) as unread:
        raise Refused([Refusal("", f"{name} cannot be read ({unread}); expected a job file in UTF-8")]) from None


def _assess_one(name: str) -> int:
    try:
        print(json.dumps(read(decode(_text(name))).judge(), indent=2, ensure_ascii=False))
    except Refused as refused:
        print(f"{name} is refused:", file=sys.stderr)
        for refusal in refused.refusals:
            print(f"  {refusal.path or 'the file'}: {refusal.text}", file=sys.stderr)
        return 2
    return 0


def _assess_several(names: list[str]) -> int:
    status = 0
    for name in names:
        try:
            line = answered(_text(name))
        except Refused as refused:
            line = json.dumps({"refused": [refusal.as_json() for refusal in refused.refusals]}, ensure_ascii=False)
        status = 2 if line.startswith('{"refused":') else status
        print(line)
    return status


def _describe(key: str) -> int:
    method = all_methods().get(key)
    if method is None:
        print(f"{key} is not a method known here; there are {', '.join(all_methods())}", file=sys.stderr)
        return 2
    about = method.describe()
    print(f"{about.key}: {about.title}\n{about.summary}\nStarting profile: {about.profile}\n\nInputs")
    _print_fields(about.inputs, "  ")
    print("\nResults")
    _print_results(about.results, "  ")
    print("\nSteps")
    for number, step in enumerate(about.steps, 1):
        print(f"  {number}. {step.title}: {step.text}")
        for item in step.items:
            print(f"     [ ] {item.text}")
        for name in step.fields:
            print(f"     - {name}")
        for caution in step.cautions:
            print(f"     ! {caution}")
    return 0


def _print_fields(rows: tuple[Input, ...], indent: str) -> None:
    for row in rows:
        units = f" in {' '.join(row.units)}" if row.units else ""
        words = f" one of {', '.join(one.word for one in row.words)}" if row.words and row.kind == "word" else ""
        print(f"{indent}{row.key}: {row.title} ({row.kind}{units}{words})")
        _print_fields(row.fields, indent + "  ")


def _print_results(rows: tuple[ResultField, ...], indent: str) -> None:
    shapes = {"single": "", "list": "a list, ", "table": "a table, ", "rows": "rows"}
    for row in rows:
        kind = "" if row.shape == "rows" else row.kind
        print(f"{indent}{row.key}: {row.title} ({shapes[row.shape]}{kind})")
        _print_results(row.fields, indent + "  ")


def run() -> None:
    """The command `wary`."""
    # What is imported stays: there is no need to look through it again and again for what could be let go of.
    gc.set_threshold(50_000)
    sys.exit(main())


if __name__ == "__main__":
    run()
