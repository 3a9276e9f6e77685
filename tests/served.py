"""The application as it is served for real, on the tests' database."""

import ctypes
import os
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from urllib.request import urlopen

from django.conf import settings

_kept: list[tuple[str, "subprocess.Popen[bytes]"]] = []


def server_that_streams() -> str:
    """The address of a real server process that goes on for all tests of this process, until `end_servers`."""
    if not _kept:
        _kept.append(begun())
    return _kept[0][0]


def end_servers() -> None:
    """Ends what goes on, so that nobody holds the tests' database any more."""
    while _kept:
        _, server = _kept.pop()
        server.kill()
        server.wait()


def _dies_with_us() -> None:
    """The server of a test process that ends in any way ends with it."""
    ctypes.CDLL(None).prctl(1, signal.SIGKILL)


@contextmanager
def served(**more: str) -> Iterator[str]:
    """A server process of its own; gives its address. Streams work here, as they do not in a threaded one.

    What is done in the background is left to the test, unless `more` of its environment says otherwise.
    """
    address, server = begun(**more)
    try:
        yield address
    finally:
        server.terminate()
        server.wait()


def database_of_tests() -> str:
    """The address of this process's own database."""
    return f"{os.environ['DATABASE_URL'].rpartition('/')[0]}/{settings.DATABASES['default']['NAME']}"


def begun(**more: str) -> tuple[str, "subprocess.Popen[bytes]"]:
    """A server process and its address; whoever begins it ends it."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    environment = os.environ | {
        "DATABASE_URL": database_of_tests(),
        "BEACON_POOL": "1",
        "BEACON_REQUEST_LOG": "0",
        "BEACON_URL": f"http://127.0.0.1:{port}",
        "BEACON_WORKS": "0",
        **more,
    }
    command = [
        sys.executable,
        "-m",
        "uvicorn",
        "beacon.asgi:application",
        "--port",
        str(port),
        "--log-level",
        "warning",
    ]
    command += ["--timeout-graceful-shutdown", "1"]
    # What a server says of a database that a test takes away from it is no news.
    quiet = subprocess.DEVNULL if {"BEACON_REPLICA", "BEACON_WORKS"} & set(more) else None
    server = subprocess.Popen(command, env=environment, preexec_fn=_dies_with_us, stderr=quiet)
    address = f"http://127.0.0.1:{port}"
    until_it_answers(f"{address}/api/ready", server)
    return address, server


def until_it_answers(address: str, server: "subprocess.Popen[bytes]") -> None:
    """Waits for a server that was just begun; a busy machine may take its time.

    Raises:
        AssertionError: It ended, or said nothing for two minutes.
    """
    until = time.monotonic() + 120
    while time.monotonic() < until:
        with suppress(OSError), urlopen(address, timeout=5):
            return
        if server.poll() is not None:
            break
        time.sleep(0.1)
    raise AssertionError(f"the server does not answer at {address}")
