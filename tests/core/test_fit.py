"""Parts that do not fit one another, at the edges of what is known of them."""

import unittest

from nomothet.core.fit import connectors, misfits
from nomothet.core.notes import note


class Fit(unittest.TestCase):
    def test_a_card_longer_than_the_case_has_room_for(self) -> None:
        for length, room, codes in ((241, 240, ["card_too_long"]), (240, 240, []), (None, 240, []), (241, None, [])):
            with self.subTest(length=length, room=room):
                found = misfits({"graphics": {"length_mm": length}, "case": {"card_mm": room}})
                self.assertEqual([one.code for one in found], codes)

    def test_more_connectors_than_the_supply_has(self) -> None:
        parts = {"graphics": {"connectors": "2 × 8-pin"}, "power_supply": {"connectors": "8-pin"}}
        self.assertEqual(misfits(parts), [note("too_few_connectors", wanted=2, offered=1)])
        parts["power_supply"] = {"connectors": "8-pin, 6-pin"}
        self.assertEqual(misfits(parts), [])
        parts["power_supply"] = {"connectors": ""}
        self.assertEqual(misfits(parts), [])

    def test_two_cards_need_what_both_need(self) -> None:
        parts = {
            "graphics": {"connectors": "8-pin"},
            "graphics 2": {"connectors": "8-pin", "length_mm": 300},
            "power_supply": {"connectors": "8-pin"},
            "case": {"card_mm": 280},
        }
        codes = [one.code for one in misfits(parts)]
        self.assertEqual(codes, ["card_too_long", "too_few_connectors"])
        self.assertEqual(misfits({**parts, "power_supply 2": {"connectors": None}})[1:], [])

    def test_how_many_connectors_a_text_tells_of(self) -> None:
        for text, count in (("2x 8-pin + 6-pin", 3), ("1 × 12-pin", 1), ("none", 0), ("6-pin", 1), (None, None)):
            with self.subTest(text=text):
                self.assertEqual(connectors(text), count)

    def test_nothing_known_is_no_misfit(self) -> None:
        self.assertEqual(misfits({}), [])
