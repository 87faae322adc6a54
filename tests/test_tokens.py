"""Contrast of the design tokens: WCAG 2.2, AA (4.5 to 1), for text on every ground it stands on, light and dark."""

import re
import unittest
from pathlib import Path

CSS = (Path(__file__).resolve().parents[1] / "web" / "src" / "design" / "tokens.css").read_text()

INKS = ["ink", "quiet", "mark", "better", "worse", "level", "undecided"]
GROUNDS = ["paper", "sheet"]
SEALS = [f"seal-{letter}" for letter in "abcdefgh"]
AA = 4.5


def tokens(text: str) -> dict[str, str]:
    return dict(re.findall(r"--color-([\w-]+): (#[0-9a-f]{6});", text))


def luminance(colour: str) -> float:
    """Relative luminance (WCAG 2.2, definitions)."""
    channels = [int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in channels]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(a: str, b: str) -> float:
    light, dark = sorted((luminance(a), luminance(b)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


class Contrast(unittest.TestCase):
    def setUp(self) -> None:
        light, dark = CSS.split(':root[data-scheme="dark"] {', 1)
        self.schemes = {"light": tokens(light), "dark": {**tokens(light), **tokens(dark)}}

    def test_black_on_white_is_twenty_one(self) -> None:
        self.assertAlmostEqual(contrast("#000000", "#ffffff"), 21.0)

    def test_every_ink_reads_on_every_ground(self) -> None:
        for name, scheme in self.schemes.items():
            for ink in INKS:
                for ground in GROUNDS:
                    with self.subTest(scheme=name, ink=ink, ground=ground):
                        self.assertGreaterEqual(contrast(scheme[ink], scheme[ground]), AA)

    def test_bars_and_seals_carry_their_letters(self) -> None:
        for name, scheme in self.schemes.items():
            pairs = [("on-bar", "bar"), ("on-bar-quiet", "bar"), *(("on-seal", seal) for seal in SEALS)]
            for ink, ground in pairs:
                with self.subTest(scheme=name, ink=ink, ground=ground):
                    self.assertGreaterEqual(contrast(scheme[ink], scheme[ground]), AA)
