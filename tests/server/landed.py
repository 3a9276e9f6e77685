"""Databases of the versions that have landed, brought up to this one, and what their records printed."""

import gzip
import html
import json
import os
import re
import subprocess
import tarfile
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from urllib.parse import urlsplit

from django.conf import settings
from django.core.management import call_command
from django.db import connections
from django.test import override_settings

LANDED = Path(__file__).resolve().parents[1] / "landed"
VERSIONS = (1, 2, 3, 4, 5, 6)
BIN = Path(os.environ.get("PG_BIN", "/usr/lib/postgresql/15/bin"))


def texts_of(version: int) -> dict[str, dict[str, str]]:
    """What the papers of a version's records say, by organisation and number."""
    with gzip.open(LANDED / f"texts{version}.json.gz", "rt", encoding="utf-8") as file:
        return dict(json.load(file))


def plain(page: str) -> str:
    """The text of a page without its marks, as a person reads it."""
    page = re.sub(r"<(svg|style|head|script)\b.*?</\1>", " ", page, flags=re.S)
    return " ".join(html.unescape(re.sub(r"<[^>]+>", " ", page)).split())


def program(name: str, *given: str) -> None:
    """One of PostgreSQL's own programs, on the cluster of the tests."""
    url = urlsplit(os.environ["DATABASE_URL"])
    server = ["-h", url.hostname or "", "-p", str(url.port), "-U", url.username or ""]
    subprocess.run([str(BIN / name), *server, *given], check=True, capture_output=True)


@contextmanager
def brought_up(version: int) -> Iterator[None]:
    """The database of a version with this one's migrations, in the place of the tests' own for as long as this lasts."""
    own = connections["default"].settings_dict["NAME"]
    name = f"{own}_landed_{version}"
    with tempfile.TemporaryDirectory() as folder:
        dump, files = LANDED / f"v{version}.backup", Path(folder)
        if tarfile.is_tarfile(dump):
            with tarfile.open(dump) as tar:
                tar.extractall(files, filter="data")
            dump = files / "database.dump"
        program("dropdb", "--if-exists", name)
        program("createdb", name)
        try:
            program("pg_restore", "--no-owner", "--exit-on-error", "-d", name, str(dump))
            _turn(name)
            call_command("migrate", verbosity=0, interactive=False)
            # Two versions hold the same file under the same name: each has a folder of its own.
            place = {"default": settings.STORAGES["default"] | {"OPTIONS": {"location": str(files / "files")}}}
            with override_settings(STORAGES=settings.STORAGES | place):
                yield
        finally:
            _turn(own)
            program("dropdb", "--if-exists", "--force", name)


def _turn(name: str) -> None:
    connections["default"].close()
    connections["default"].settings_dict["NAME"] = name
