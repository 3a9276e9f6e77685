"""Backups: one file with the database as of one moment and every file that it speaks of, looked at whole before it is put back.

`python -m beacon.backups make FILE`, `put FILE [--although WHY]` and `key FILE`; the
database is DATABASE_URL's, its programs lie under PG_BIN.
"""

import base64
import contextlib
import fcntl
import getpass
import hashlib
import json
import os
import shutil
import subprocess
import sys
import tarfile
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit

from cryptography.fernet import Fernet, InvalidToken

from beacon.database.replica import first
from beacon.database.timeline import Refused
from beacon.whole import digest_of, write_whole

MANIFEST, DUMP, FILES = "manifest.json", "database.dump", "files"
MADE_ANEW = "archives"
"""The folder of what can be made anew."""
FORMAT = "wary-beacon/backup"
NEWER, UNFIT = 3, 4
"""How `manage.py take_over` ends for a backup of a newer version, and for one whose records do not fit."""
BIN = Path(os.environ.get("PG_BIN", "/usr/lib/postgresql/15/bin"))


class Unfit(Exception):
    """A backup that cannot be made or put back; its text says why, and what to do."""


def _database() -> tuple[list[str], str]:
    """How the programs reach the server, and the name of the database; of several hosts, the one that takes what is written."""
    url = urlsplit(os.environ["DATABASE_URL"])
    os.environ.setdefault("PGPASSWORD", unquote(url.password or ""))
    places = [
        one.rpartition(":") if ":" in one else (one, "", "5432") for one in url.netloc.rpartition("@")[2].split(",")
    ]
    if len(places) > 1 or os.environ.get("BEACON_REPLICA"):
        # Of several the one that was promoted last: one that was the first before would lack what was kept since.
        try:
            at = first()
        except Refused as why:
            raise Unfit(str(why)) from None
        places = [(str(at["host"]), "", str(at["port"]))]
    hosts, ports = ",".join(host or "127.0.0.1" for host, _, _ in places), ",".join(port for _, _, port in places)
    return ["-h", hosts, "-p", ports, "-U", unquote(url.username or "")], url.path[1:]


def _run(program: str, *given: str) -> str:
    done = subprocess.run([str(BIN / program), *given], capture_output=True, text=True)
    if done.returncode:
        raise Unfit(f"{program}: {done.stderr.strip().splitlines()[-1] if done.stderr.strip() else 'failed'}")
    return done.stdout


def _sql(database: str, text: str) -> str:
    server, _ = _database()
    return _run("psql", *server, "-d", database, "-qtAv", "ON_ERROR_STOP=1", "-c", text).strip()


def _folder() -> Path:
    return Path(os.environ.get("BEACON_FILES", "var/files"))


def _files(folder: Path) -> Iterator[Path]:
    """The files of the folder; those in a bucket stay there, under the store's own versions.

    What can be made anew is no part of it: unlike the others it is let go of again, perhaps while it would be read.
    """
    found = sorted(folder.rglob("*")) if folder.exists() else []
    return (path for path in found if path.is_file() and path.relative_to(folder).parts[0] != MADE_ANEW)


@contextlib.contextmanager
def _working(within: Path, what: str) -> Iterator[Path]:
    """A folder to work in, gone afterwards; what an earlier one that was killed left behind is cleared first."""
    prefix = f".wary-beacon-{what}-"
    for left in within.glob(f"{prefix}*"):
        with contextlib.suppress(OSError), (left / "held").open("a") as held:
            fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
            shutil.rmtree(left, ignore_errors=True)
    folder = Path(tempfile.mkdtemp(dir=within, prefix=prefix))
    try:
        with (folder / "held").open("a") as held:
            fcntl.flock(held, fcntl.LOCK_EX)
            yield folder
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def make(to: Path) -> str:
    """Writes a backup beside its name first, and then puts it there whole. People may type meanwhile."""
    server, database = _database()
    with _working(to.parent, "backup") as work:
        # The dump is of one moment; files are only ever added, so that all of which it speaks are there after it.
        _run("pg_dump", *server, "-Fc", "-f", str(work / DUMP), database)
        held = list(_files(_folder()))
        manifest = {
            "format": FORMAT,
            "version": 1,
            **_of_the_key(),
            DUMP: digest_of(work / DUMP),
            FILES: {str(path.relative_to(_folder())): digest_of(path) for path in held},
        }
        (work / MANIFEST).write_text(json.dumps(manifest), encoding="utf-8")
        whole = work / "whole.tar"
        with tarfile.open(whole, "w") as tar:
            tar.add(work / MANIFEST, MANIFEST)
            tar.add(work / DUMP, DUMP)
            for path in held:
                tar.add(path, f"{FILES}/{path.relative_to(_folder())}")
        with whole.open("rb") as file:
            os.fsync(file.fileno())
        os.replace(whole, to)
    return f"{to}: the database and {len(held)} files."


def _mark(key: str) -> str:
    """By what a key is known again, and not found out."""
    return hashlib.sha256(b"beacon.backup.key " + key.encode()).hexdigest()[:16]


def _under(phrase: str, salt: bytes) -> Fernet:
    """What a key is locked away with (scrypt, RFC 7914)."""
    derived = hashlib.scrypt(phrase.encode(), salt=salt, n=2**15, r=8, p=1, maxmem=2**26, dklen=32)
    return Fernet(base64.urlsafe_b64encode(derived))


def _of_the_key() -> dict[str, Any]:
    """What a backup says of the server's key, under which second factors are kept: its mark, and under a pass phrase
    itself."""
    key, phrase = os.environ.get("BEACON_SECRET_KEY", ""), os.environ.get("BEACON_BACKUP_PHRASE", "")
    said: dict[str, Any] = {"key": {"mark": _mark(key)}} if key else {}
    if key and phrase:
        salt = os.urandom(16)
        said["key"] |= {"salt": salt.hex(), "locked": _under(phrase, salt).encrypt(key.encode()).decode()}
    return said


def _manifest(file: Path) -> dict[str, Any]:
    try:
        with tarfile.open(file, "r:") as tar:
            part = tar.extractfile(MANIFEST)
            assert part is not None
            return dict(json.loads(part.read()))
    except Exception:
        raise Unfit(f"{file} is no whole backup.") from None


def key_of(file: Path) -> str:
    """The server's key that a backup was made under.

    Raises Unfit where it is not in it, or the pass phrase is another.
    """
    said = _manifest(file).get("key", {})
    if "locked" not in said:
        raise Unfit(
            "The key is not in this backup: name a pass phrase in BEACON_BACKUP_PHRASE before one is made. "
            "Look in /etc/wary-beacon/settings of the machine of before."
        )
    phrase = os.environ.get("BEACON_BACKUP_PHRASE", "") or getpass.getpass("Pass phrase: ")
    try:
        return _under(phrase, bytes.fromhex(said["salt"])).decrypt(said["locked"].encode()).decode()
    except InvalidToken:
        raise Unfit("That is not the pass phrase that it was made with.") from None


def _other_key(file: Path) -> str:
    """What is to be done where a backup was made under another key than this server's; nothing where it was not."""
    mark = _manifest(file).get("key", {}).get("mark")
    keys = [os.environ.get("BEACON_SECRET_KEY", ""), *os.environ.get("BEACON_SECRET_KEYS_BEFORE", "").split(",")]
    if not mark or mark in map(_mark, keys):
        return ""
    return (
        "\nIt was made under another key than this server's: its second factors open nothing until that key stands in "
        f"BEACON_SECRET_KEYS_BEFORE. Where it is in the backup: .venv/bin/python -m beacon.backups key {file}"
    )


def look_at(file: Path, into: Path) -> dict[str, str]:
    """Unpacks a backup and looks at it whole. Raises Unfit where it is none, or was cut off or changed; says what it holds."""
    try:
        # As it is written: nothing in it is packed, so that it takes no more room than it has.
        with tarfile.open(file, "r:") as tar:
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
        if not path.is_file() or digest_of(path) != digest:
            raise Unfit(f"{file} was cut off or changed: {name} is not what was written. Nothing was touched.")
    # Every row of it is read once, to nowhere.
    _run("pg_restore", "-f", os.devnull, str(into / DUMP))
    return wanted


def put(file: Path, although: str = "") -> str:
    """Puts a backup back: into a database of its own first, which takes the other's place once its records fit.

    Where they do not, it says which, and goes on all the same where somebody says why (`although`): that
    stands on the record of what was put back.
    """
    server, database = _database()
    fresh, before = f"{database}_fresh", f"{database}_before"
    with _working(Path(tempfile.gettempdir()), "restore") as work:
        wanted = look_at(file, work)
        _nobody_in(database)
        _sql("postgres", f'drop database if exists "{fresh}"')
        _sql("postgres", f'create database "{fresh}"')
        try:
            cores = str(os.cpu_count() or 1)
            _run("pg_restore", *server, "--no-owner", "--exit-on-error", "-j", cores, "-d", fresh, str(work / DUMP))
            for path in wanted:
                if path.startswith(f"{FILES}/"):
                    _add(work / path, _folder() / path.removeprefix(f"{FILES}/"))
            said = _verified(fresh, file, although)
            _nobody_in(database)
            _sql("postgres", f'drop database if exists "{before}"')
            _exchange(database, before, fresh)
        except Unfit:
            _sql("postgres", f'drop database if exists "{fresh}"')
            raise
    return (
        f"{said}\nPut back from {file}. What was there before stands in the database “{before}” until the next restore."
        f"{_other_key(file)}"
    )


def _exchange(database: str, before: str, fresh: str) -> None:
    """Puts one database in the place of another: both names change, or neither does."""
    renames = f'alter database "{database}" rename to "{before}"; alter database "{fresh}" rename to "{database}"'
    _sql("postgres", f"begin; {renames}; commit")


ENDING = 8
"""So often it is looked whether the last one is gone, a fifth of a second apart."""


def _nobody_in(database: str) -> None:
    """Raises Unfit while anyone is connected: what they keep meanwhile would be lost. Who just left is given a moment."""
    for moment in range(ENDING):
        there = _sql("postgres", f"select count(*) from pg_stat_activity where datname = '{database}'")
        if there == "0":
            return
        if moment < ENDING - 1:
            time.sleep(0.2)
    else:
        raise Unfit(
            f"{there} connections are open: end the demo first, so that nothing kept meanwhile is lost. Nothing was touched."
        )


def _add(path: Path, to: Path) -> None:
    """Adds a file; what lies there under its name is kept where it is the same, and replaced where it is damaged."""
    if not to.exists() or digest_of(to) != digest_of(path):
        write_whole(to, path.read_bytes())


def _verified(database: str, file: Path, although: str) -> str:
    """What `verify` says of a database. Raises Unfit with everything that does not fit, unless somebody says why all the same."""
    address = os.environ["DATABASE_URL"].rpartition("/")[0]
    environment = os.environ | {"DATABASE_URL": f"{address}/{database}", "BEACON_POOL": "0"}

    command = [sys.executable, "manage.py", "take_over", str(file), although, _who()]
    done = subprocess.run(command, env=environment, capture_output=True, text=True)
    said = done.stdout.strip()
    if done.returncode == NEWER:
        raise Unfit(f"The backup is of a newer version than this: {done.stderr.strip()}. Nothing was touched.")
    if done.returncode == UNFIT:
        raise Unfit(
            f"Its records do not fit:\n{said}\nWhat was there before is untouched. To put it back all the same, say why: "
            "--although “…”. That stands on the record."
        )
    if done.returncode:
        raise Unfit(f"It cannot be looked at: {done.stderr.strip().splitlines()[-1]}. Nothing was touched.")
    return said


def _who() -> str:
    """Who sits at the console."""
    return os.environ.get("SUDO_USER") or getpass.getuser()


def main(given: list[str]) -> int:
    """Makes a backup or puts one back; says in a sentence what hindered it."""
    try:
        what, file, *rest = given
        if what == "make" and not rest:
            print(make(Path(file).resolve()))
        elif what == "key" and not rest:
            print(key_of(Path(file).resolve()))
        elif what == "put" and (not rest or (len(rest) == 2 and rest[0] == "--although")):
            although = rest[1].strip() if rest else ""
            if rest and not any(letter.isalpha() for letter in although):
                raise Unfit("Why is it put back although its records do not fit? In words, after --although.")
            print(put(Path(file).resolve(), although))
        else:
            raise ValueError
    except ValueError:
        print("Say `make FILE`, `put FILE`, `put FILE --although WHY`, or `key FILE`.", file=sys.stderr)
        return 2
    except Unfit as why:
        print(why, file=sys.stderr)
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
