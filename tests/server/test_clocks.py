"""Benches whose clock is off: their times are kept, said to be doubtful, and decide nothing."""

from datetime import UTC, datetime, timedelta
from typing import Any
from unittest import TestCase

from django.utils import timezone

from nomothet.server.passes.clocks import is_doubtful
from nomothet.server.passes.models import Pass
from nomothet.server.systems.models import Bench, System
from tests.server.base import Browser, SceneTest, steady

NOON = datetime(2026, 11, 3, 12, tzinfo=UTC)


def minutes(number: float) -> timedelta:
    return timedelta(minutes=number)


class Doubtful(TestCase):
    def test_a_time_fits_when_it_lies_between_what_the_server_saw(self) -> None:
        taken, now = NOON, NOON + minutes(10)
        for words, began, lasted_s, off_s, doubtful in (
            ("as it should be", NOON + minutes(1), 300, 0.2, False),
            ("the clock is off", NOON + minutes(1), 300, 45.0, True),
            ("the clock is behind", NOON + minutes(1), 300, -45.0, True),
            ("a bench that tells no clock", NOON + minutes(1), 300, None, False),
            ("before it was taken", NOON - minutes(1), 300, 0.0, True),
            ("over after it came in", NOON + minutes(8), 300, 0.0, True),
        ):
            with self.subTest(words):
                self.assertEqual(is_doubtful(began, lasted_s, off_s, taken, now), doubtful)

    def test_time_that_is_played_fits_however_fast_it_goes(self) -> None:
        self.assertFalse(is_doubtful(NOON - minutes(500), 9000, 0.0, NOON, NOON, simulated=True))
        self.assertTrue(is_doubtful(NOON, 60, 120.0, NOON, NOON, simulated=True))


class Clocks(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        System.objects.filter(pk=self.scene.system.pk).update(simulated=False)

    def run_pass(self, off: timedelta = timedelta(0), **more: Any) -> Pass:
        """A pass of 20 s that has just ended, of a machine whose clock is off."""
        self.scene.owe()
        now = timezone.now()
        told = {"started_at": (now - timedelta(seconds=20) + off).isoformat(), "duration_s": 20.0}
        clock = {"clock": (now + off).isoformat()}
        return Pass.objects.get(pk=self.bench.deliver(steady(60), **told, **clock, **more))

    def shown(self) -> list[str]:
        return [one["time_doubt"] for one in Browser("reader").json(self.cell_path())["passes"]]

    def test_a_clock_that_is_right_is_told_of_nowhere(self) -> None:
        self.assertFalse(self.run_pass().time_doubtful)
        self.assertEqual(self.shown(), [""])
        self.assertEqual(Browser("reader").json(f"/api/systems/{self.scene.system.pk}")["clock_doubt"], "")

    def test_one_that_is_off_is_told_with_its_passes_whose_time_stays_as_it_came(self) -> None:
        owner = self.run_pass(timedelta(hours=3))
        self.assertTrue(owner.time_doubtful)
        self.assertAlmostEqual((owner.started_at - timezone.now()).total_seconds(), 3 * 3600 - 20, delta=60)
        self.assertEqual(self.shown(), ["Its time is doubtful: the bench's clock was 3 h ahead."])
        told = Browser("reader").json(f"/api/systems/{self.scene.system.pk}")["clock_doubt"]
        self.assertIn("Its clock is 3 h ahead of the server's", told)

    def test_every_message_of_a_bench_shows_its_clock(self) -> None:
        for path, body in (("/hello", {"inventory": {}}), ("/next", {"pass_id": "0" * 32})):
            with self.subTest(path):
                Bench.objects.update(clock_off_s=None)
                behind = (timezone.now() - minutes(12)).isoformat()
                self.bench.send("post", path, {**body, "clock": behind})
                self.assertAlmostEqual(Bench.objects.get().clock_off_s or 0.0, -720, delta=30)
                self.bench.send("post", path, body)
                self.assertAlmostEqual(Bench.objects.get().clock_off_s or 0.0, -720, delta=30)

    def test_a_clock_that_is_off_does_not_decide_what_was_written_before_the_first_pass(self) -> None:
        for off in (timedelta(days=2), timedelta(days=-2)):
            with self.subTest(off=off):
                Pass.objects.all().delete()
                before = timezone.now()
                self.run_pass(off)
                review = Browser("reader").json(self.review_path)
                first = datetime.fromisoformat(review["first_pass_at"])
                self.assertTrue(before <= first <= timezone.now(), (before, first))
                self.assertTrue(review["times_doubtful"])

    def test_a_pass_that_was_run_long_before_it_came_in_counts_from_when_it_ran(self) -> None:
        ran = timezone.now() - timedelta(days=3)
        owner = self.run_pass()
        Pass.objects.filter(pk=owner.pk).update(started_at=ran, taken_at=ran, time_doubtful=False)
        review = Browser("reader").json(self.review_path)
        self.assertEqual(datetime.fromisoformat(review["first_pass_at"]), ran)
        self.assertFalse(review["times_doubtful"])
