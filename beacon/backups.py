"""Backups: one file with the database as of one moment and every file that it speaks of, looked at whole before it is put back.

`python -m beacon.backups make FILE` and `put FILE`; the database is DATABASE_URL's, its programs lie under PG_BIN.
"""

import hashlib
import json
import os
import subprocess
import sys
import tarfile
import tempfile
from collections.abc import Iterator
from pathlib import Path
from urllib.parse import urlsplit

MANIFEST, DUMP, FILES = "manifest.json", "database.dump", "files"
FORMAT = "wary-beacon/backup"
BIN = Path(os.environ.get("PG_BIN", "/usr/lib/postgresql/15/bin"))


class Unfit(Exception):
    """A backup that cannot be made or put back; its text says why, and what to do."""


def _database() -> tuple[list[str], str]:
    """How the programs reach the server, and the name of the database."""
    url = urlsplit(os.environ["DATABASE_URL"])
    os.environ.setdefault("PGPASSWORD", url.password or "")
    return ["-h", url.hostname or "127.0.0.1", "-p", str(url.port or 5432), "-U", url.username or ""], url.path[1:]


def _run(program: str, *given: str) -> str:
    done = subprocess.run([str(BIN / program), *given], capture_output=True, text=True)
    if done.returncode:
        raise Unfit(f"{program}: {done.stderr.strip().splitlines()[-1] if done.stderr.strip() else 'failed'}")
    return done.stdout


def _sql(database: str, text: str) -> str:
    server, _ = _database()
    return _run("psql", *server, "-d", database, "-qtAv", "ON_ERROR_STOP=1", "-c", text).strip()


def _digest(path: Path) -> str:
    hashed = hashlib.sha256()
    with path.open("rb") as file:
        while piece := file.read(1 << 20):
            hashed.update(piece)
    return hashed.hexdigest()


def _folder() -> Path:
    return Path(os.environ.get("BEACON_FILES", "var/files"))


def _files(folder: Path) -> Iterator[Path]:
    """The files of the folder; those in a bucket stay there, under the store's own versions."""
    return (path for path in sorted(folder.rglob("*")) if path.is_file()) if folder.exists() else iter(())


def make(to: Path) -> str:
    """Writes a backup beside its name first, and then puts it there whole. People may type meanwhile."""
    server, database = _database()
    with tempfile.TemporaryDirectory(dir=to.parent) as name:
        work = Path(name)
        # The dump is of one moment; files are only ever added, so that all of which it speaks are there after it.
        _run("pg_dump", *server, "-Fc", "-f", str(work / DUMP), database)
        held = list(_files(_folder()))
        manifest = {
            "format": FORMAT,
            "version": 1,
            DUMP: _digest(work / DUMP),
            FILES: {str(path.relative_to(_folder())): _digest(path) for path in held},
        }
        (work / MANIFEST).write_text(json.dumps(manifest), encoding="utf-8")
        whole = work / "whole.tar"
        with tarfile.open(whole, "w") as tar:
            tar.add(work / MANIFEST, MANIFEST)
            tar.add(work / DUMP, DUMP)
            for path in held:
                tar.add(path, f"{FILES}/{path.relative_to(_folder())}")
        os.replace(whole, to)
    return f"{to}: the database and {len(held)} files."


def look_at(file: Path, into: Path) -> dict[str, str]:
    """Unpacks a backup and looks at it whole. Raises Unfit where it is none, or was cut off or changed; says what it holds."""
    try:
        with tarfile.open(file) as tar:
            tar.extractall(into, filter="data")
        manifest = json.loads((into / MANIFEST).read_text(encoding="utf-8"))
        if manifest["format"] != FORMAT or manifest["version"] != 1:
            raise Unfit(f"{file} is a backup of another kind. Nothing was touched.")
        wanted = {DUMP: manifest[DUMP]} | {f"{FILES}/{name}": digest for name, digest in manifest[FILES].items()}
    except Unfit:
        raise
    except Exception as broken:
        said = str(broken).partition("\n")[0].rstrip(":")
        raise Unfit(f"{file} is no whole backup ({said}). Nothing was touched.") from None
    for name, digest in wanted.items():
        path = into / name
        if not path.is_file() or _digest(path) != digest:
            raise Unfit(f"{file} was cut off or changed: {name} is not what was written. Nothing was touched.")
    # Every row of it is read once, to nowhere.
    _run("pg_restore", "-f", os.devnull, str(into / DUMP))
    return wanted


def put(file: Path) -> str:
    """Puts a backup back: into a database of its own first, which takes the other's place once its records fit."""
    server, database = _database()
    fresh, before = f"{database}_fresh", f"{database}_before"
    with tempfile.TemporaryDirectory() as name:
        work = Path(name)
        wanted = look_at(file, work)
        _nobody_in(database)
        _sql("postgres", f'drop database if exists "{fresh}"')
        _sql("postgres", f'create database "{fresh}"')
        try:
            _run("pg_restore", *server, "--no-owner", "--exit-on-error", "-d", fresh, str(work / DUMP))
            for path in wanted:
                if path.startswith(f"{FILES}/"):
                    _add(work / path, _folder() / path.removeprefix(f"{FILES}/"))
            said = _verified(fresh)
            _nobody_in(database)
            _sql("postgres", f'drop database if exists "{before}"')
            _sql("postgres", f'alter database "{database}" rename to "{before}"')
            _sql("postgres", f'alter database "{fresh}" rename to "{database}"')
        except Unfit:
            _sql("postgres", f'drop database if exists "{fresh}"')
            raise
    return (
        f"{said}\nPut back from {file}. What was there before stands in the database “{before}” until the next restore."
    )


def _nobody_in(database: str) -> None:
    """Raises Unfit while anyone is connected: what they keep meanwhile would be lost."""
    there = _sql("postgres", f"select count(*) from pg_stat_activity where datname = '{database}'")
    if there != "0":
        raise Unfit(
            f"{there} connections are open: end the demo first, so that nothing kept meanwhile is lost. Nothing was touched."
        )


def _add(path: Path, to: Path) -> None:
    """Adds a file where there is none; a file's name is its content, so that what is there is the same."""
    if not to.exists():
        to.parent.mkdir(parents=True, exist_ok=True)
        to.write_bytes(path.read_bytes())


def _verified(database: str) -> str:
    """What `verify` says of a database. Raises Unfit with the first link that does not fit."""
    address = os.environ["DATABASE_URL"].rpartition("/")[0]
    environment = os.environ | {"DATABASE_URL": f"{address}/{database}", "BEACON_POOL": "0"}
    migrated = subprocess.run(
        [sys.executable, "manage.py", "migrate", "-v", "0"], env=environment, capture_output=True, text=True
    )
    if migrated.returncode:
        raise Unfit(
            f"The backup is of a newer version than this: {migrated.stderr.strip().splitlines()[-1]}. Nothing was touched."
        )
    walked = subprocess.run([sys.executable, "manage.py", "verify"], env=environment, capture_output=True, text=True)
    if walked.returncode:
        raise Unfit(f"Its records do not fit: {walked.stdout.strip()}. What was there before is untouched.")
    return walked.stdout.strip()


def main(given: list[str]) -> int:
    """Makes a backup or puts one back; says in a sentence what hindered it."""
    try:
        print({"make": make, "put": put}[given[0]](Path(given[1]).resolve()))
    except Unfit as why:
        print(why, file=sys.stderr)
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
