"""Files that are written whole or not at all: beside their name first, flushed, and then renamed."""

import hashlib
import os
import tempfile
from contextlib import suppress
from pathlib import Path


def digest_of(path: Path) -> str:
    """SHA-256 of a file, in hexadecimal. Raises OSError where it is not there."""
    hashed = hashlib.sha256()
    with path.open("rb") as file:
        while piece := file.read(1 << 20):
            hashed.update(piece)
    return hashed.hexdigest()


def write_whole(path: Path, content: bytes) -> None:
    """Writes a file, in the place of what stands under its name. Raises OSError, and then nothing was changed."""
    path.parent.mkdir(parents=True, exist_ok=True)
    handle, beside = tempfile.mkstemp(dir=path.parent, prefix=".beside-")
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        # As readable as a file that was opened by name would be.
        umask = os.umask(0)
        os.umask(umask)
        os.chmod(beside, 0o666 & ~umask)
        os.replace(beside, path)
    except BaseException:
        with suppress(OSError):
            os.unlink(beside)
        raise
    folder = os.open(path.parent, os.O_RDONLY)
    try:
        os.fsync(folder)
    finally:
        os.close(folder)
