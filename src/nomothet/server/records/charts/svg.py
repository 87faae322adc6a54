"""Elements of SVG 2 as text; every value is escaped."""

from html import escape

# The roles of colours; a page may set them, and a chart that stands alone has the light ones.
INK = "var(--ink, #1d2b36)"
SHEET = "var(--sheet, #fffdf8)"
LINE = "var(--line, #d9d3c3)"
QUIET = "var(--quiet, #626768)"
MARK = "var(--mark, #b23a2e)"
BAND = "var(--band, #ece6d6)"
LEVEL = "var(--level, #5b6770)"
VERDICTS = {
    "ahead": "var(--better, #0d7163)", "slightly ahead": "var(--better, #0d7163)",
    "behind": "var(--worse, #a8431f)", "slightly behind": "var(--worse, #a8431f)",
    "level": LEVEL, "undecided": "var(--undecided, #746629)", "noise unknown": "var(--undecided, #746629)",
}  # fmt: skip
_SEAL_INKS = ("#33424f", "#2d4fa0", "#0f7b6c", "#a85a08", "#7a3b78", "#8c2f4b", "#4d6420", "#5a4a8f")
# Outlines in a box of 24, in the order of the letters.
_SEAL_SHAPES = (
    "M4 4h16v16H4z",
    "M12 3a9 9 0 1 1 0 18a9 9 0 1 1 0-18z",
    "M12 2.5L22 20.5H2z",
    "M12 2L22 12L12 22L2 12z",
    "M12 2.5L21.5 9.5L18 20.5H6L2.5 9.5z",
    "M7 3.5h10l5 8.5l-5 8.5H7l-5-8.5z",
    "M4 3h16v9c0 5-4 8-8 9.5C8 20 4 17 4 12z",
    "M12 2c4 5 7 8 7 12a7 7 0 0 1-14 0c0-4 3-7 7-12z",
)


def tag(name: str, content: str = "", /, **attributes: object) -> str:
    """An element; `_` in a name of an attribute is `-`, and what is None is left out.

    >>> tag("line", x1=1, stroke_width=2.5, stroke_dasharray=None)
    '<line x1="1" stroke-width="2.5"/>'
    """
    told = "".join(
        f' {key.strip("_").replace("_", "-")}="{escape(_plain(value))}"'
        for key, value in attributes.items()
        if value is not None
    )
    return f"<{name}{told}>{content}</{name}>" if content else f"<{name}{told}/>"


def words(text: str, x: float, y: float, **attributes: object) -> str:
    """A text at a place."""
    return tag("text", escape(text), x=x, y=y, **{"fill": INK, **attributes})


def cut(text: str, most: int) -> str:
    """A label as long as there is room for; what tells it from others stands at its end, and is kept.

    >>> cut("Reef Walk 2, kelp tunnel", 18), cut("Reef Walk and back", 12)
    ('Reef…, kelp tunnel', 'Reef Walk a…')
    """
    if len(text) <= most:
        return text
    head, comma, tail = text.rpartition(", ")
    room = most - len(tail) - 3
    if comma and room >= 3:
        return f"{head[:room].rstrip(' ,')}…, {tail}"
    return f"{text[: most - 1].rstrip(' ,')}…"


def seal(position: int, x: float, y: float, size: float = 18) -> str:
    """The seal of a configuration, centred at a place."""
    ink = f"var(--seal-{position % 8}, {_SEAL_INKS[position % 8]})"
    letter = letter_of(position)
    scale = size / 28
    inner = tag("path", d=_SEAL_SHAPES[position % 8], fill=ink) + tag(
        "text", letter, x=12, y=16.6 if position % 8 == 2 else 16, text_anchor="middle", font_size=11, font_weight=700,
        fill=SHEET,
    )  # fmt: skip
    return tag("g", inner, transform=f"translate({_plain(x - 12 * scale)} {_plain(y - 12 * scale)}) scale({scale:.3f})")


def letter_of(position: int) -> str:
    """The letter of a seal: A, B … Z, then AA, AB …"""
    letter = chr(ord("A") + position % 26)
    return letter if position < 26 else f"A{letter}"


def picture(content: str, width: float, height: float, label: str, *, alone: bool) -> str:
    """A whole picture with its text alternative.

    Parameters
    ----------
    alone : bool
        Whether it is a file of its own.
    """
    space = {"xmlns": "http://www.w3.org/2000/svg"} if alone else {}
    ground = tag("rect", width=width, height=height, fill="#f7f4ec") if alone else ""
    return tag(
        "svg", tag("title", escape(label)) + ground + content, **space, viewBox=f"0 0 {_plain(width)} {_plain(height)}",
        role="img", font_family="'Source Sans 3', system-ui, sans-serif", font_size=12,
        width=_plain(width) if alone else None,
    )  # fmt: skip


def _plain(value: object) -> str:
    return f"{value:.1f}".removesuffix(".0") if isinstance(value, float) else str(value)
