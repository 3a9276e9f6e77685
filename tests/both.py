"""`./run both FOLDER`: every job file of a folder through the command line and through the core in a browser.

The two have to say the same, byte for byte. No server is needed: the browser is given the built files themselves.
"""

import json
import subprocess
import sys
import tempfile
import threading
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, sync_playwright

ROOT = Path(__file__).resolve().parent.parent
DIST = ROOT / "web/dist"
FLAGS = ["--no-sandbox", "--disable-gpu"]
CHROMIUM = "/usr/bin/chromium-headless-shell"
AT_ONCE = 200


class Files(SimpleHTTPRequestHandler):
    """Answers with a file of the build; any other address is an empty page."""

    extensions_map = SimpleHTTPRequestHandler.extensions_map | {".mjs": "text/javascript", ".wasm": "application/wasm"}
    protocol_version = "HTTP/1.1"

    def translate_path(self, path: str) -> str:
        return str(DIST / path.removeprefix("/static/").partition("?")[0])

    def do_GET(self) -> None:
        if self.path.startswith("/static/"):
            return super().do_GET()
        page = b"<!doctype html><title>core</title>"
        self.send_response(200)
        self.send_header("Content-Type", "text/html")
        self.send_header("Content-Length", str(len(page)))
        self.end_headers()
        self.wfile.write(page)

    def log_message(self, *given: object) -> None:
        """What was asked for is no news."""


@contextmanager
def files_served(handler: type[Files] = Files) -> Iterator[str]:
    """The built files at an address of their own."""
    server = ThreadingHTTPServer(("127.0.0.1", 0), handler)
    server.daemon_threads = True
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        yield f"http://127.0.0.1:{server.server_port}"
    finally:
        server.shutdown()
        server.server_close()


BEGIN = """(worker) => new Promise((done, failed) => {
  window.core = new Worker(worker, { type: "module" });
  window.core.onerror = (event) => failed(new Error(event.message));
  window.core.onmessage = ({ data }) => ("ready" in data ? done(data) : failed(new Error(data.failed)));
})"""
ASK = """(asked) => {
  const { core } = window;
  return Promise.all(asked.map(([act, said], id) => new Promise((done) => {
    const hear = ({ data }) => {
      if (data.id !== id) return;
      core.removeEventListener("message", hear);
      done(data.answer ?? data.error);
    };
    core.addEventListener("message", hear);
    core.postMessage({ id, act, said });
  })));
}"""


class InABrowser:
    """The core in a headless browser, as the build has it."""

    def __init__(self, page: Page, address: str) -> None:
        self.page = page
        page.goto(address)
        worker = next((DIST / "assets").glob("worker-*.js"))
        self.began = page.evaluate(BEGIN, f"/static/assets/{worker.name}")
        """What it said once it was there."""

    def call(self, asked: Sequence[tuple[str, dict[str, Any]]]) -> list[str]:
        """What it answers to acts with their arguments, one after the other; an error in its words."""
        answers: list[str] = self.page.evaluate(ASK, [[act, json.dumps(said)] for act, said in asked])
        return answers

    def assess(self, texts: Sequence[str]) -> list[str]:
        """What it says of each job file, a line each."""
        return self.call([("assess", {"text": text}) for text in texts])


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
    with sync_playwright() as playwright, files_served() as address:
        page = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS).new_page()
        wrong = differences(InABrowser(page, address), files)
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
