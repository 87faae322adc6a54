"""Memory arithmetic and slot maps: section 15."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from nomothet.core.errors import BadSlots
from nomothet.core.memory import (
    Module,
    Slot,
    SlotMap,
    SpeedLimit,
    check_slot_map,
    first_slots,
    first_word_latency_ns,
    peak_bandwidth_gbs,
    populate,
    transfer_rate,
)
from nomothet.words.slots import slot_remedy, slot_words

FOUR = SlotMap(
    (Slot("A1", "A", 3), Slot("A2", "A", 1), Slot("B1", "B", 4), Slot("B2", "B", 2)),
    max_gb=128,
    max_module_gb=32,
    speeds=(SpeedLimit(1, 5600), SpeedLimit(2, 4400)),
    takes_ecc=False,
)


def modules(*slots: str, kit: str = "kit", gb: float = 8, mts: float = 5600, ecc: bool = False) -> dict[str, Module]:
    return {slot: Module(kit, gb, mts, 1, ecc) for slot in slots}


class Arithmetic(unittest.TestCase):
    def test_the_worked_examples(self) -> None:
        self.assertAlmostEqual(peak_bandwidth_gbs(5600, 2), 89.6)
        self.assertAlmostEqual(first_word_latency_ns(36, 5600), 12.857, places=3)

    def test_half_a_rate_is_recognised_and_a_low_one_is_not(self) -> None:
        self.assertTrue(transfer_rate(2800, 5600).halved)
        self.assertEqual(transfer_rate(2793, 5600).rate_mts, 5586)
        self.assertFalse(transfer_rate(4800, 5600).halved)
        self.assertEqual(transfer_rate(3600, 5600).rate_mts, 3600)


class Slots(unittest.TestCase):
    def kinds(self, fitted: dict[str, Module], set_mts: float | None = None) -> list[str]:
        return [mistake.kind for mistake in populate(FOUR, fitted, set_mts).mistakes]

    def test_two_modules_in_the_right_slots_use_two_channels(self) -> None:
        found = populate(FOUR, modules("A2", "B2"))
        self.assertEqual((found.channels, found.capacity_gb, found.mistakes), (2, 16, []))
        self.assertAlmostEqual(found.peak_gbs or 0, 89.6)

    def test_two_modules_on_one_channel_are_told_with_the_right_slots(self) -> None:
        found = populate(FOUR, modules("A1", "A2"), set_mts=4400)
        self.assertEqual(found.channels, 1)
        wrong = found.mistakes[0]
        self.assertEqual((wrong.kind, wrong.slots), ("wrong slots", ("A1",)))
        self.assertEqual(slot_remedy(wrong), "Put them into A2 and B2.")
        self.assertIn("only 1 channel of 2", slot_words(wrong))

    def test_wrong_slots_on_both_channels_are_told_too(self) -> None:
        self.assertEqual(self.kinds(modules("A1", "B1")), ["wrong slots"])

    def test_each_limit_of_the_board_is_told(self) -> None:
        self.assertIn("over the speed", self.kinds(modules("A1", "A2", "B1", "B2")))
        self.assertEqual(self.kinds(modules("A1", "A2", "B1", "B2"), set_mts=4400), [])
        self.assertIn("over the capacity of a slot", self.kinds(modules("A2", "B2", gb=48)))
        self.assertIn("over the capacity", self.kinds(modules("A1", "A2", "B1", "B2", gb=48), set_mts=4400))
        self.assertIn("refused module", self.kinds(modules("A2", "B2", ecc=True)))
        self.assertIn("over the rating", self.kinds(modules("A2", "B2", mts=4800), set_mts=5600))

    def test_mixed_kits_and_uneven_channels_are_told(self) -> None:
        mixed = modules("A2", kit="one") | modules("B2", kit="two", gb=16)
        self.assertEqual(self.kinds(mixed), ["uneven channels", "mixed kits"])
        self.assertIn("mixed correction", self.kinds(modules("A2") | modules("B2", ecc=True)))

    def test_a_slot_that_does_not_exist_is_refused_by_name(self) -> None:
        with self.assertRaises(BadSlots) as refused:
            populate(FOUR, modules("C1"))
        self.assertEqual(refused.exception.slot, "C1")
        self.assertIn("A1, A2, B1, B2", str(refused.exception))

    def test_impossible_maps_are_refused(self) -> None:
        for slots in (
            SlotMap((Slot("A1", "A", 1), Slot("A1", "B", 2))),
            SlotMap((Slot("A1", "A", 1), Slot("B1", "B", 1))),
            SlotMap((Slot("A1", "A", 0),)),
            SlotMap((Slot("", "A", 1),)),
            SlotMap((Slot("A1", "A", 1),), max_gb=-4),
            SlotMap((Slot("A1", "A", 1),), speeds=(SpeedLimit(0, 4000),)),
        ):
            with self.subTest(slots=slots), self.assertRaises(BadSlots):
                check_slot_map(slots)
        check_slot_map(FOUR)


@st.composite
def slot_maps(draw: st.DrawFn) -> SlotMap:
    """Boards with one to four channels of one or two slots, filled one per channel first, as boards are."""
    channels = draw(st.integers(1, 4))
    each = draw(st.integers(1, 2))
    slots = tuple(
        Slot(f"{'ABCD'[channel]}{row + 1}", "ABCD"[channel], row * channels + channel + 1)
        for channel in range(channels)
        for row in range(each)
    )
    return SlotMap(slots)


class SlotProperties(unittest.TestCase):
    @given(slot_maps(), st.data())
    def test_modules_where_the_board_wants_them_make_no_mistake_and_use_most_channels(
        self, board: SlotMap, data: st.DataObject
    ) -> None:
        count = data.draw(st.integers(1, len(board.slots)))
        right = populate(board, modules(*first_slots(board, count)))
        self.assertEqual(right.channels, min(count, len(board.channels)))
        self.assertNotIn("wrong slots", [mistake.kind for mistake in right.mistakes])
        chosen = data.draw(st.permutations([slot.name for slot in board.slots]))[:count]
        other = populate(board, modules(*chosen))
        self.assertLessEqual(other.channels, right.channels)
        self.assertEqual(other.capacity_gb, right.capacity_gb)
        wrong = [mistake for mistake in other.mistakes if mistake.kind == "wrong slots"]
        self.assertEqual(bool(wrong), set(chosen) != set(first_slots(board, count)))

    @given(slot_maps(), st.data())
    def test_every_slot_named_by_a_mistake_holds_a_module(self, board: SlotMap, data: st.DataObject) -> None:
        chosen = data.draw(st.lists(st.sampled_from([slot.name for slot in board.slots]), unique=True))
        sizes = data.draw(st.lists(st.sampled_from([4, 8, 16]), min_size=len(chosen), max_size=len(chosen)))
        fitted = {name: Module("kit", gb, 5600) for name, gb in zip(chosen, sizes, strict=True)}
        found = populate(board, fitted)
        self.assertEqual(found.modules, len(chosen))
        for mistake in found.mistakes:
            self.assertLessEqual(set(mistake.slots), set(fitted))
