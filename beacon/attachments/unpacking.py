"""A photograph or a PDF made anew out of what came: upright, without its place, and doing nothing.

It is done in a process of its own (`beacon.own_process`), since what is in a file decides how much that takes.
"""

import io
import json
import math
from typing import Any

import pillow_heif
from PIL import Image, ImageFile, UnidentifiedImageError
from pypdf import PdfReader, PdfWriter
from pypdf.generic import ArrayObject, DictionaryObject, IndirectObject

from beacon.own_process import MB, Refused

pillow_heif.register_heif_opener()
# A larger one is refused by what it would take before it is unpacked, with a sentence.
Image.MAX_IMAGE_PIXELS = None
# What makes pages out of pictures lets half a picture pass, and says so for all.
ImageFile.LOAD_TRUNCATED_IMAGES = False

MOST_PIXELS = 64_000_000
MOST_MEMORY = 250 * MB
"""What unpacking a picture may take, by its size and kind."""
LONGEST_SIDE = 4096
SMALL_SIDE = 480
MOST_PAGES = 200
MOST_OBJECTS = 20_000
ENDS_WITHIN = 2048
"""In how many of its last bytes a PDF says that it ends."""
QUALITY = 88
FORMATS = ("JPEG", "PNG", "WEBP", "HEIF")
STRIP = 256
TURNED = 0x0112
UPRIGHT = {
    2: Image.Transpose.FLIP_LEFT_RIGHT,
    3: Image.Transpose.ROTATE_180,
    4: Image.Transpose.FLIP_TOP_BOTTOM,
    5: Image.Transpose.TRANSPOSE,
    6: Image.Transpose.ROTATE_270,
    7: Image.Transpose.TRANSVERSE,
    8: Image.Transpose.ROTATE_90,
}
"""How a picture is set upright, by what its camera says of how it was held (Exif 2.3, orientation)."""
BYTES_A_PIXEL = {"PNG": 4, "WEBP": 12, "HEIF": 14}
"""What a pixel takes while a picture is unpacked whole: as the library of its kind holds it, and as it is handed on."""
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


def work(content: bytes) -> bytes:
    """A file as it is kept: a line of JSON about it, then its content and its thumbnail. Raises Refused."""
    is_document = content[:1024].lstrip().startswith(b"%PDF-")
    about, kept, small = _document(content) if is_document else _picture(content)
    return json.dumps(about | {"length": len(kept)}).encode() + b"\n" + kept + small


Made = tuple[dict[str, Any], bytes, bytes]


def _picture(content: bytes) -> Made:
    try:
        # Of a WebP all is made room for as soon as it is opened.
        _bounded("WEBP", *_size_of_webp(content))
        with Image.open(io.BytesIO(content), formats=FORMATS) as opened:
            _small_enough(opened)
            plain = opened.format == "PNG"
            opened.load()
            turned = opened.getexif().get(TURNED, 1)
            upright = _sized(opened if opened.mode in ("RGB", "RGBA") else opened.convert("RGB"))
            opened.close()
        if turned in UPRIGHT:
            upright = upright.transpose(UPRIGHT[turned])
    except UnidentifiedImageError:
        raise Refused(
            "That is no photograph and no PDF, whatever its name says. JPEG, PNG, WebP, HEIC and PDF are kept."
        ) from None
    except (Refused, MemoryError):
        raise
    except Exception:
        raise Refused("The photograph is cut off or damaged: it cannot be read whole. Send it again.") from None
    small = upright.reduce(max(1, max(upright.size) // (2 * SMALL_SIDE)))
    small.thumbnail((SMALL_SIDE, SMALL_SIDE))
    about = {"kind": "image/png" if plain else "image/jpeg", "width": upright.width, "height": upright.height}
    return about, _written(upright, plain), _written(small, False)


def _sized(whole: Image.Image) -> Image.Image:
    """A new picture no longer than is kept, in colours alone: no place, no maker, no thumbnail of another crop.

    It is made a strip at a time, so that nothing of its whole width and height is held beside the two.
    """
    scale = min(1.0, LONGEST_SIDE / max(whole.size))
    width, height = (max(1, round(side * scale)) for side in whole.size)
    made = Image.new("RGB", (width, height))
    for top in range(0, height, STRIP):
        under = min(top + STRIP, height)
        box = (0, top * whole.height / height, whole.width, under * whole.height / height)
        strip = (
            whole.resize((width, under - top), Image.Resampling.LANCZOS, box)
            if scale < 1
            else whole.crop((0, top, width, under))
        )
        made.paste(strip, (0, top))
    return made


def _small_enough(opened: Image.Image) -> None:
    """Takes a JPEG at a part of its size where that is enough. Raises Refused for what would take too much."""
    width, height = opened.size
    pixels = width * height
    if pixels > MOST_PIXELS:
        raise Refused(
            f"The picture has {pixels / 1e6:.0f} megapixels; at most {MOST_PIXELS / 1e6:.0f} are read. {SMALLER}"
        )
    if opened.format == "JPEG":
        least = LONGEST_SIDE * 3 / 4
        scale = max([1, *(each for each in (2, 4, 8) if max(width, height) / each >= least)])
        opened.draft(None, (math.ceil(width / scale), math.ceil(height / scale)))
        held = opened.width * opened.height * (8 if opened.mode == "CMYK" else 4)
        if "progressive" in opened.info or "progression" in opened.info:
            # All of it is held before the first line of it can be made.
            held += 2 * round(pixels * _sampled(getattr(opened, "layer", [])))
        _bounded("JPEG", *opened.size, held)
    else:
        _bounded(str(opened.format), *opened.size, 0 if opened.mode in ("RGB", "RGBA") else 4 * pixels)


def _bounded(kind: str, width: int, height: int, more: int = 0) -> None:
    """Raises Refused where unpacking takes too much: what its kind takes, `more`, and what is made of it."""
    pixels = width * height
    held = pixels * BYTES_A_PIXEL.get(kind, 0) + more
    held += 4 * round(pixels * min(1.0, LONGEST_SIDE / max(width, height, 1)) ** 2)
    if held > MOST_MEMORY:
        raise Refused(
            f"A picture of this kind with {pixels / 1e6:.0f} megapixels takes too much to be unpacked. {SMALLER}"
        )


def _size_of_webp(content: bytes) -> tuple[int, int]:
    """Width and height that a WebP says of itself (RFC 9649); nothing where it is none, or not of several parts."""
    if content[:4] != b"RIFF" or content[8:12] != b"WEBP":
        return 0, 0
    kind, head = content[12:16], content[20:30]
    if kind == b"VP8X":
        return int.from_bytes(head[4:7], "little") + 1, int.from_bytes(head[7:10], "little") + 1
    if kind == b"VP8L":
        sides = int.from_bytes(head[1:5], "little")
        return (sides & 0x3FFF) + 1, (sides >> 14 & 0x3FFF) + 1
    return int.from_bytes(head[6:8], "little") & 0x3FFF, int.from_bytes(head[8:10], "little") & 0x3FFF


SMALLER = "Choose a smaller size in the camera."


def _sampled(layers: list[Any]) -> float:
    """How many figures a JPEG holds for a pixel, by how its parts are sampled."""
    if not layers:
        return 4.0
    most = max(one[1] for one in layers) * max(one[2] for one in layers)
    return float(sum(one[1] * one[2] for one in layers) / most)


def _written(picture: Image.Image, plain: bool) -> bytes:
    kept = io.BytesIO()
    if plain:
        picture.save(kept, "PNG", compress_level=3)
    else:
        picture.save(kept, "JPEG", quality=QUALITY)
    return kept.getvalue()


def _document(content: bytes) -> Made:
    if b"%%EOF" not in content[-ENDS_WITHIN:]:
        raise Refused("The PDF is cut off: its end is missing. Send it again.")
    try:
        reader = PdfReader(io.BytesIO(content), strict=False)
        if reader.is_encrypted:
            raise Refused("The PDF is locked with a password. Save it without one, and send it again.")
        pages = len(reader.pages)
        if not 0 < pages <= MOST_PAGES:
            raise Refused(f"The PDF has {pages} pages; between one and {MOST_PAGES} are kept.")
        named = {number for table in reader.xref.values() for number in table} | set(reader.xref_objStm)
        if len(named) > MOST_OBJECTS:
            raise Refused("The PDF is made of too many pieces to be looked through. Print it to a new PDF.")
        kept = _anew(reader)
    except (Refused, MemoryError):
        raise
    except Exception:
        raise Refused(
            "The PDF is cut off or damaged: it cannot be read whole. Save it anew, and send it again."
        ) from None
    return {"kind": "application/pdf", "pages": pages}, kept, b""


def _anew(reader: PdfReader) -> bytes:
    """A PDF of what its pages need, written anew: no piece of the file that came is kept as it lay there.

    Everything that is written is looked at where it is written from, whatever number or generation it had.
    Raises Refused at what may not be in it.
    """
    writer = PdfWriter(clone_from=reader)
    writer.metadata = None
    waiting: list[Any] = list(writer._objects)
    while waiting:
        found = waiting.pop()
        if isinstance(found, DictionaryObject):
            _harmless(found)
            waiting += [one for one in found.values() if not isinstance(one, IndirectObject)]
        elif isinstance(found, ArrayObject):
            waiting += [one for one in found if not isinstance(one, IndirectObject)]
    kept = io.BytesIO()
    writer.write(kept)
    return kept.getvalue()


def _harmless(found: DictionaryObject) -> None:
    """Drops what leads out of a PDF. Raises Refused at what does something."""
    for key, value in found.items():
        word = key if key in FORBIDDEN else str(_plain(value)) if key in ("/S", "/Type", "/Subtype") else ""
        if word in FORBIDDEN:
            raise Refused(f"The PDF holds {FORBIDDEN[word]}. Print it to a new PDF, and send that one.")
    if str(_plain(found.get("/S"))) in ELSEWHERE:
        found.clear()
    elif isinstance(found.get("/URI"), (DictionaryObject, IndirectObject)):
        del found["/URI"]


def _plain(value: Any) -> Any:
    return value.get_object() if isinstance(value, IndirectObject) else value
