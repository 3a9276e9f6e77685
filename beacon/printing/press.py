"""Pages made into PDF in a process of its own, with a limit of memory and of time.

`python -m beacon.printing.press` reads pages and writes PDF, each with its length before it; the
server keeps one such process and gives it one page at a time. What takes too much ends that process
alone, and the next page is given to a new one.
"""

import resource
import select
import struct
import subprocess
import sys
import time
import traceback
from contextlib import suppress
from threading import Lock
from typing import IO

SECONDS = 30.0
MEMORY = 1536 * 1024 * 1024
PAGES_EACH = 200
"""After so many pages a process is let go, with whatever it has gathered."""
_HEAD = struct.Struct(">cQ")
PRINTED, REFUSED, FAULT = b"p", b"r", b"f"


class TooMuch(Exception):
    """A page that takes more memory or time than there is for it."""


class Press:
    """The process that prints, begun when it is first wanted."""

    def __init__(self, base: str, seconds: float = SECONDS, memory: int = MEMORY) -> None:
        self.base, self.seconds, self.memory = base, seconds, memory
        self._lock = Lock()
        self._process: subprocess.Popen[bytes] | None = None
        self._printed = 0

    def pdf(self, page: str) -> bytes:
        """A page as PDF, readable by a screen reader. Raises TooMuch, and RuntimeError for a fault in the page."""
        with self._lock:
            process = self._running()
            try:
                return self._asked(process, page.encode())
            except (OSError, EOFError, TimeoutError) as ended:
                self._end()
                raise TooMuch from ended

    def _running(self) -> subprocess.Popen[bytes]:
        if self._process is None or self._process.poll() is not None or self._printed >= PAGES_EACH:
            self._end()
            command = [sys.executable, "-m", "beacon.printing.press", str(self.memory)]
            self._process = subprocess.Popen(
                command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, cwd=self.base, bufsize=0
            )
        return self._process

    def _end(self) -> None:
        process, self._process, self._printed = self._process, None, 0
        if process is not None:
            process.kill()
            for pipe in (process.stdin, process.stdout):
                if pipe is not None:
                    with suppress(OSError):
                        pipe.close()
            process.wait()

    def _asked(self, process: subprocess.Popen[bytes], page: bytes) -> bytes:
        assert process.stdin and process.stdout
        until = time.monotonic() + self.seconds
        process.stdin.write(_HEAD.pack(PRINTED, len(page)) + page)
        kind, length = _HEAD.unpack(_taken(process.stdout, _HEAD.size, until))
        content = _taken(process.stdout, length, until)
        self._printed += 1
        if kind == REFUSED:
            raise EOFError(content.decode(errors="replace"))
        if kind == FAULT:
            raise RuntimeError(content.decode(errors="replace"))
        return content


def _taken(pipe: IO[bytes], length: int, until: float | None = None) -> bytes:
    """So many bytes. Raises EOFError where the pipe ends before, TimeoutError where they do not come in time."""
    found = bytearray()
    while len(found) < length:
        if until is not None and not select.select([pipe], [], [], max(0.0, until - time.monotonic()))[0]:
            raise TimeoutError
        piece = pipe.read(min(1 << 16, length - len(found)))
        if not piece:
            raise EOFError
        found += piece
    return bytes(found)


def main(memory: int) -> None:
    """Prints until nobody asks any more."""
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    import logging

    from weasyprint import HTML

    for name in ("weasyprint", "fontTools"):
        logging.getLogger(name).setLevel(logging.ERROR)
    asked, said = sys.stdin.buffer, sys.stdout.buffer
    while True:
        try:
            _, length = _HEAD.unpack(_taken(asked, _HEAD.size))
            page = _taken(asked, length).decode()
        except EOFError:
            return
        try:
            kind, content = (
                PRINTED,
                bytes(HTML(string=page, base_url=f"{sys.path[0]}/").write_pdf(pdf_variant="pdf/ua-1")),
            )
        except MemoryError:
            kind, content = REFUSED, b"out of memory"
        except Exception:
            kind, content = FAULT, traceback.format_exc().encode()
        said.write(_HEAD.pack(kind, len(content)) + content)
        said.flush()


if __name__ == "__main__":
    main(int(sys.argv[1]))
