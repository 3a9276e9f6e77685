#!/usr/bin/env python3
"""A stand-in for `systemctl` on a machine without it: just what `./run server` asks of it, out of the very units it wrote.

The units lie under BEACON_PREFIX; what is started is noted under its `run`. nginx is begun there too.
"""

import os
import re
import shlex
import signal
import subprocess
import sys
import time
from pathlib import Path

PREFIX = Path(os.environ["BEACON_PREFIX"])
RUN = PREFIX / "run"


def unit_of(name: str) -> tuple[dict[str, str], str]:
    """What a unit says, with its instance."""
    base, _, instance = name.removesuffix(".service").partition("@")
    path = PREFIX / "etc/systemd/system" / (f"{base}@.service" if instance else f"{base}.service")
    lines = (line.split("=", 1) for line in path.read_text().splitlines() if "=" in line and not line.startswith("#"))
    return {key: value.replace("%i", instance) for key, value in lines}, instance


def environment(unit: dict[str, str]) -> dict[str, str]:
    found = {"PATH": "/usr/sbin:/usr/bin:/sbin:/bin", "LANG": "C.UTF-8"}
    for line in Path(unit["EnvironmentFile"]).read_text().splitlines():
        key, sep, value = line.partition("=")
        if sep and re.fullmatch(r"[A-Z0-9_]+", key):
            found[key] = value
    return found | dict(pair.split("=", 1) for pair in shlex.split(unit.get("Environment", "")))


def pid_of(name: str) -> int | None:
    at = RUN / f"{name}.pid"
    if not at.exists():
        return None
    pid = int(at.read_text())
    try:
        state = Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0]
    except (FileNotFoundError, ProcessLookupError):
        return None
    return None if state == "Z" else pid


def stop(name: str) -> None:
    pid = pid_of(name)
    if pid is None:
        return
    os.kill(pid, signal.SIGTERM)
    for _ in range(150):
        if pid_of(name) is None:
            return
        time.sleep(0.1)
    os.kill(pid, signal.SIGKILL)
    while pid_of(name) is not None:
        time.sleep(0.02)


def start(name: str) -> None:
    if pid_of(name) is not None:
        return
    unit, _ = unit_of(name)
    RUN.mkdir(exist_ok=True)
    log = (RUN / f"{name}.log").open("ab")
    begun = subprocess.Popen(shlex.split(unit["ExecStart"]), cwd=unit["WorkingDirectory"], env=environment(unit), stdout=log, stderr=log, stdin=subprocess.DEVNULL, start_new_session=True)  # fmt: skip
    (RUN / f"{name}.pid").write_text(str(begun.pid))


def nginx() -> None:
    configured = ["/usr/sbin/nginx", "-c", str(PREFIX / "etc/nginx/nginx.conf"), "-p", str(PREFIX)]
    if (PREFIX / "run/nginx.pid").exists():
        subprocess.run([*configured, "-s", "reload"], check=True)
    else:
        subprocess.run(configured, check=True, stdin=subprocess.DEVNULL)


def main() -> None:
    if sys.argv[1] == "show":
        print(pid_of(sys.argv[-1].removesuffix(".service")) or 0)
        return
    command, *names = [one for one in sys.argv[1:] if not one.startswith("-")]
    with (PREFIX / "said").open("a") as said:
        said.write(" ".join(sys.argv[1:]) + "\n")
    for name in names:
        name = name.removesuffix(".service")
        if name == "nginx":
            nginx()
        elif command in ("restart", "stop"):
            stop(name)
        if command in ("restart", "start") and not name.endswith((".timer", ".target")) and name != "nginx":
            start(name)


if __name__ == "__main__":
    main()
