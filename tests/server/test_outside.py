"""Captures in a store outside the database: moved there and back, read all the same, and never lost on the way."""

import hashlib
from datetime import UTC, datetime, timedelta
from typing import Any

import numpy as np
from boto3.s3.transfer import TransferConfig
from django.conf import settings
from django.test import override_settings

from nomothet.formats.series import pack
from nomothet.server.launch.backups.looking import _captures, _recomputed
from nomothet.server.passes import outside
from nomothet.server.passes.file_pass import store_series
from nomothet.server.passes.models import Chunk, Pass, Series
from nomothet.server.passes.moving import Moved, move_back, move_out
from nomothet.server.passes.outside import StoreAway
from tests.server.base import Browser, SceneTest, steady
from tests.server.object_store import ObjectStore


def told_of(address: str) -> dict[str, Any]:
    options = {
        "bucket_name": "measured", "endpoint_url": address, "region_name": "us-east-1", "access_key": "key",
        "secret_key": "secret", "addressing_style": "path", "default_acl": None, "location": "captures",
        "transfer_config": TransferConfig(multipart_threshold=4 << 30, use_threads=False),
    }  # fmt: skip
    return {**settings.STORAGES, outside.ALIAS: {"BACKEND": "storages.backends.s3.S3Storage", "OPTIONS": options}}


class Outside(SceneTest):
    passes: list[str]

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.passes = cls.scene.fill(0, [60, 60, 60])

    def setUp(self) -> None:
        super().setUp()
        self.store = self.enterContext(ObjectStore())
        self.enterContext(override_settings(STORAGES=told_of(self.store.address)))
        self.before = {one.pk: one.content for one in Series.objects.all()}

    def contents(self) -> dict[int, bytes]:
        return {one.pk: one.content for one in Series.objects.all()}

    def trace(self, which: int = 0) -> dict[str, Any]:
        return dict(Browser("reader").json(f"/api/passes/{self.passes[which]}/trace"))

    def test_moved_out_they_are_read_as_before_and_not_kept_twice(self) -> None:
        drawn = self.trace()
        moved = move_out()
        self.assertEqual((moved.captures, moved.wrong), (3, 0))
        self.assertEqual(moved.size, sum(map(len, self.before.values())))
        self.assertEqual(len(self.store.objects), 3)
        self.assertFalse(Series.objects.exclude(blob=None).exists())
        self.assertEqual(self.contents(), self.before)
        self.assertEqual(self.trace(), drawn)
        self.assertEqual(move_out().captures, 0)

    def test_moved_back_they_are_in_the_database_and_the_store_keeps_its_own(self) -> None:
        move_out()
        self.assertEqual(move_back().captures, 3)
        self.assertFalse(Series.objects.exclude(stored_as="").exists())
        self.assertEqual(len(self.store.objects), 3)
        self.store.objects.clear()
        self.assertEqual(self.contents(), self.before)

    def test_a_long_one_goes_and_comes_back_in_pieces(self) -> None:
        noise = np.random.default_rng(1).integers(0, 256, 9 << 20, dtype=np.uint8).tobytes()
        long = store_series(Pass.objects.get(pk=self.passes[0]), "log", "file", noise)
        pieces = Chunk.objects.filter(series=long).count()
        self.assertGreater(pieces, 1)
        move_out()
        self.assertFalse(Chunk.objects.exists())
        self.assertEqual(Series.objects.get(pk=long.pk).content, noise)
        move_back()
        self.assertEqual(Chunk.objects.filter(series=long).count(), pieces)
        self.assertEqual(Series.objects.get(pk=long.pk).content, noise)

    def test_broken_off_nothing_is_lost_and_it_goes_on_where_it_was(self) -> None:
        self.store.room = 2
        with self.assertRaises(StoreAway):
            move_out()
        self.assertEqual(Series.objects.exclude(stored_as="").count(), 2)
        self.assertEqual(self.contents(), self.before)
        self.store.room = None
        self.assertEqual(move_out().captures, 1)
        self.assertEqual(self.contents(), self.before)

    def test_only_old_ones_are_moved_when_it_says_so(self) -> None:
        Pass.objects.filter(pk=self.passes[0]).update(whole_at=datetime.now(UTC) - timedelta(days=30))
        told: list[Moved] = []
        self.assertEqual(move_out(datetime.now(UTC) - timedelta(days=7), told.append).captures, 1)
        self.assertEqual(len(told), 1)

    def test_one_that_is_not_what_was_announced_stays(self) -> None:
        first = Series.objects.order_by("pk").first()
        assert first is not None
        Series.objects.filter(pk=first.pk).update(sha256=hashlib.sha256(b"else").hexdigest())
        moved = move_out()
        self.assertEqual((moved.captures, moved.wrong), (2, 1))
        self.assertEqual(self.contents(), self.before)

    def test_a_store_that_has_something_else_is_found_out(self) -> None:
        move_out()
        for path in self.store.objects:
            self.store.objects[path] = pack({"frame_ms": steady(30)})
        answer = Browser("reader").get(f"/api/passes/{self.passes[0]}/trace")
        self.assertEqual(answer.status_code, 503)
        self.assertIn("something else", answer.content.decode())

    def test_a_check_of_a_backup_names_what_only_the_store_has(self) -> None:
        wrong: list[str] = []
        self.assertEqual(_captures(wrong), 3)
        move_out()
        plain = {name: one for name, one in settings.STORAGES.items() if name != outside.ALIAS}
        with override_settings(STORAGES=plain):
            self.assertEqual(_captures(wrong), 0)
            self.assertEqual(_recomputed(20, wrong)[0], 3)
        self.assertEqual(sum("is in no backup" in one for one in wrong), 3)
        self.assertEqual(sum("cannot be computed anew" in one for one in wrong), 3)

    def test_without_its_store_an_installation_says_so(self) -> None:
        move_out()
        plain = {name: one for name, one in settings.STORAGES.items() if name != outside.ALIAS}
        with override_settings(STORAGES=plain):
            answer = Browser("reader").get(f"/api/passes/{self.passes[0]}/trace")
            self.assertEqual(answer.status_code, 503)
            self.assertIn("NOMOTHET_S3_BUCKET", answer.content.decode())
            # What needs no capture is there all the same.
            self.assertEqual(Browser("reader").get(f"/api/reviews/{self.scene.review.pk}/matrix").status_code, 200)
            with self.assertRaises(StoreAway):
                move_out()
