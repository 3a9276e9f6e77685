"""A backup that only adds what is new: a copy of the database now and then, its log as it is written, and the files.

`python -m beacon.database.past begin FOLDER`, `base FOLDER [--keep N]`, `back FOLDER MOMENT DATA [--port PORT]`, on the
machine of the first database. It comes back as of any moment since the oldest copy that is kept.
"""

import argparse
import json
import os
import shutil
import sys
import tarfile
import time
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import psycopg

from beacon.database.replica import BIN, as_postgres, first, places, set_at
from beacon.database.timeline import Refused

LOG, COPY, FILES = "log", "base-", "files"
SAID = "made.json"
GONE_THROUGH_WITHIN = 24 * 3600
"""So long the log of many days may take, s."""
ROOM = 0.5
"""So much of the size of the database must be free for a copy, which is compressed."""
MOMENT = "%Y-%m-%dT%H%M%S"


def _command(folder: Path) -> str:
    """What PostgreSQL does with each piece of its log: it is there whole, or not at all, and never another's."""
    kept = f"{folder / LOG}/%f"
    return f'if test -f "{kept}"; then cmp -s %p "{kept}"; else cp %p "{kept}.part" && sync "{kept}.part" && mv "{kept}.part" "{kept}"; fi'


def begin(folder: Path) -> str:
    """Has the first write its log into the folder as well; PostgreSQL has to be begun anew once, where it did not before."""
    for one in (folder, folder / LOG, folder / FILES):
        one.mkdir(parents=True, exist_ok=True)
        if os.geteuid() == 0:
            shutil.chown(one, "postgres", "postgres")
    with psycopg.connect(**first()) as there:
        set_at(there, "archive_command", _command(folder))
        set_at(there, "archive_timeout", "60s")
        set_at(there, "archive_mode", "on")
        mode = there.execute("show archive_mode").fetchone()
    if not mode or mode[0] != "on":
        return f"Begin PostgreSQL anew: from then on its log lies in {folder / LOG}, no piece of it later than a minute. Then make the first copy: ./run past base {folder}"  # fmt: skip
    return f"The log lies in {folder / LOG}, no piece of it later than a minute."


def base(folder: Path, keep: int) -> str:
    """Copies the database, and the files that are new; lets go of older copies, and of the log from before them."""
    at = first()
    with psycopg.connect(**at) as there:
        size: Any = there.execute("select sum(pg_database_size(oid)) from pg_database").fetchone()
        mode: Any = there.execute("show archive_mode").fetchone()
    if mode[0] != "on":
        raise Refused(f"The log is not kept, and a copy alone comes back as of no other moment. First: ./run past begin {folder}")  # fmt: skip
    if shutil.disk_usage(folder).free < ROOM * float(size[0]):
        raise Refused(
            f"There is no room in {folder} for a copy of {float(size[0]) / 1e9:.1f} GB. Nothing was let go of."
        )
    began = datetime.now(UTC)
    into = folder / f"{COPY}{began:{MOMENT}}"
    part = into.with_suffix(".part")
    conninfo = psycopg.conninfo.make_conninfo(**{key: at[key] for key in ("host", "port", "user", "password")})
    done = as_postgres(str(BIN / "pg_basebackup"), "-d", conninfo, "-D", str(part), "-Ft", "-z", "-X", "none", "-c", "fast")  # fmt: skip
    if done.returncode:
        shutil.rmtree(part, ignore_errors=True)
        raise Refused(f"The copy could not be made, and nothing was let go of: {done.stderr.strip()[-300:]}")
    new = _files_added(folder / FILES)
    (part / SAID).write_text(json.dumps({"began": began.isoformat(), "ended": datetime.now(UTC).isoformat()}))
    # It has its name once it is whole.
    part.rename(into)
    gone = _let_go(folder, keep)
    return f"{into.name}: {sum(one.stat().st_size for one in into.iterdir()) / 1e6:.1f} MB, {new} new files; {gone} older copies let go of."  # fmt: skip


def _files_added(into: Path) -> int:
    """Copies the photographs and papers that are not there yet: they are only ever added."""
    come_from, count = Path(os.environ.get("BEACON_FILES", "var/files")), 0
    for one in come_from.rglob("*"):
        to = into / one.relative_to(come_from)
        if one.is_file() and (not to.exists() or to.stat().st_size != one.stat().st_size):
            to.parent.mkdir(parents=True, exist_ok=True)
            shutil.copy2(one, to.with_name(f"{to.name}.part"))
            to.with_name(f"{to.name}.part").rename(to)
            count += 1
    return count


def _copies(folder: Path) -> list[Path]:
    return sorted(one for one in folder.glob(f"{COPY}*") if one.suffix != ".part")


def _let_go(folder: Path, keep: int) -> int:
    """Lets go of all but the latest copies, and of the pieces of the log that only they needed."""
    copies = _copies(folder)
    old = copies[: max(0, len(copies) - keep)]
    for one in old:
        shutil.rmtree(one)
    # A copy names the first piece of the log that it needs in a small file among the pieces.
    marks = sorted((folder / LOG).glob("*.backup"))
    needed = marks[-min(keep, len(marks))] if marks else None
    if old and needed:
        as_postgres(str(BIN / "pg_archivecleanup"), str(folder / LOG), needed.name)
    return len(old)


def back(folder: Path, moment: datetime, data: Path, port: int) -> str:
    """Begins a database as of a moment in an empty folder, beside whatever there is; nothing else is touched."""
    if data.exists() and any(data.iterdir()):
        raise Refused(f"{data} is not empty. Name a folder that is, or that is not there yet.")
    before = [one for one in _copies(folder) if _ended(one) <= moment]
    if not before:
        oldest = _copies(folder)
        since = (
            f"The oldest copy is of {_ended(oldest[0]):%Y-%m-%d %H:%M} UTC." if oldest else "There is no copy in it."
        )
        raise Refused(f"{folder} does not reach back to {moment:%Y-%m-%d %H:%M} UTC. {since}")
    data.mkdir(mode=0o700, parents=True, exist_ok=True)
    for packed in before[-1].glob("*.tar.gz"):
        with tarfile.open(packed) as held:
            held.extractall(data if packed.name == "base.tar.gz" else data / "pg_tblspc", filter="fully_trusted")
    with (data / "postgresql.auto.conf").open("a") as more:
        more.write(
            f"restore_command = 'cp {folder / LOG}/%f %p'\nrecovery_target_time = '{moment.isoformat()}'\n"
            f"recovery_target_action = 'promote'\narchive_mode = off\nsynchronous_standby_names = ''\nport = {port}\n"
        )
    (data / "recovery.signal").touch()
    if os.geteuid() == 0:
        as_postgres_owns(data)
    options = f"-c port={port} -c listen_addresses=127.0.0.1 -c unix_socket_directories=''"
    begun = as_postgres(str(BIN / "pg_ctl"), "-D", str(data), "-l", str(data / "log"), "-w", "-t", "3600", "start", "-o", options)  # fmt: skip
    # The first may be lost: only who may come to it is taken from its address.
    at = places(os.environ["DATABASE_URL"])[0] | {"host": "127.0.0.1", "port": port}
    until = time.monotonic() + GONE_THROUGH_WITHIN
    while not begun.returncode and time.monotonic() < until:
        # It answers while it still goes through the log, and may end yet where that does not reach far enough.
        try:
            with psycopg.connect(**at) as there:
                if there.execute("select not pg_is_in_recovery()").fetchone() == (True,):
                    return _came_back(folder, moment, port)
        except psycopg.OperationalError:
            if not (data / "postmaster.pid").exists():
                break
        time.sleep(0.2)
    said = (data / "log").read_text()
    short = "recovery ended before configured recovery target" in said
    why = "The log that is kept does not reach that moment." if short else f"See {data / 'log'}."
    raise Refused(f"It did not come back. {why}")


def _came_back(folder: Path, moment: datetime, port: int) -> str:
    return f"As of {moment:%Y-%m-%d %H:%M:%S} UTC it answers at port {port}. Verify it: DATABASE_URL=… manage.py verify; the files lie in {folder / FILES}."  # fmt: skip


def as_postgres_owns(data: Path) -> None:
    for one in (data, *data.rglob("*")):
        shutil.chown(one, "postgres", "postgres")


def _ended(copy: Path) -> datetime:
    return datetime.fromisoformat(json.loads((copy / SAID).read_text())["ended"])


def _moment(text: str) -> datetime:
    read = datetime.fromisoformat(text)
    return read if read.tzinfo else read.replace(tzinfo=UTC)


def main(given: list[str]) -> int:
    """Runs one of the commands; 1 where it refused."""
    parser = argparse.ArgumentParser(prog="past", description=__doc__)
    commands = parser.add_subparsers(dest="what", required=True)
    for what in ("begin", "base", "back"):
        one = commands.add_parser(what)
        one.add_argument("folder", type=Path)
        if what == "base":
            one.add_argument("--keep", type=int, default=2)
        if what == "back":
            one.add_argument(
                "moment", type=_moment, help="such as 2031-03-04T09:30:00, in UTC unless it says otherwise"
            )
            one.add_argument("data", type=Path)
            one.add_argument("--port", type=int, default=5434)
    asked = parser.parse_args(given)
    folder = asked.folder.resolve()
    try:
        if asked.what == "begin":
            print(begin(folder))
        elif asked.what == "base":
            print(base(folder, max(1, asked.keep)))
        else:
            print(back(folder, asked.moment, asked.data.resolve(), asked.port))
    except (Refused, psycopg.Error, OSError) as why:
        print(str(why).strip(), file=sys.stderr)
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
