"""Rounds and sessions in reviews: told when a pass comes in, and used where they apply."""

import uuid
from datetime import timedelta
from importlib import import_module
from typing import Any

from django.apps import apps
from django.utils import timezone

from nomothet.server.docket.models import Changeover, WorkOrder
from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Review, Test
from tests.server.base import Browser, steady
from tests.server.finding_scene import BEGAN, KindsTest


class ComingIn(KindsTest):
    def bring(self, column: int, minutes: float) -> Pass:
        self.scene.owe(column=column)
        at = (BEGAN + timedelta(minutes=minutes)).isoformat()
        pass_id = self.bench.deliver(steady(60.0), started_at=at)
        return Pass.objects.get(pk=pass_id)

    def test_an_unbroken_stretch_is_one_session(self) -> None:
        first, second = self.bring(0, 0), self.bring(0, 5)
        self.assertEqual((first.session, second.session), (first.pk, first.pk))

    def test_another_configuration_or_six_hours_part_sessions(self) -> None:
        first, other, again, later = (
            self.bring(column, minutes) for column, minutes in ((0, 0), (1, 5), (0, 10), (0, 10 + 361))
        )
        self.assertEqual(len({one.session for one in (first, other, again, later)}), 4)

    def test_a_change_of_the_machine_parts_them_too(self) -> None:
        first = self.bring(0, 0)
        configuration = self.first.configuration
        change = Changeover.objects.create(system=self.scene.system, configuration=configuration)
        Changeover.objects.filter(pk=change.pk).update(done_at=BEGAN + timedelta(minutes=3))
        second = self.bring(0, 5)
        self.assertNotEqual(first.session, second.session)

    def test_only_an_order_of_rounds_makes_rounds(self) -> None:
        self.assertFalse(self.bring(0, 0).in_rounds)
        WorkOrder.objects.create(system=self.scene.system, mode="balanced")
        self.assertTrue(self.bring(0, 5).in_rounds)
        WorkOrder.objects.update(mode="by hand")
        self.assertFalse(self.bring(0, 10).in_rounds)

    def test_sessions_of_earlier_passes_are_found_by_the_migration(self) -> None:
        migration = import_module("nomothet.server.passes.migrations.0010_rounds_and_sessions")
        known = {
            one.pk: one.session for one in (self.bring(0, 0), self.bring(0, 5), self.bring(1, 9), self.bring(0, 14))
        }
        Pass.objects.update(session=None)
        migration.find_sessions(apps, None)
        self.assertEqual({one.pk: one.session for one in Pass.objects.all()}, known)


class Compared(KindsTest):
    def comparison(self) -> dict[str, Any]:
        rows = Browser("reader").json(f"{self.review_path}/matrix")["rows"]
        row = next(one for one in rows if one["test"] == self.walk.pk)
        return row["cells"][str(self.second.pk)]

    def interleaved(self, n: int, drift: float) -> None:
        """Passes one after the other in rounds, each a little slower than the one before."""
        order = [(self.first, 100.0), (self.second, 98.0)]
        at = 0
        for turn in range(n):
            for column, centre in order if turn % 2 == 0 else order[::-1]:
                (owner,) = self.passes(
                    self.walk, column, average_fps=[centre * (1 - drift) ** at * (1 + 0.0004 * (at % 3))]
                )
                Pass.objects.filter(pk=owner.pk).update(in_rounds=True, started_at=BEGAN + timedelta(minutes=at))
                at += 1
        Test.objects.update(stamp=500 + n)

    def test_by_rounds_a_steady_drift_is_taken_out(self) -> None:
        self.interleaved(6, 0.01)
        cell = self.comparison()
        found = cell["comparison"]
        self.assertEqual(found["by"], "rounds")
        self.assertAlmostEqual(found["change"], -2.0, delta=0.15)
        self.assertIn("By rounds", " ".join(cell["basis"]))
        Pass.objects.update(in_rounds=False)
        Test.objects.update(stamp=900)
        plain = self.comparison()["comparison"]
        self.assertEqual(plain["by"], "passes")
        self.assertGreater(plain["high"] - plain["low"], 2 * (found["high"] - found["low"]))

    def test_three_rounds_are_too_few(self) -> None:
        self.interleaved(3, 0.0)
        self.assertEqual(self.comparison()["comparison"]["by"], "passes")

    def sessions(self, groups: int) -> None:
        for column, centre in ((self.first, 100.0), (self.second, 90.0)):
            for at in range(groups):
                shift = 1 + 0.01 * (at - 1)
                passes = self.passes(self.walk, column, average_fps=[centre * shift, centre * shift * 1.0005])
                Pass.objects.filter(pk__in=[one.pk for one in passes]).update(session=uuid.uuid4())
        Test.objects.update(stamp=600 + groups)

    def test_by_sessions_the_interval_knows_what_changes_between_them(self) -> None:
        self.sessions(3)
        cell = self.comparison()
        self.assertEqual(cell["comparison"]["by"], "sessions")
        self.assertIn("By sessions", " ".join(cell["basis"]))
        by_sessions = cell["comparison"]["high"] - cell["comparison"]["low"]
        Pass.objects.update(session=None)
        Test.objects.update(stamp=901)
        plain = self.comparison()["comparison"]
        self.assertLess(plain["high"] - plain["low"], by_sessions)
        self.assertFalse(plain["one_session"])

    def test_one_session_each_is_said(self) -> None:
        self.sessions(1)
        cell = self.comparison()
        self.assertEqual((cell["comparison"]["by"], cell["comparison"]["one_session"]), ("passes", True))
        self.assertIn("One session each", " ".join(cell["basis"]))

    def test_a_pass_whose_session_nobody_knows_says_nothing_of_sessions(self) -> None:
        self.sessions(3)
        owner = Pass.objects.filter(column=self.second).first()
        assert owner is not None
        Pass.objects.filter(pk=owner.pk).update(session=None)
        Review.objects.update(version=77)
        found = self.comparison()["comparison"]
        self.assertEqual((found["by"], found["one_session"]), ("passes", False))


class ByHand(KindsTest):
    def test_a_pass_by_hand_has_a_session_too(self) -> None:
        (entry,) = self.scene.owe()
        tester = Browser("tester")
        path = f"/api/docket/{entry.pk}/hand"
        self.assertIn(tester.send("post", path).status_code, (200, 201))
        body = {"outcome": "completed", "readings": [], "note": "", "duration_s": 60}
        answer = tester.send("post", f"{path}/end", body)
        self.assertIn(answer.status_code, (200, 201), answer.content)
        owner = Pass.objects.get()
        self.assertEqual(owner.session, owner.pk)
        self.assertLess(owner.started_at, timezone.now())
