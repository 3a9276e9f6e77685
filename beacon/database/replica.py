"""A replica of the database: made, promoted where the first is lost, or let go of.

`python -m beacon.database.replica make FOLDER [--port PORT]`, `promote [--although]`, `alone`, `fence`,
`state`. The first is DATABASE_URL's, of several hosts the one that takes what is written; the replica is BEACON_REPLICA's. BEACON_ADMIN is
the `role:password` that may do this, where the application's own role may not.

Everything is kept twice: what is answered as kept lies on the disks of both. While the replica is away the first waits
for it, and answers nothing as kept; `alone` lets it go on by itself.
"""

import argparse
import os
import shutil
import subprocess
import sys
import time
from contextlib import suppress
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit

import psycopg
from psycopg import sql

from beacon.database.timeline import Place, Refused, fence_lost, first_of, named

NAME = "beacon_replica"
"""How the replica is called by the first: its slot, and what the first waits for."""
BIN = Path(os.environ.get("PG_BIN", "/usr/lib/postgresql/15/bin"))
SECONDS = 3
STARTS_WITHIN = 60
ROOM = 1.2
"""So many times the size of the first must be free where the replica is to lie."""


def places(url: str) -> list[Place]:
    """How each host of an address is reached, in their order."""
    parts = urlsplit(url)
    admin, _, password = os.environ.get("BEACON_ADMIN", f"{parts.username or ''}:{parts.password or ''}").partition(":")
    given = {
        "user": unquote(admin), "password": unquote(password), "dbname": parts.path[1:] or "postgres",
        "connect_timeout": SECONDS, "autocommit": True,
    }  # fmt: skip
    hosts = [
        one.rpartition(":") if ":" in one else (one, "", "5432") for one in parts.netloc.rpartition("@")[2].split(",")
    ]
    return [given | {"host": host or "127.0.0.1", "port": int(port or 5432)} for host, _, port in hosts]


def _asked(place: Place, question: str) -> Any:
    with psycopg.connect(**place) as there:
        found = there.execute(question).fetchone()
    return found[0] if found else None


def first() -> Place:
    """The database that takes what is written, by its timeline. Raises Refused where none does, or two would.

    The replica is looked at as well, wherever DATABASE_URL names it or not: it may have been promoted.
    """
    known = {
        named(one): one
        for url in ("DATABASE_URL", "BEACON_REPLICA")
        if os.environ.get(url)
        for one in places(os.environ[url])
    }
    return first_of(list(known.values()))


def fence_others() -> str:
    """Makes what was the first before take nothing any more."""
    lost = fence_lost(
        [*places(os.environ["DATABASE_URL"]), *([_replica()] if os.environ.get("BEACON_REPLICA") else [])]
    )
    if not lost:
        return "Only one database takes what is written: there is nothing to be done."
    named_so = ", ".join(lost)
    return (
        f"{named_so} takes nothing any more. To have it follow the first, clear its folder, and "
        "./run replica make FOLDER."
    )


def _replica() -> Place:
    if not os.environ.get("BEACON_REPLICA"):
        raise Refused("Which database is the replica? Name it in BEACON_REPLICA, as DATABASE_URL names the first.")
    return places(os.environ["BEACON_REPLICA"])[0]


def as_postgres(*command: str) -> subprocess.CompletedProcess[str]:
    """Runs a program of PostgreSQL, which refuses to be run by root."""
    given = ["runuser", "-u", "postgres", "--", *command] if os.geteuid() == 0 else list(command)
    return subprocess.run(given, cwd="/", capture_output=True, text=True)


def make(folder: Path, port: int) -> str:
    """Copies the first into an empty folder, begins it there as its replica, and has everything kept twice from then on."""
    at = first()
    here = int(subprocess.run([str(BIN / "postgres"), "--version"], capture_output=True, text=True, check=True).stdout.split()[2].partition(".")[0])  # fmt: skip
    there = int(_asked(at, "show server_version_num")) // 10_000
    if here != there:
        raise Refused(f"The first is PostgreSQL {there}, and this is {here}. A replica is of the same version: install {there} here, or bring the first up.")  # fmt: skip
    if folder.exists() and any(folder.iterdir()):
        raise Refused(f"{folder} is not empty. A replica is made from nothing: name another folder, or clear this one.")
    size = int(_asked(at, "select sum(pg_database_size(oid)) from pg_database"))
    nearest = next(one for one in (folder, *folder.parents) if one.exists())
    if shutil.disk_usage(nearest).free < ROOM * size:
        raise Refused(f"There is no room at {folder}: the first holds {size / 1e9:.1f} GB, and as much and a fifth is wanted.")  # fmt: skip
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    if os.geteuid() == 0:
        shutil.chown(folder, "postgres", "postgres")
    with psycopg.connect(**at) as at_first:
        at_first.execute("select pg_drop_replication_slot(slot_name) from pg_replication_slots where slot_name = %s and not active", [NAME])  # fmt: skip
        if at_first.execute("select 1 from pg_replication_slots where slot_name = %s", [NAME]).fetchone():
            raise Refused("A replica follows the first already. Let it go first: stop it, and ./run replica alone.")
    _copied(at, folder)
    with (folder / "postgresql.auto.conf").open("a") as more:
        # What the copy has of the first's own settings, it has as a replica has to.
        more.write(f"port = {port}\nsynchronous_standby_names = ''\ndefault_transaction_read_only = off\n")
    started = as_postgres(str(BIN / "pg_ctl"), "-D", str(folder), "-l", str(folder / "log"), "-w", "start", "-o", f"-c port={port} -c listen_addresses=127.0.0.1 -c unix_socket_directories=''" if at["host"] == "127.0.0.1" else f"-c port={port}")  # fmt: skip
    if started.returncode:
        raise Refused(f"The replica did not start: see {folder / 'log'}.")
    with psycopg.connect(**at) as at_first:
        set_at(at_first, "synchronous_standby_names", NAME)
        until = time.monotonic() + STARTS_WITHIN
        while not at_first.execute("select 1 from pg_stat_replication where application_name = %s and sync_state = 'sync'", [NAME]).fetchone():  # fmt: skip
            if time.monotonic() > until:
                set_at(at_first, "synchronous_standby_names", "")
                raise Refused(f"The replica does not follow the first: see {folder / 'log'}. The first goes on alone.")
            time.sleep(0.2)
    return f"The replica at port {port} follows {named(at)}. What is answered as kept lies on both from now on."


def _copied(at: Place, folder: Path) -> None:
    conninfo = psycopg.conninfo.make_conninfo(
        host=at["host"], port=at["port"], user=at["user"], password=at["password"], application_name=NAME
    )
    done = as_postgres(str(BIN / "pg_basebackup"), "-d", conninfo, "-D", str(folder), "-R", "-X", "stream", "-C", "-S", NAME, "-c", "fast")  # fmt: skip
    if done.returncode:
        raise Refused(f"The first could not be copied: {done.stderr.strip().splitlines()[-1:]}")


def set_at(at: psycopg.Connection[Any], name: str, value: str) -> None:
    at.execute(sql.SQL("alter system set {} = {}").format(sql.Identifier(name), sql.Literal(value)))
    at.execute("select pg_reload_conf()")


def promote(although: bool) -> str:
    """Makes the replica the first. Refused while the first still answers, for two would take what is written then."""
    replica = _replica()
    try:
        if not _asked(replica, "select pg_is_in_recovery()"):
            return f"{named(replica)} is the first already."
    except psycopg.Error as away:
        raise Refused(f"The replica at {named(replica)} cannot be reached: {away}".strip()) from None
    for one in places(os.environ["DATABASE_URL"]):
        if named(one) == named(replica):
            continue
        with suppress(psycopg.Error):
            if not _asked(one, "select pg_is_in_recovery()") and not although:
                raise Refused(
                    f"{named(one)} is still the first, and answers. Stop it, and promote then: two that take "
                    "what is written would part for ever."
                )
    last = _asked(replica, "select pg_last_xact_replay_timestamp()")
    with psycopg.connect(**replica) as there:
        if not there.execute("select pg_promote(true, %s)", [STARTS_WITHIN]).fetchone()[0]:  # type: ignore[index]
            raise Refused("It was not promoted within a minute. Look into its log.")
        set_at(there, "synchronous_standby_names", "")
        there.execute("checkpoint")
    of = f", with everything up to {last:%Y-%m-%d %H:%M:%S} UTC" if last else ""
    return (
        f"{named(replica)} is the first now{of}. What is kept is kept once until another replica follows it: "
        "./run replica make FOLDER."
    )


def alone() -> str:
    """Lets the first go on without a replica: one that is away, or whose disk is full."""
    at = first()
    with psycopg.connect(**at) as there:
        set_at(there, "synchronous_standby_names", "")
        there.execute("select pg_drop_replication_slot(slot_name) from pg_replication_slots where slot_name = %s and not active", [NAME])  # fmt: skip
    return f"{named(at)} goes on alone: what is kept is kept once. What waited for the replica is kept now."


def state() -> str:
    """Which database is the first, and how the replica follows."""
    at = first()
    with psycopg.connect(**at) as there:
        found = there.execute(
            "select state, sync_state, pg_current_wal_lsn() - replay_lsn from pg_stat_replication where application_name = %s", [NAME]
        ).fetchone()  # fmt: skip
        waits = there.execute("show synchronous_standby_names").fetchone()
    kept = "twice" if waits and waits[0] else "once"
    if not found:
        said = "no replica follows it" + (": it waits for one, and answers nothing as kept. Start the replica, or ./run replica alone" if kept == "twice" else "")  # fmt: skip
        return f"{named(at)} is the first; {said}."
    behind = f"{found[2]} bytes behind" if found[2] else "all there"
    return f"{named(at)} is the first; its replica is {found[0]}, {behind}. What is kept is kept {kept}."


def main(given: list[str]) -> int:
    """Runs one of the commands; 1 where it refused."""
    parser = argparse.ArgumentParser(prog="replica", description=__doc__)
    commands = parser.add_subparsers(dest="what", required=True)
    making = commands.add_parser("make")
    making.add_argument("folder", type=Path)
    making.add_argument("--port", type=int, default=5433)
    commands.add_parser("promote").add_argument(
        "--although", action="store_true", help="although the first still answers"
    )
    commands.add_parser("alone")
    commands.add_parser("fence")
    commands.add_parser("state")
    asked = parser.parse_args(given)
    try:
        if asked.what == "make":
            print(make(asked.folder.resolve(), asked.port))
        else:
            print(
                {"promote": lambda: promote(asked.although), "alone": alone, "state": state, "fence": fence_others}[
                    asked.what
                ]()
            )
    except Refused as why:
        print(why, file=sys.stderr)
        return 1
    except psycopg.Error as why:
        print(f"The database could not be asked: {str(why).strip()}", file=sys.stderr)
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
