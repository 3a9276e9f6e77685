"""Photographs for the demo, drawn here: a weighbridge's ticket on a clipboard, a plate on a frame."""

import io
import random

from PIL import Image, ImageDraw, ImageFilter, ImageFont

PAPER, INK, BOARD, STEEL = (243, 241, 232), (38, 40, 46), (112, 88, 62), (148, 156, 158)


def ticket(number: str, lines: list[tuple[str, str]], lean: float = 2.5) -> bytes:
    """A printed ticket lying on a clipboard, a little askew, as a JPEG."""
    paper = Image.new("RGB", (900, 620), PAPER)
    draw = ImageDraw.Draw(paper)
    draw.text((60, 44), "GANNET NESS KELP & SHELL", INK, ImageFont.load_default(34))
    draw.text((60, 96), f"Haulage Shed weighbridge   ticket {number}", INK, ImageFont.load_default(28))
    draw.line((60, 150, 840, 150), INK, 2)
    for place, (name, text) in enumerate(lines):
        draw.text((60, 186 + place * 92), name, INK, ImageFont.load_default(38))
        draw.text((840, 176 + place * 92), text, INK, ImageFont.load_default(58), anchor="ra")
    return _photographed(paper, BOARD, lean, number)


def plate(lines: list[str]) -> bytes:
    """A riveted plate on a painted frame, as a JPEG."""
    steel = Image.new("RGB", (860, 560), STEEL)
    draw = ImageDraw.Draw(steel)
    for x in (36, 824):
        for y in (36, 524):
            draw.ellipse((x - 14, y - 14, x + 14, y + 14), (96, 102, 104))
    for place, text in enumerate(lines):
        draw.text((90, 70 + place * 74), text, (24, 27, 30), ImageFont.load_default(44 if place else 54))
    return _photographed(steel, (52, 78, 84), -1.5, lines[0])


def _photographed(flat: Image.Image, behind: tuple[int, int, int], lean: float, seed: str) -> bytes:
    """A flat thing as someone photographs it: askew, uneven light, a little soft."""
    draw = random.Random(seed)
    scene = Image.new("RGB", (1200, 860), behind)
    turned = flat.convert("RGBA").rotate(lean, expand=True, resample=Image.Resampling.BICUBIC)
    scene.paste(turned, ((1200 - turned.width) // 2, (860 - turned.height) // 2), turned)
    light = Image.linear_gradient("L").resize(scene.size).rotate(draw.choice((0, 90, 180)), expand=False)
    shade = Image.new("RGB", scene.size, (30, 34, 38))
    scene = Image.composite(scene, Image.blend(scene, shade, 0.35), light.point(lambda v: 120 + v // 2))
    kept = io.BytesIO()
    scene.filter(ImageFilter.GaussianBlur(0.8)).save(kept, "JPEG", quality=82)
    return kept.getvalue()
