"""The picture that stands beside a shared address: the question, the answer, and the seals."""

import io
import textwrap
from collections.abc import Mapping

from PIL import Image, ImageDraw, ImageFont

_SIZE = (1200, 630)
_PAPER, _INK, _QUIET, _MARK = "#f7f4ec", "#1d2b36", "#626768", "#b23a2e"
_INKS = ("#33424f", "#2d4fa0", "#0f7b6c", "#a85a08", "#7a3b78", "#8c2f4b", "#4d6420", "#5a4a8f")
_MOST_SEALS = 12
# The typeface at hand has none of these.
_PLAIN = str.maketrans({"−": "-", "–": "-", "“": '"', "”": '"', "’": "'", "×": "x", "…": "..."})


def shared_picture(question: str, answer: str, positions: Mapping[int, int]) -> bytes:
    """A PNG of 1200 by 630, as pages that share addresses show it."""
    image = Image.new("RGB", _SIZE, _PAPER)
    draw = ImageDraw.Draw(image)
    y = _lines(draw, question, 60, 64, 52, _INK, 36, 4)
    draw.rectangle((64, y + 14, 1136, y + 17), fill=_INK)
    _lines(draw, answer, y + 40, 64, 38, _INK, 50, 5)
    for at, position in enumerate(sorted(positions.values())[:_MOST_SEALS]):
        left = 64 + 62 * at
        draw.rounded_rectangle((left, 520, left + 46, 566), 6, fill=_INKS[position % 8])
        letter = chr(ord("A") + position % 26)
        draw.text((left + 23, 543), letter, fill=_PAPER, font=ImageFont.load_default(28), anchor="mm")
    draw.text((1136, 552), "Nomothet", fill=_QUIET, font=ImageFont.load_default(28), anchor="rs")
    draw.rectangle((0, 0, 1200, 12), fill=_MARK)
    out = io.BytesIO()
    image.save(out, "PNG", optimize=True)
    return out.getvalue()


def _lines(
    draw: ImageDraw.ImageDraw, text: str, y: float, x: float, size: int, ink: str, width: int, most: int
) -> float:
    """Lines of a text; returns where the next may begin."""
    font = ImageFont.load_default(size)
    lines = textwrap.wrap(text.translate(_PLAIN), width)
    for line in lines[:most]:
        draw.text((x, y), line, fill=ink, font=font)
        y += size * 1.25
    return y
