"""Prints the lines of `requirements.lock` that the browser's core is made from, with their hashes, for pip to fetch.

The versions are the server's own: what the core stands on is the same on both sides.
"""

import pathlib
import re

NAMES = ("annotated-types", "pydantic", "pydantic-core", "typing-extensions", "typing-inspection")

lock = pathlib.Path(__file__).resolve().parents[2] / "requirements.lock"
blocks = re.split(r"\n(?=[a-z0-9])", lock.read_text(encoding="utf-8"))
found = [block for block in blocks if block.partition("==")[0] in NAMES]
if len(found) != len(NAMES):
    raise SystemExit(f"requirements.lock does not name all of {', '.join(NAMES)}")
print("\n".join(found))
