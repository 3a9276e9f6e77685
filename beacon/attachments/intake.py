"""What comes as a photograph or a PDF: looked at by its content, made upright, freed of what it tells of its place."""

import hashlib
import json
from dataclasses import dataclass

from beacon.database.letting_go import let_go
from beacon.own_process import MB, NoTurn, OwnProcess, Refused, TooMuch

MOST_BYTES = 20 * 1024 * 1024
UNPACKING = OwnProcess("beacon.attachments.unpacking", seconds=20.0, cpu=4.0, memory=270 * MB)


class NotTaken(ValueError):
    """A file that is not taken; its text says why, and what to do."""


class NotYet(Exception):
    """A file that nobody came to look at, since others' were first: it is sent again."""


@dataclass(frozen=True)
class Taken:
    """A file as it is kept; `small` is its thumbnail, empty where it has none."""

    kind: str
    content: bytes
    small: bytes
    width: int = 0
    height: int = 0
    pages: int = 1

    @property
    def sha256(self) -> str:
        return digest(self.content)


def digest(content: bytes) -> str:
    """SHA-256 in hexadecimal."""
    return hashlib.sha256(content).hexdigest()


def taken(content: bytes, whose: str = "") -> Taken:
    """Reads a file by what is in it. Raises NotTaken with what it is instead, and NotYet.

    It is unpacked in a process of its own, one at a time and by turns of those whose they are.
    """
    if not content:
        raise NotTaken("The file is empty. Take the photograph again, or choose another file.")
    if len(content) > MOST_BYTES:
        raise NotTaken(f"The file has {len(content) / 1e6:.0f} MB; at most 20 MB are kept. Make it smaller.")
    let_go()
    try:
        return read_from(UNPACKING.asked(content, whose))
    except Refused as why:
        raise NotTaken(str(why)) from None
    except NoTurn:
        raise NotYet from None
    except TooMuch:
        raise NotTaken(
            "The file takes too much to be unpacked. Choose a smaller size in the camera, or print it to a new PDF."
        ) from None


def read_from(answer: bytes) -> Taken:
    """What `beacon.attachments.unpacking` made of a file."""
    head, _, rest = answer.partition(b"\n")
    about = json.loads(head)
    length = about.pop("length")
    return Taken(content=rest[:length], small=rest[length:], **about)
