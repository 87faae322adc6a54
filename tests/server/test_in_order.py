"""What was found in order is not looked through again before something has changed."""

from datetime import timedelta
from unittest import mock

from django.db import transaction
from django.utils import timezone

from nomothet.server.feed.commands import announce
from nomothet.server.feed.in_order import InOrder, last_change
from nomothet.server.feed.models import Change
from nomothet.server.passes import tallies
from nomothet.server.standings import tasks
from tests.server.base import Browser, SceneTest


def change(kind: str) -> None:
    with transaction.atomic():
        announce(kind, review=1)


class Remembered(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        change("review")
        self.held = InOrder()
        self.held.found(last_change())

    def test_it_holds_until_the_next_change_whatever_progress_is_told(self) -> None:
        change("progress")
        self.assertTrue(self.held.still(last_change()))
        change("review")
        self.assertFalse(self.held.still(last_change()))

    def test_the_same_number_at_another_time_is_another_change(self) -> None:
        # As after an older state was brought back, and numbers are given once more.
        Change.objects.update(at=timezone.now() - timedelta(days=1))
        self.assertFalse(self.held.still(last_change()))

    def test_without_any_change_nothing_is_known(self) -> None:
        Change.objects.all().delete()
        self.held.found(last_change())
        self.assertFalse(self.held.still(last_change()))


class Looking(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.fill(0, [60.0, 61.0])
        self.reader = Browser("reader")
        # What was stale is made by the first look; the second finds all in order.
        for _ in range(2):
            self.look()

    def look(self) -> None:
        for path in ("/api/standings", "/api/workloads/fitness"):
            self.assertEqual(self.reader.get(path).status_code, 200)

    def test_lists_look_through_no_tests_while_nothing_changes(self) -> None:
        with (
            mock.patch.object(tallies, "_refresh", side_effect=AssertionError),
            mock.patch.object(tasks, "stale_tests", side_effect=AssertionError),
        ):
            self.look()

    def test_a_pass_that_comes_is_in_the_next_answer(self) -> None:
        self.fill(0, [62.0])
        path = f"/api/standings/{self.scene.scene.key}"
        self.assertEqual(self.reader.json(path)["rows"][0]["n"], 3)
        passes = {one["workload"]: one["passes"] for one in self.reader.json("/api/workloads/fitness")}
        self.assertEqual(passes[self.scene.scene.pk], 3)

    def test_what_could_not_be_made_is_looked_for_again(self) -> None:
        self.fill(0, [62.0])
        with mock.patch.object(tasks, "_MADE_AT_ONCE", 0), mock.patch.object(tasks, "see_to_results"):
            self.assertEqual(self.reader.json("/api/standings")["waiting"], 1)
        self.assertEqual(self.reader.json("/api/standings")["waiting"], 0)
