"""Long captures are kept in pieces: they come back as they came, and no statement carries all of one."""

import hashlib
from typing import Any

import numpy as np
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

from nomothet.formats.series import pack
from nomothet.server.passes.file_pass import store_series
from nomothet.server.passes.models import PIECE, Chunk, Pass, Series
from tests.server.base import Browser, SceneTest, manifest

# Twice its bytes as a hexadecimal literal, and room for the rest of a statement.
_LONGEST = 17 << 20


class _Statements:
    """How long the longest statement was."""

    def __init__(self) -> None:
        self.longest = 0

    def __call__(self, execute: Any, sql: str, params: Any, many: bool, context: dict[str, Any]) -> Any:
        result = execute(sql, params, many, context)
        self.longest = max(self.longest, len(context["cursor"].cursor._executed or b""))
        return result


class LongSeries(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        noise = np.random.default_rng(7).uniform(1, 40, 2_000_000)
        self.long = pack({"t_s": np.arange(len(noise)) / 100, "value": noise})
        self.assertGreater(len(self.long), 2 * PIECE)

    def test_a_long_one_from_a_bench_comes_back_as_it_was_sent(self) -> None:
        (entry,) = self.scene.owe()
        pass_id, _ = self.bench.take()
        body = manifest(entry.pk, {"Noise": self.long})
        body["series"][0]["kind"] = "sensor"
        self.assertEqual(self.bench.send("put", f"/passes/{pass_id}", body).status_code, 200)
        statements = _Statements()
        with connection.execute_wrapper(statements):
            for offset in range(0, len(self.long), 1 << 20):
                answer = self.bench.chunk(pass_id, "Noise", offset, self.long[offset : offset + (1 << 20)])
                self.assertEqual(answer.status_code, 200, answer.content)
            for _ in range(2):
                self.assertEqual(self.bench.send("post", f"/passes/{pass_id}/finish").status_code, 200)
        self.assertLess(statements.longest, _LONGEST)
        kept = Pass.objects.get().series.get()
        self.assertIsNone(kept.blob)
        self.assertEqual(kept.content, self.long)
        self.assertEqual(self.bench.send("put", f"/passes/{pass_id}", body).json()["whole"], True)
        lines = Browser("reader").get(f"/api/captures/{kept.pk}.csv")
        content = b"".join(lines.streaming_content).decode()
        self.assertEqual(content.count("\r\n"), 2_000_001)

    def test_a_damaged_long_one_is_forgotten_and_asked_for_again(self) -> None:
        (entry,) = self.scene.owe()
        pass_id, _ = self.bench.take()
        body = manifest(entry.pk, {"Noise": self.long})
        body["series"][0]["kind"] = "sensor"
        self.bench.send("put", f"/passes/{pass_id}", body)
        damaged = self.long[:-1] + bytes([self.long[-1] ^ 1])
        for offset in range(0, len(damaged), 1 << 20):
            self.bench.chunk(pass_id, "Noise", offset, damaged[offset : offset + (1 << 20)])
        told = self.problem(self.bench.send("post", f"/passes/{pass_id}/finish"), 409)
        self.assertEqual(told["received"], {"Noise": 0})
        self.assertEqual(Chunk.objects.count(), 0)

    def test_one_from_a_file_is_stored_in_pieces_too(self) -> None:
        self.fill(0, [60.0])
        statements = _Statements()
        with connection.execute_wrapper(statements):
            made = store_series(Pass.objects.get(), "original", "file", self.long)
        self.assertLess(statements.longest, _LONGEST)
        kept = Series.objects.get(pk=made.pk)
        self.assertEqual((kept.content, kept.size), (self.long, len(self.long)))
        self.assertEqual(kept.sha256, hashlib.sha256(self.long).hexdigest())

    def test_what_stood_in_one_row_before_is_the_same_afterwards(self) -> None:
        self.fill(0, [60.0])
        owner = Pass.objects.get()
        short = owner.series.get().content
        made = Series.objects.create(
            owner=owner, name="old", kind="sensor", size=len(self.long), received=len(self.long), blob=self.long,
            sha256=hashlib.sha256(self.long).hexdigest(),
        )  # fmt: skip
        migration = MigrationExecutor(connection).loader.get_migration("passes", "0013_long_series_in_pieces")
        with connection.schema_editor(atomic=False) as editor:
            migration.operations[0].code(None, editor)
        kept = Series.objects.get(pk=made.pk)
        self.assertIsNone(kept.blob)
        self.assertEqual(kept.content, self.long)
        self.assertEqual(owner.series.exclude(pk=made.pk).get().content, short)
        self.assertEqual(Chunk.objects.exclude(series=made).count(), 0)
