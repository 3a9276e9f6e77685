"""What comes as a photograph or a PDF: looked at by its content, made upright, freed of what it tells of its place."""

import hashlib
import io
from dataclasses import dataclass
from threading import Lock
from typing import Any

import pillow_heif
from PIL import Image, ImageFile, ImageOps, UnidentifiedImageError
from pypdf import PdfReader, PdfWriter
from pypdf.generic import ArrayObject, DictionaryObject, IndirectObject

from beacon.attachments.models import Attachment

pillow_heif.register_heif_opener()
# A larger one is refused by its size before it is unpacked, with a sentence.
Image.MAX_IMAGE_PIXELS = None

MOST_BYTES = 20 * 1024 * 1024
MOST_PIXELS = 64_000_000
MOST_UNPACKED = 50_000_000
"""How many pixels are read of a picture that can only be unpacked whole: anything but a JPEG."""
LONGEST_SIDE = 4096
SMALL_SIDE = 480
MOST_PAGES = 200
MOST_OBJECTS = 50_000
ENDS_WITHIN = 2048
"""In how many of its last bytes a PDF says that it ends."""
QUALITY = 88
FORMATS = ("JPEG", "PNG", "WEBP", "HEIF")
FORBIDDEN = {
    "/JS": "a script",
    "/JavaScript": "a script",
    "/Launch": "a program to be started",
    "/EmbeddedFile": "another file inside it",
    "/EmbeddedFiles": "another file inside it",
    "/RichMedia": "a film or a program",
    "/XFA": "a form that runs by itself",
    "/SubmitForm": "something that is sent elsewhere",
    "/ImportData": "something that is fetched from elsewhere",
}
"""What a PDF may not hold, and what it is called."""
ELSEWHERE = ("/URI", "/GoToR", "/GoToE")
"""Actions that lead out of a PDF, to an address or another file: they are dropped, and the rest is kept."""


class NotTaken(ValueError):
    """A file that is not taken; its text says why, and what to do."""


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


def taken(content: bytes) -> Taken:
    """Reads a file by what is in it. Raises NotTaken with what it is instead."""
    if not content:
        raise NotTaken("The file is empty. Take the photograph again, or choose another file.")
    if len(content) > MOST_BYTES:
        raise NotTaken(f"The file has {len(content) / 1e6:.0f} MB; at most 20 MB are kept. Make it smaller.")
    return _document(content) if content[:1024].lstrip().startswith(b"%PDF-") else _picture(content)


_ONE_AT_A_TIME = Lock()
"""A picture takes much memory while it is unpacked: a process looks at one at a time."""


def _picture(content: bytes) -> Taken:
    with _ONE_AT_A_TIME:
        return _unpacked(content)


def _unpacked(content: bytes) -> Taken:
    # What makes pages out of pictures lets half a picture pass, and says so for all.
    ImageFile.LOAD_TRUNCATED_IMAGES = False
    try:
        with Image.open(io.BytesIO(content), formats=FORMATS) as opened:
            width, height = opened.size
            most = MOST_PIXELS if opened.format == "JPEG" else MOST_UNPACKED
            if width * height > most:
                raise NotTaken(
                    f"The picture has {width * height / 1e6:.0f} megapixels; at most {most / 1e6:.0f} are read. "
                    "Choose a smaller size in the camera."
                )
            plain = opened.format == "PNG"
            # A JPEG is unpacked at a half or a quarter of its size at once, where that is enough.
            opened.draft("RGB", (LONGEST_SIDE, LONGEST_SIDE))
            opened.load()
            small_enough: Image.Image = opened if opened.mode in ("RGB", "RGBA") else opened.convert("RGB")
            small_enough.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
            # A new picture holds the pixels alone: no place, no maker, no thumbnail of another crop.
            upright = ImageOps.exif_transpose(small_enough).convert("RGB")
    except UnidentifiedImageError:
        raise NotTaken(
            "That is no photograph and no PDF, whatever its name says. JPEG, PNG, WebP, HEIC and PDF are kept."
        ) from None
    except NotTaken:
        raise
    except Exception:
        raise NotTaken("The photograph is cut off or damaged: it cannot be read whole. Send it again.") from None
    small = upright.copy()
    small.thumbnail((SMALL_SIDE, SMALL_SIDE))
    kind = Attachment.Kind.PNG if plain else Attachment.Kind.JPEG
    return Taken(kind, _written(upright, kind), _written(small, Attachment.Kind.JPEG), *upright.size)


def _written(picture: Image.Image, kind: str) -> bytes:
    kept = io.BytesIO()
    bare = Image.frombytes(picture.mode, picture.size, picture.tobytes())
    if kind == Attachment.Kind.PNG:
        bare.save(kept, "PNG", optimize=False)
    else:
        bare.save(kept, "JPEG", quality=QUALITY)
    return kept.getvalue()


def _document(content: bytes) -> Taken:
    if b"%%EOF" not in content[-ENDS_WITHIN:]:
        raise NotTaken("The PDF is cut off: its end is missing. Send it again.")
    try:
        reader = PdfReader(io.BytesIO(content), strict=False)
        if reader.is_encrypted:
            raise NotTaken("The PDF is locked with a password. Save it without one, and send it again.")
        pages = len(reader.pages)
        if not 0 < pages <= MOST_PAGES:
            raise NotTaken(f"The PDF has {pages} pages; between one and {MOST_PAGES} are kept.")
        if _look_through(reader):
            content = _without_links(reader)
    except NotTaken:
        raise
    except Exception:
        raise NotTaken(
            "The PDF is cut off or damaged: it cannot be read whole. Save it anew, and send it again."
        ) from None
    return Taken(Attachment.Kind.PDF, content, b"", pages=pages)


def _without_links(reader: PdfReader) -> bytes:
    """A PDF as it was, but for the actions that lead out of it."""
    writer = PdfWriter(clone_from=reader)
    waiting: list[Any] = list(writer._objects)
    while waiting:
        found = waiting.pop()
        if isinstance(found, DictionaryObject):
            if found.get("/S") in ELSEWHERE:
                found.clear()
                continue
            if isinstance(found.get("/URI"), (DictionaryObject, IndirectObject)):
                del found["/URI"]
            waiting += [one for one in found.values() if not isinstance(one, IndirectObject)]
        elif isinstance(found, ArrayObject):
            waiting += [one for one in found if not isinstance(one, IndirectObject)]
    kept = io.BytesIO()
    writer.write(kept)
    return kept.getvalue()


def _look_through(reader: PdfReader) -> bool:
    """Looks at every object that a PDF's own tables name, and says whether any leads out of it.

    Raises NotTaken at what may not be in it.
    """
    leads_out = False
    known = {number for table in reader.xref.values() for number in table} | set(reader.xref_objStm)
    if len(known) > MOST_OBJECTS:
        raise NotTaken("The PDF is made of too many pieces to be looked through. Print it to a new PDF.")
    waiting: list[Any] = [reader.trailer]
    for number in known:
        waiting.append(reader.get_object(IndirectObject(number, 0, reader)))
    while waiting:
        found = waiting.pop()
        if isinstance(found, DictionaryObject):
            leads_out = leads_out or found.get("/S") in ELSEWHERE or "/URI" in found
            for key, value in found.items():
                word = key if key in FORBIDDEN else str(value) if key in ("/S", "/Type", "/Subtype") else ""
                if word in FORBIDDEN:
                    raise NotTaken(f"The PDF holds {FORBIDDEN[word]}. Print it to a new PDF, and send that one.")
                # What is named elsewhere is looked at by itself.
                if not isinstance(value, IndirectObject):
                    waiting.append(value)
        elif isinstance(found, ArrayObject):
            waiting += [one for one in found if not isinstance(one, IndirectObject)]
    return leads_out
