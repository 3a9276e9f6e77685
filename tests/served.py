"""The application as it is served for real, on the tests' database."""

import os
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from urllib.request import urlopen

from django.conf import settings


@contextmanager
def served() -> Iterator[str]:
    """A server process of its own; gives its address. Streams work here, as they do not in a threaded one."""
    name = settings.DATABASES["default"]["NAME"]
    address = os.environ["DATABASE_URL"].rpartition("/")[0]
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    environment = os.environ | {
        "DATABASE_URL": f"{address}/{name}",
        "BEACON_POOL": "1",
        "BEACON_REQUEST_LOG": "0",
        "BEACON_URL": f"http://127.0.0.1:{port}",
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
    server = subprocess.Popen([*command, "--timeout-graceful-shutdown", "1"], env=environment)
    try:
        for _ in range(300):
            with suppress(OSError), urlopen(f"http://127.0.0.1:{port}/api/ready", timeout=2):
                break
            time.sleep(0.1)
        yield f"http://127.0.0.1:{port}"
    finally:
        server.terminate()
        server.wait()
