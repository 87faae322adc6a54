"""Archived reviews put away: their captures packed together, read as before, and got out again."""

import hashlib
from typing import Any
from unittest.mock import patch

import numpy as np
from django.test import override_settings
from django.utils import timezone

from nomothet.server.feed.models import Change, Head
from nomothet.server.launch.backups.looking import _captures, _recomputed
from nomothet.server.passes.file_pass import store_series
from nomothet.server.passes.models import Chunk, Pack, PackPiece, Pass, Series
from nomothet.server.passes.putting_away import get_out, put_away, reviews_to_tidy
from nomothet.server.reviews.models import Review
from nomothet.server.upkeep.tasks import clean_up, tidy_captures
from tests.server.base import Browser, SceneTest, steady
from tests.server.tasks import AT_ONCE


class PuttingAway(SceneTest):
    passes: list[str]

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.passes = cls.scene.fill(0, [60, 60, 60])

    def setUp(self) -> None:
        super().setUp()
        self.before = self.contents()
        self.review = self.scene.review.pk

    def contents(self) -> dict[int, bytes]:
        return {one.pk: one.content for one in Series.objects.all()}

    def trace(self) -> dict[str, Any]:
        return dict(Browser("reader").json(f"/api/passes/{self.passes[0]}/trace"))

    def archive(self, archived: bool = True) -> None:
        Review.objects.filter(pk=self.review).update(archived_at=timezone.now() if archived else None)

    def item(self) -> dict[str, Any]:
        items: list[dict[str, Any]] = Browser("reader").json("/api/reviews?archived=1")
        return next(one for one in items if one["id"] == self.review)

    def test_archiving_puts_captures_away_and_all_is_read_as_before(self) -> None:
        drawn = self.trace()
        with override_settings(TASKS=AT_ONCE), self.captureOnCommitCallbacks(execute=True):
            Browser("editor").send("put", f"{self.review_path}/archived", {})
        self.assertFalse(Series.objects.exclude(blob=None).exists())
        self.assertFalse(Series.objects.filter(pack=None).exists())
        self.assertEqual(self.contents(), self.before)
        self.assertEqual(self.trace(), drawn)
        item = self.item()
        self.assertEqual(item["put_away"], sum(map(len, self.before.values())))
        self.assertEqual(item["put_away_in"], sum(len(one.data) for one in PackPiece.objects.all()))
        self.assertLess(item["put_away_in"], item["put_away"] + 100)

    def test_lists_are_told_when_it_is_done(self) -> None:
        self.archive()
        before = Head.objects.get().number
        tidy_captures.call(self.review)
        told = list(Change.objects.filter(number__gt=before).values_list("kind", "payload"))
        self.assertEqual(told, [("review", {"review": self.review})])
        tidy_captures.call(self.review)
        self.assertEqual(Head.objects.get().number, before + 1)

    def test_brought_back_each_is_kept_by_itself_again(self) -> None:
        for act in ("put", "delete"):
            with override_settings(TASKS=AT_ONCE), self.captureOnCommitCallbacks(execute=True):
                Browser("editor").send(act, f"{self.review_path}/archived", {})
        self.assertFalse(Pack.objects.exists())
        self.assertFalse(PackPiece.objects.exists())
        self.assertFalse(Series.objects.filter(blob=None).exists())
        self.assertEqual(self.contents(), self.before)
        self.assertEqual((self.item()["put_away"], self.item()["put_away_in"]), (0, 0))

    def test_nothing_of_a_review_in_use_is_packed_and_nothing_of_an_archived_one_got_out(self) -> None:
        self.assertEqual(put_away(self.review).captures, 0)
        self.archive()
        self.assertEqual(put_away(self.review).captures, 3)
        self.assertEqual(put_away(self.review).captures, 0)
        self.assertEqual(get_out(self.review).captures, 0)
        self.assertEqual(self.contents(), self.before)

    def test_long_ones_have_packs_of_their_own_and_come_out_in_pieces(self) -> None:
        noise = np.random.default_rng(1).integers(0, 256, 9 << 20, dtype=np.uint8).tobytes()
        long = store_series(Pass.objects.get(pk=self.passes[0]), "log", "file", noise)
        pieces = Chunk.objects.filter(series=long).count()
        self.archive()
        put_away(self.review)
        self.assertFalse(Chunk.objects.exists())
        packs = {one.pk: one.series.count() for one in Pack.objects.all()}
        self.assertIn(1, packs.values())
        self.assertEqual(Series.objects.get(pk=long.pk).content, noise)
        self.archive(False)
        get_out(self.review)
        self.assertEqual(Chunk.objects.filter(series=long).count(), pieces)
        self.assertEqual(self.contents(), {**self.before, long.pk: noise})

    def test_a_row_that_was_read_before_its_bytes_were_moved_finds_them(self) -> None:
        noise = np.random.default_rng(1).integers(0, 256, 9 << 20, dtype=np.uint8).tobytes()
        long = store_series(Pass.objects.get(pk=self.passes[0]), "log", "file", noise)
        before = list(Series.objects.defer("blob"))
        self.archive()
        put_away(self.review)
        self.assertEqual({one.pk: one.content for one in before}, {**self.before, long.pk: noise})
        packed = list(Series.objects.all())
        self.archive(False)
        get_out(self.review)
        self.assertEqual({one.pk: one.content for one in packed}, {**self.before, long.pk: noise})

    def test_broken_off_between_two_packs_it_goes_on_where_it_was(self) -> None:
        self.archive()
        largest = max(map(len, self.before.values()))
        with patch("nomothet.server.passes.putting_away.PACKED", largest):
            whole, calls = PackPiece.objects.create, 0

            def second_fails(**given: Any) -> PackPiece:
                nonlocal calls
                calls += 1
                if calls == 2:
                    raise OSError("the disk is full")
                return whole(**given)

            with patch.object(PackPiece.objects, "create", side_effect=second_fails), self.assertRaises(OSError):
                put_away(self.review)
            self.assertEqual(Series.objects.filter(pack=None).count(), 2)
            self.assertEqual(self.contents(), self.before)
            self.assertEqual(put_away(self.review).captures, 2)
        self.assertEqual(Pack.objects.count(), 3)
        self.assertEqual(self.contents(), self.before)

    def test_one_that_is_not_what_was_announced_stays(self) -> None:
        first = Series.objects.order_by("pk")[0]
        Series.objects.filter(pk=first.pk).update(sha256=hashlib.sha256(b"else").hexdigest())
        self.archive()
        told = put_away(self.review)
        self.assertEqual((told.captures, told.wrong), (2, 1))
        self.assertEqual(self.contents(), self.before)

    def test_what_was_broken_off_is_tidied_with_the_cleaning(self) -> None:
        self.archive()
        self.assertEqual(reviews_to_tidy(), ([self.review], []))
        with override_settings(TASKS=AT_ONCE):
            clean_up.enqueue()
            self.assertEqual(reviews_to_tidy(), ([], []))
            self.archive(False)
            self.assertEqual(reviews_to_tidy(), ([], [self.review]))
            clean_up.enqueue()
        self.assertEqual(reviews_to_tidy(), ([], []))
        self.assertFalse(Pack.objects.exists())

    def test_a_pass_that_comes_in_later_is_packed_with_the_next_cleaning(self) -> None:
        self.archive()
        put_away(self.review)
        self.scene.owe()
        self.bench.deliver(steady(30, seed=9))
        self.assertEqual(reviews_to_tidy(), ([self.review], []))
        self.assertEqual(put_away(self.review).captures, 1)
        self.assertEqual(Pack.objects.count(), 2)

    def test_a_check_of_a_backup_reads_packs_and_computes_figures_from_them(self) -> None:
        self.archive()
        put_away(self.review)
        wrong: list[str] = []
        self.assertEqual(_captures(wrong), 3)
        self.assertEqual(_recomputed(20, wrong)[0], 3)
        self.assertEqual(wrong, [])
