"""The steps from one configuration to the next."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from nomothet.core.change_steps import Fitted, MachineState, change_steps, disagrees
from nomothet.core.quantities import Value
from nomothet.core.settings import setting_of
from nomothet.words import say

SMALL = {
    slot: Fitted(f"small-{at}", f"module {at} of the small kit", "memory_kit") for at, slot in enumerate(("A2", "B2"))
}
LARGE = {
    slot: Fitted(f"large-{at}", f"module {at} of the large kit", "memory_kit") for at, slot in enumerate(("A2", "B2"))
}
CARD = Fitted("card", "the six-gigabyte card", "graphics")
IMAGE = Fitted("image-41", "exhibit image 41", "os_build")


def state(slots: dict[str, Fitted], parts: dict[str, Fitted] | None = None, **settings: Value) -> MachineState:
    return MachineState(parts or {}, slots, settings)


class Steps(unittest.TestCase):
    def test_a_swap_of_memory_has_safety_steps_and_puts_the_profile_back(self) -> None:
        steps = change_steps(state(SMALL, memory_mts=5600, fan_profile=2), state(LARGE, memory_mts=5600, fan_profile=2))
        kinds = [step.kind for step in steps]
        self.assertEqual(kinds[:3], ["safety"] * 3)
        self.assertLess(kinds.index("take_out"), kinds.index("put_in"))
        self.assertLess(kinds.index("put_in"), kinds.index("start_up"))
        restored = [step for step in steps if step.kind == "restore"]
        self.assertEqual([step.key for step in restored], ["set:memory_mts"])
        self.assertIn("5600 MT/s", say(restored[0].does))
        self.assertEqual((restored[0].asks, restored[0].expected), ("memory_mts", 5600))
        self.assertIn("Take module 0 of the small kit out of slot A2.", [say(step.does) for step in steps])

    def test_a_setting_alone_opens_nothing(self) -> None:
        steps = change_steps(state(SMALL, power_limit_w=35, image=41), state(SMALL, power_limit_w=20, image=41))
        self.assertEqual([say(step.does) for step in steps], ["Set power limit from 35 W to 20 W."])
        self.assertEqual(steps[0].kind, "firmware")

    def test_a_setting_that_goes_is_put_back_to_its_default(self) -> None:
        (step,) = change_steps(state({}, cooling_mode="quiet"), state({}))
        self.assertEqual((say(step.does), step.asks), ("Set cooling mode back to its default (it was quiet).", ""))

    def test_what_the_runner_sets_is_no_step(self) -> None:
        self.assertEqual(change_steps(state({}, threads=1), state({}, threads=8)), [])

    def test_without_a_bench_it_is_a_step_like_any_other(self) -> None:
        (step,) = change_steps(state({}, threads=1), state({}, threads=8), by_hand=True)
        self.assertEqual((step.asks, step.expected), ("threads", 8))
        self.assertIn("from 1 to 8", say(step.does))

    def test_a_room_is_brought_to_a_temperature(self) -> None:
        (step,) = change_steps(state({}, ambient_c=22), state({}, ambient_c=30))
        self.assertEqual(say(step.does), "Bring the room to 30 °C.")

    def test_a_part_outside_needs_no_opening(self) -> None:
        steps = change_steps(state({}, {"os_build": IMAGE}), state({}))
        self.assertEqual([step.kind for step in steps], ["take_out"])

    def test_from_an_unknown_machine_everything_is_looked_at(self) -> None:
        steps = change_steps(None, state(SMALL, {"graphics": CARD}, memory_mts=5600))
        self.assertEqual([step.kind for step in steps], ["check", "check", "check", "firmware"])

    def test_observed_values_agree_within_what_firmware_rounds(self) -> None:
        self.assertFalse(disagrees(15, 15.4))
        self.assertTrue(disagrees(15, 18))
        self.assertTrue(disagrees(5600, 4800))
        self.assertFalse(disagrees("image 41 ", "Image 41"))
        self.assertTrue(disagrees(True, False))


SETTINGS: st.SearchStrategy[dict[str, Value]] = st.dictionaries(
    st.sampled_from(["power_limit_w", "memory_mts", "fan_profile", "image", "background"]),
    st.integers(1, 3),
    max_size=5,
)
FILLED = st.dictionaries(
    st.sampled_from(["A1", "A2", "B1", "B2"]),
    st.sampled_from("abcd").map(lambda name: Fitted(name, f"module {name}", "memory_kit")),
)


class Properties(unittest.TestCase):
    @given(FILLED, FILLED, SETTINGS, SETTINGS)
    def test_no_step_that_the_difference_does_not_need(
        self, old: dict[str, Fitted], new: dict[str, Fitted], before: dict[str, Value], after: dict[str, Value]
    ) -> None:
        steps = change_steps(MachineState({}, old, before), MachineState({}, new, after))
        keys = [step.key for step in steps]
        self.assertEqual(len(keys), len(set(keys)))
        moved = {slot for slot in {*old, *new} if old.get(slot) != new.get(slot)}
        self.assertEqual(
            {step.key for step in steps if step.kind == "take_out"}, {f"out:slot {s}" for s in moved & set(old)}
        )
        self.assertEqual(
            {step.key for step in steps if step.kind == "put_in"}, {f"in:slot {s}" for s in moved & set(new)}
        )
        self.assertEqual(any(step.kind == "safety" for step in steps), bool(moved))
        changed = {key for key in {*before, *after} if before.get(key) != after.get(key)}
        for step in steps:
            if step.kind in ("firmware", "system"):
                self.assertIn(step.key.removeprefix("set:"), changed)
            if step.kind == "restore":
                self.assertTrue(moved and "memory_kit" in setting_of(step.asks).reset_by)
        self.assertLessEqual({f"set:{key}" for key in changed}, set(keys))

    @given(FILLED, SETTINGS)
    def test_a_configuration_and_itself_have_no_step_between(
        self, slots: dict[str, Fitted], values: dict[str, Value]
    ) -> None:
        self.assertEqual(change_steps(MachineState({}, slots, values), MachineState({}, slots, values)), [])
