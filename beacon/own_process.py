"""Work that may take too much, done in a process of its own with a limit of memory and of time.

`python -m beacon.own_process WORK MEMORY CPU` imports the module `WORK` and does its `work(bytes) -> bytes`
for each piece that it is given, each with its length before it. The server keeps one such process for a kind of
work; what takes too much ends that process alone, and the next piece is given to a new one. It knows nothing of
the server's secrets: neither its settings nor its database.
"""

import importlib
import math
import os
import resource
import select
import struct
import subprocess
import sys
import time
import traceback
from collections import defaultdict
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from threading import Lock
from typing import IO

ROOT = Path(__file__).resolve().parent.parent
MB = 1024 * 1024
GIVEN = (
    "PATH",
    "HOME",
    "LANG",
    "LC_ALL",
    "TZ",
    "TMPDIR",
    "XDG_CACHE_HOME",
    "FONTCONFIG_FILE",
    "FONTCONFIG_PATH",
    "LD_LIBRARY_PATH",
)
"""What of the environment such a process is told."""
WAITS = 30.0
"""So many seconds somebody waits until it is their turn."""
_HEAD = struct.Struct(">cQ")
DONE, REFUSED, TOO_MUCH, FAULT = b"d", b"r", b"m", b"f"


class TooMuch(Exception):
    """Work that takes more memory or time than there is for it."""


class NoTurn(TooMuch):
    """Others' work came first for so long that this was not begun."""


class Refused(ValueError):
    """What the work says of what it was given: a sentence for whoever gave it."""


class OwnProcess:
    """One kind of work in a process of its own, begun when it is first wanted.

    `work` names the module, `seconds` bounds one piece by the clock and `cpu` by what it uses of a core, `memory`
    is how many bytes it may take beside what its module takes, and after `each` pieces the process is let go.
    """

    def __init__(
        self, work: str, *, seconds: float, memory: int, cpu: float = 0.0, each: int = 200, waits: float = WAITS
    ) -> None:
        self.work, self.seconds, self.memory, self.cpu, self.each = work, seconds, memory, cpu, each
        self.waits = waits
        self._turn = Lock()
        self._turns: dict[str, Lock] = defaultdict(Lock)
        self._waiting: dict[str, int] = defaultdict(int)
        self._counts = Lock()
        self._process: subprocess.Popen[bytes] | None = None
        self._done = 0

    def asked(self, piece: bytes, whose: str = "") -> bytes:
        """What the work makes of a piece. Raises Refused, TooMuch, and RuntimeError for a fault in the work.

        Of one person one piece at a time waits with those of others, however many they sent.
        """
        until = time.monotonic() + self.waits
        with self._turn_of(whose, until):
            process = self._running()
            try:
                kind, content = self._answer(process, piece)
            except (OSError, EOFError, TimeoutError) as ended:
                self.end()
                raise TooMuch from ended
        if kind == REFUSED:
            raise Refused(content.decode())
        if kind == TOO_MUCH:
            raise TooMuch
        if kind == FAULT:
            raise RuntimeError(content.decode(errors="replace"))
        return content

    @contextmanager
    def _turn_of(self, whose: str, until: float) -> Iterator[None]:
        with self._counts:
            own = self._turns[whose]
            self._waiting[whose] += 1
        try:
            for lock in (own, self._turn):
                if not lock.acquire(timeout=max(0.0, until - time.monotonic())):
                    if lock is self._turn:
                        own.release()
                    raise NoTurn
            try:
                yield
            finally:
                self._turn.release()
                own.release()
        finally:
            with self._counts:
                self._waiting[whose] -= 1
                if not self._waiting[whose]:
                    del self._waiting[whose], self._turns[whose]

    def _running(self) -> subprocess.Popen[bytes]:
        if self._process is None or self._process.poll() is not None or self._done >= self.each:
            self.end()
            command = [sys.executable, "-m", "beacon.own_process", self.work, str(self.memory), str(self.cpu)]
            told = {key: os.environ[key] for key in GIVEN if key in os.environ}
            self._process = subprocess.Popen(
                command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, cwd=ROOT, env=told, bufsize=0
            )
        return self._process

    def end(self) -> None:
        """Ends the process, with whatever it has gathered."""
        process, self._process, self._done = self._process, None, 0
        if process is not None:
            process.kill()
            for pipe in (process.stdin, process.stdout):
                if pipe is not None:
                    with suppress(OSError):
                        pipe.close()
            process.wait()

    def _answer(self, process: subprocess.Popen[bytes], piece: bytes) -> tuple[bytes, bytes]:
        assert process.stdin and process.stdout
        until = time.monotonic() + self.seconds
        process.stdin.write(_HEAD.pack(DONE, len(piece)))
        _given(process.stdin, piece)
        kind, length = _HEAD.unpack(_taken(process.stdout, _HEAD.size, until))
        content = _taken(process.stdout, length, until)
        self._done += 1
        return kind, content


def _given(pipe: IO[bytes], piece: bytes) -> None:
    left = memoryview(piece)
    while left:
        left = left[pipe.write(left) :]


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


def _bounded(memory: int) -> None:
    taken = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (taken + memory, taken + memory))


def _bounded_in_time(cpu: float) -> None:
    """From here on a process may use so many seconds of a core; one that uses more is ended by the system."""
    used = resource.getrusage(resource.RUSAGE_SELF)
    most = math.ceil(used.ru_utime + used.ru_stime + cpu)
    resource.setrlimit(resource.RLIMIT_CPU, (most, resource.RLIM_INFINITY))


def main(name: str, memory: int, cpu: float) -> None:
    """Works until nobody asks any more."""
    work = importlib.import_module(name).work
    _bounded(memory)
    asked, said = sys.stdin.buffer, sys.stdout.buffer
    # What a library prints is no answer.
    sys.stdout = sys.stderr
    while True:
        try:
            _, length = _HEAD.unpack(_taken(asked, _HEAD.size))
            piece = _taken(asked, length)
        except EOFError:
            return
        if cpu:
            _bounded_in_time(cpu)
        try:
            kind, content = DONE, work(piece)
        except Refused as why:
            kind, content = REFUSED, str(why).encode()
        except MemoryError:
            kind, content = TOO_MUCH, b""
        except Exception:
            kind, content = FAULT, traceback.format_exc().encode()
        del piece
        said.write(_HEAD.pack(kind, len(content)) + content)
        said.flush()


if __name__ == "__main__":
    # The module that is imported and this one have to mean the same by what is refused.
    from beacon.own_process import main as begun

    begun(sys.argv[1], int(sys.argv[2]), float(sys.argv[3]))
