"""Searches as settings and records."""

import unittest

from nomothet.core.errors import BadPlan
from nomothet.core.load_search import Attempt
from nomothet.formats.searches import attempt_as_dict, attempts_of, load_words, plan_of, rungs_of


class Settings(unittest.TestCase):
    def test_what_is_not_given_keeps_its_default(self) -> None:
        plan = plan_of({"start": 4, "resolution": 1, "seconds": 5, "soak_s": ""})
        self.assertEqual((plan.start, plan.growth, plan.confirm, plan.soak_s), (4, 1.5, 3, 0.0))

    def test_rungs_are_names_in_text_or_in_a_list(self) -> None:
        self.assertEqual(rungs_of({"rungs": "high, medium,low"}), ["high", "medium", "low"])
        self.assertEqual(plan_of({"rungs": ["4K", "1080p"]}).rungs, 2)
        self.assertEqual(load_words({"rungs": "high,low"}, 1, ""), "low")
        self.assertEqual(load_words({}, 12, "cameras"), "12 cameras")

    def test_settings_that_make_no_search_are_refused(self) -> None:
        for wrong in ({"start": "many"}, {"start": 1.5}, {"growth": True}, {"start": 10**12}, {"soak_s": [1]}):
            with self.subTest(wrong=wrong), self.assertRaises(BadPlan):
                plan_of(wrong)

    def test_records_come_back_as_the_attempts_they_were(self) -> None:
        attempt = Attempt(12, False, True, 3.5, "late")
        record = attempt_as_dict(attempt, "hot", {"clock": {"mean": 4000}})
        self.assertEqual(attempts_of([record]), [attempt])
