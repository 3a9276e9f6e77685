"""PostgreSQL clusters of a test's own, begun and ended by it, with a copy of what the tests' database holds."""

import os
import shutil
import socket
import subprocess
import tempfile
from contextlib import suppress
from pathlib import Path
from typing import Any

import psycopg
from django.db import connection

BIN = os.environ.get("PG_BIN", "/usr/lib/postgresql/15/bin")
SECRET = "only-on-loopback"


def free_port() -> int:
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        return int(free.getsockname()[1])


def as_postgres(*command: str, check: bool = True) -> subprocess.CompletedProcess[str]:
    """Runs a program of PostgreSQL, which refuses to be run by root."""
    given = ["runuser", "-u", "postgres", "--", *command] if os.geteuid() == 0 else list(command)
    done = subprocess.run(given, cwd="/", capture_output=True, text=True)
    if check and done.returncode:
        raise AssertionError(f"{command[0]}: {done.stdout[-500:]} {done.stderr[-500:]}")
    return done


class Cluster:
    """One PostgreSQL server on loopback, in a folder of its own."""

    def __init__(self, folder: Path, port: int = 0, options: str = "") -> None:
        self.folder, self.port, self.options = folder, port or free_port(), options

    def made(self) -> "Cluster":
        """Makes an empty one, and begins it."""
        password = self.folder.parent / "password"
        password.write_text(SECRET)
        password.chmod(0o644)
        as_postgres(f"{BIN}/initdb", "-D", str(self.folder), "-U", "beacon", "--auth=scram-sha-256", f"--pwfile={password}", "-E", "UTF8", "--locale=C.UTF-8")  # fmt: skip
        self.begin()
        return self

    def begin(self) -> None:
        given = f"-c port={self.port} -c listen_addresses=127.0.0.1 -c unix_socket_directories='' {self.options}"
        as_postgres(f"{BIN}/pg_ctl", "-D", str(self.folder), "-l", str(self.folder / "log"), "-w", "start", "-o", given)

    def begin_again(self) -> None:
        """Begins it where it is not running."""
        if as_postgres(f"{BIN}/pg_ctl", "-D", str(self.folder), "status", check=False).returncode:
            with suppress(AssertionError):
                self.begin()

    def kill(self) -> None:
        """Ends it as a power cut would."""
        as_postgres(f"{BIN}/pg_ctl", "-D", str(self.folder), "-m", "immediate", "-w", "stop", check=False)

    def url(self, *others: "Cluster", name: str = "beacon") -> str:
        places = ",".join(f"127.0.0.1:{one.port}" for one in (self, *others))
        return f"postgres://beacon:{SECRET}@{places}/{name}"

    def connect(self, name: str = "beacon") -> psycopg.Connection[Any]:
        return psycopg.connect(self.url(name=name), autocommit=True, connect_timeout=3)

    def ask(self, question: str, name: str = "beacon") -> Any:
        with self.connect(name) as there:
            found = there.execute(question).fetchone()  # type: ignore[call-overload]
        return found[0] if found else None


def room() -> Path:
    """A folder for clusters, which PostgreSQL's own user may enter."""
    folder = Path(tempfile.mkdtemp(prefix="beacon-clusters-"))
    if os.geteuid() == 0:
        shutil.chown(folder, "postgres", "postgres")
    return folder


def copied_into(there: Cluster) -> None:
    """Fills the database `beacon` of a cluster with what the tests' database holds."""
    dump = there.folder.parent / "dump"
    ours = f"{os.environ['DATABASE_URL'].rpartition('/')[0]}/{connection.settings_dict['NAME']}"
    subprocess.run([f"{BIN}/pg_dump", "-Fc", "-f", str(dump), ours], check=True)
    with there.connect("postgres") as at:
        at.execute("create database beacon")
    subprocess.run([f"{BIN}/pg_restore", "--no-owner", "-d", there.url(), str(dump)], check=True)
