"""`./run both FOLDER`: every job file of a folder through the command line and through the core in a browser.

The two have to say the same, byte for byte. No server is needed: the browser is given the built files themselves.
"""

import json
import mimetypes
import subprocess
import sys
import tempfile
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, Route, sync_playwright

ROOT = Path(__file__).resolve().parent.parent
DIST = ROOT / "web/dist"
HOST = "http://core.test"
FLAGS = ["--no-sandbox", "--disable-gpu"]
CHROMIUM = "/usr/bin/chromium-headless-shell"
AT_ONCE = 200


def served(route: Route) -> None:
    """Answers with a file of the build; any other address is an empty page."""
    path = DIST / route.request.url.removeprefix(f"{HOST}/static/").partition("?")[0]
    if path.is_file():
        kind = (
            "text/javascript"
            if path.suffix == ".mjs"
            else mimetypes.guess_type(path.name)[0] or "application/octet-stream"
        )
        kind = "application/wasm" if path.suffix == ".wasm" else kind
        route.fulfill(body=path.read_bytes(), content_type=kind)
    else:
        route.fulfill(body="<!doctype html><title>core</title>", content_type="text/html")


ASK = """(texts) => {
  window.core ??= new Worker(window.worker, { type: "module" });
  return Promise.all(texts.map((text, id) => new Promise((done, failed) => {
    const hear = ({ data }) => {
      if ("failed" in data) failed(new Error(data.failed));
      if (data.id !== id) return;
      window.core.removeEventListener("message", hear);
      "answer" in data ? done(data.answer) : failed(new Error(data.error));
    };
    window.core.addEventListener("message", hear);
    window.core.postMessage({ id, act: "assess", said: JSON.stringify({ text }) });
  })));
}"""


class InABrowser:
    """The core in a headless browser, as the build has it."""

    def __init__(self, page: Page) -> None:
        self.page = page
        page.route(f"{HOST}/**", served)
        page.goto(f"{HOST}/")
        worker = next((DIST / "assets").glob("worker-*.js"))
        page.evaluate("(worker) => { window.worker = worker }", f"{HOST}/static/assets/{worker.name}")

    def assess(self, texts: Sequence[str]) -> list[str]:
        """What it says of each job file, a line each."""
        answers: list[str] = self.page.evaluate(ASK, list(texts))
        return answers


def on_the_command_line(files: Sequence[Path]) -> list[str]:
    """What the command line says of each of several job files, a line each."""
    names = [str(file.resolve()) for file in files]
    # A file alone is answered over several lines: of two there is one line each.
    done = subprocess.run(
        [sys.executable, "-m", "wary", "assess", *names, names[0]],
        cwd=ROOT,
        capture_output=True,
        text=True,
        check=False,
    )
    if done.returncode not in (0, 2):
        raise RuntimeError(done.stderr)
    return done.stdout.split("\n")[: len(names)]


def differences(core: InABrowser, files: Sequence[Path]) -> list[str]:
    """Which files the two say something else of, and where it begins to be something else."""
    found = []
    for begin in range(0, len(files), AT_ONCE):
        some = files[begin : begin + AT_ONCE]
        here = core.assess([file.read_text(encoding="utf-8-sig") for file in some])
        for file, one, other in zip(some, on_the_command_line(some), here, strict=True):
            if one != other:
                at = next((place for place, (a, b) in enumerate(zip(one, other, strict=False)) if a != b), 0)
                found.append(
                    f"{file.name}: …{one[max(0, at - 30) : at + 40]}… is …{other[max(0, at - 30) : at + 40]}… in the browser"
                )
    return found


def main(folder: str) -> int:
    files = sorted(Path(folder).rglob("*.json"))
    if not files:
        print(f"There is no job file (*.json) in {folder}.")
        return 2
    with sync_playwright() as playwright:
        page = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS).new_page()
        wrong = differences(InABrowser(page), files)
    print("\n".join(wrong) or f"{len(files)} job files: the command line and the browser say the same, byte for byte.")
    return 1 if wrong else 0


def written(documents: dict[str, Any]) -> tempfile.TemporaryDirectory[str]:
    """Job files by name in a folder of their own."""
    folder = tempfile.TemporaryDirectory()
    for name, document in documents.items():
        (Path(folder.name) / f"{name}.json").write_text(json.dumps(document), encoding="utf-8")
    return folder


if __name__ == "__main__":
    if len(sys.argv) != 2:
        raise SystemExit("Say which folder of job files: ./run both FOLDER")
    raise SystemExit(main(sys.argv[1]))
