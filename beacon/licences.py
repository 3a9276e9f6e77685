"""`python -m beacon.licences TO`: the licences of what ships with the program, gathered from what is installed.

Of the page that is what `package-lock.json` holds for running it, fonts among them; of the server
what `requirements.in` asks for, and what that asks for in turn.
"""

import json
import re
import sys
from collections.abc import Iterator
from dataclasses import asdict, dataclass, replace
from importlib.metadata import Distribution, PackageNotFoundError, distribution
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
NAMED_SO = re.compile(r"(?i)^(licen[cs]e|copying|notice|ofl)")
REQUIRED = re.compile(r"^\s*([A-Za-z0-9._-]+)(?:\[([^\]]*)\])?")
COPYRIGHT = re.compile(r"(?m)^\s*Copyright .*$")
EXTRA = re.compile(r"extra\s*==\s*[\"']([^\"']+)[\"']")


@dataclass(frozen=True)
class Licence:
    """One package that ships: what it is called, its version, its licence by name, and the text of it."""

    name: str
    version: str
    of: str
    licence: str
    text: str


def of_the_page() -> Iterator[Licence]:
    """The packages of the page, from the lock file and the folder that it was installed into."""
    web = ROOT / "web"
    lock = json.loads((web / "package-lock.json").read_text(encoding="utf-8"))
    for path, said in sorted(lock["packages"].items()):
        folder = web / path
        if not path or said.get("dev") or said.get("devOptional") or not (folder / "package.json").exists():
            continue
        about = json.loads((folder / "package.json").read_text(encoding="utf-8"))
        texts = [one.read_text("utf-8", "replace") for one in sorted(folder.iterdir()) if NAMED_SO.match(one.name)]
        of = str(about.get("license") or "")
        # A package that names a licence and does not bring its text: it is taken from one that does.
        if not texts and of in STANDARD:
            texts = [(web / STANDARD[of]).read_text("utf-8")]
        yield Licence(about["name"], about["version"], "page", of, "\n\n".join(texts))
    yield from _of_the_core(web)


STANDARD = {"MPL-2.0": "node_modules/axe-core/LICENSE"}
"""Where the text of a licence is found that a package only names."""


def _of_the_core(web: Path) -> Iterator[Licence]:
    """Python itself, which runs the core in the browser; its licence is that of a package of the same makers."""
    lock = json.loads((web / "node_modules/pyodide/pyodide-lock.json").read_text("utf-8"))
    yield replace(_of(distribution("typing_extensions")), name="CPython", version=lock["info"]["python"], of="page")


def of_the_server() -> Iterator[Licence]:
    """The wheels of the server, from what is installed."""
    lines = (ROOT / "requirements.in").read_text(encoding="utf-8").splitlines()
    waiting = [(match[1], match[2] or "") for line in lines if (match := REQUIRED.match(line.partition("#")[0]))]
    seen: dict[str, Licence] = {}
    while waiting:
        name, extras = waiting.pop()
        key = re.sub(r"[-_.]+", "-", name).lower()
        try:
            found = distribution(name)
        except PackageNotFoundError:
            # Asked for on another platform only.
            continue
        wanted = {one.strip() for one in extras.split(",") if one.strip()}
        if key not in seen or wanted:
            for one in found.requires or []:
                extra = EXTRA.search(one)
                match = REQUIRED.match(one)
                if match and (extra is None or extra[1] in wanted):
                    waiting += (
                        [(match[1], match[2] or "")] if re.sub(r"[-_.]+", "-", match[1]).lower() not in seen else []
                    )
        seen[key] = _of(found)
    yield from (seen[key] for key in sorted(seen))


def _of(found: Distribution) -> Licence:
    about = found.metadata
    named = next((about[field] for field in ("License-Expression", "License") if field in about), "")
    classified = [one.rpartition("::")[2].strip() for one in about.get_all("Classifier") or [] if "License ::" in one]
    short = named if named and "\n" not in named and len(named) < 80 else ", ".join(classified)
    files = [one for one in found.files or [] if NAMED_SO.match(one.name) and ".dist-info" in str(one)]
    texts = [text for one in files if (text := found.read_text(str(one).partition(".dist-info/")[2]))]
    text = "\n\n".join(texts) or (named if "\n" in named else "")
    if not text and short == "MIT":
        # It names its licence and does not bring the text: that is the same for all but whose it is.
        text = COPYRIGHT.sub(
            f"Copyright (c) the authors of {about['Name']}", _of(distribution("django-ninja")).text, count=1
        )
    return Licence(about["Name"], about["Version"], "server", short, text)


def main(to: Path) -> None:
    """Writes the licences as JSON."""
    found = sorted((*of_the_page(), *of_the_server()), key=lambda one: (one.name.lower(), one.version))
    listed = [asdict(one) for one in found]
    to.write_text(json.dumps(listed, ensure_ascii=False), encoding="utf-8")


if __name__ == "__main__":
    main(Path(sys.argv[1]))
