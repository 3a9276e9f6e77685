"""Photographs and PDF for the tests, made as they are wanted."""

import io
from typing import Any

from PIL import Image
from pypdf import PdfWriter
from pypdf.annotations import Link
from pypdf.generic import DictionaryObject, NameObject, TextStringObject


def photograph(
    size: tuple[int, int] = (640, 480), kind: str = "JPEG", turned: bool = False, place: bool = False
) -> bytes:
    """A photograph, left half dark: with `turned` it lies on its side, with `place` it says where it was taken."""
    picture = Image.new("RGB", size, (220, 225, 224))
    picture.paste((16, 34, 43), (0, 0, size[0] // 2, size[1]))
    exif = Image.Exif()
    if turned:
        exif[0x0112] = 6
    if place:
        exif.get_ifd(0x8825)[1] = "N"
        exif.get_ifd(0x8825)[2] = (56.0, 1.0, 2.0)
    kept = io.BytesIO()
    picture.save(kept, kind, **({"exif": exif} if kind in ("JPEG", "WEBP", "HEIF") else {}))
    return kept.getvalue()


def opened(content: bytes) -> Image.Image:
    """A picture as it was kept."""
    return Image.open(io.BytesIO(content))


def document(script: str = "", attached: bool = False, password: str = "", pages: int = 1, link: str = "") -> bytes:
    """A PDF; with a script, with another file inside it, with a link to an address, or locked."""
    writer = PdfWriter()
    for _ in range(pages):
        writer.add_blank_page(width=200, height=200)
    if script:
        action = {NameObject("/S"): NameObject("/JavaScript"), NameObject("/JS"): TextStringObject(script)}
        writer.root_object[NameObject("/OpenAction")] = DictionaryObject(action)
    if link:
        writer.add_annotation(0, Link(rect=(0, 0, 100, 100), url=link))
    if attached:
        writer.add_attachment("inside.txt", b"x")
    if password:
        writer.encrypt(password, algorithm="RC4-128")
    kept: Any = io.BytesIO()
    writer.write(kept)
    return bytes(kept.getvalue())


def by_hand(generation: int) -> bytes:
    """A PDF with a script that runs when it is opened, in a piece of this generation, as its own table says."""
    pieces = [
        (1, 0, f"<< /Type /Catalog /Pages 2 0 R /OpenAction 4 {generation} R >>"),
        (2, 0, "<< /Type /Pages /Kids [3 0 R] /Count 1 >>"),
        (3, 0, "<< /Type /Page /Parent 2 0 R /MediaBox [0 0 200 200] >>"),
        (4, generation, "<< /S /JavaScript /JS (app.alert\\(1\\)) >>"),
    ]
    text, places = b"%PDF-1.4\n", []
    for number, of, what in pieces:
        places.append((len(text), of))
        text += f"{number} {of} obj\n{what}\nendobj\n".encode()
    table = "".join(f"{place:010d} {of:05d} n \n" for place, of in places)
    end = f"xref\n0 5\n0000000000 65535 f \n{table}trailer\n<< /Size 5 /Root 1 0 R >>\n"
    return text + f"{end}startxref\n{len(text)}\n%%EOF\n".encode()
