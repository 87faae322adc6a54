"""The spool: passes are on disk first, arrive once and whole, and are never lost."""

import json
import shutil
import tempfile
import unittest
import uuid
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from unittest import mock

import httpx
import numpy as np

from nomothet.bench.errors import Refused, Unreachable
from nomothet.bench.job import Captured, Job, PassResult
from nomothet.bench.spool import Spool
from nomothet.formats.series import unpack
from tests.bench.fake_server import FakeServer

JOB = Job(1, 1, "lantern-room", "1", "lantern-room", [], {}, "all threads", {})


def result(frames: int = 400_000) -> PassResult:
    values = np.random.default_rng(1).random(frames) * 10 + 10
    return PassResult(
        "completed",
        datetime.now(UTC),
        12.5,
        captures=[
            Captured("frames", "frames", {"frame_ms": values}, "ms"),
            Captured("core 0", "sensor", {"t_s": np.arange(9.0), "value": np.arange(9.0)}, "%"),
        ],
    )


class SpoolTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.spool = Spool(self.folder)
        self.server = FakeServer()
        self.pass_id = uuid.uuid4()

    def fill(self) -> PassResult:
        made = result()
        self.spool.open(self.pass_id, JOB)
        self.spool.close(self.pass_id, JOB, made)
        return made

    def test_a_pass_arrives_whole_and_leaves_the_spool(self) -> None:
        made = self.fill()
        self.spool.send(self.pass_id, self.server.client())
        stored = self.server.bytes[str(self.pass_id)]
        np.testing.assert_array_equal(unpack(bytes(stored["frames"]))["frame_ms"], made.captures[0].columns["frame_ms"])
        self.assertEqual(set(stored), {"frames", "core 0"})
        self.assertEqual(self.server.whole, [str(self.pass_id)])
        self.assertEqual(self.spool.waiting(), [])

    def test_a_network_lost_at_any_request_only_delays(self) -> None:
        self.fill()
        requests = 0

        def count(request: httpx.Request) -> None:
            nonlocal requests
            requests += 1

        self.server.trouble = count
        self.spool.send(self.pass_id, self.server.client())
        for lost in range(requests):
            with self.subTest(lost=lost):
                self.setUp()
                self.fill()
                seen = -1

                def fail(request: httpx.Request, lost: int = lost) -> None:
                    nonlocal seen
                    seen += 1
                    if seen == lost:
                        raise httpx.ConnectError("lost")

                self.server.trouble = fail
                with self.assertRaises(Unreachable):
                    self.spool.send(self.pass_id, self.server.client())
                self.assertEqual(self.spool.waiting(), [self.pass_id])
                self.spool.send(self.pass_id, self.server.client())
                self.assertEqual(self.server.whole, [str(self.pass_id)])

    def test_a_second_try_sends_only_what_is_missing(self) -> None:
        self.fill()
        offsets: list[int] = []

        def fail_at_third_chunk(request: httpx.Request) -> None:
            if "series/frames" in request.url.path:
                offsets.append(int(request.url.params["offset"]))
                if len(offsets) == 3:
                    raise httpx.ReadError("lost")

        self.server.trouble = fail_at_third_chunk
        with self.assertRaises(Unreachable):
            self.spool.send(self.pass_id, self.server.client())
        offsets.clear()
        self.spool.send(self.pass_id, self.server.client())
        self.assertEqual(offsets[0], 2 << 20)

    def test_bytes_damaged_on_their_way_are_sent_again(self) -> None:
        self.fill()
        damaged = False

        def damage(request: httpx.Request) -> None:
            nonlocal damaged
            if request.url.path.endswith("/finish") and not damaged:
                damaged = True
                self.server.bytes[str(self.pass_id)]["frames"][100] ^= 255

        self.server.trouble = damage
        self.spool.send(self.pass_id, self.server.client())
        self.assertEqual(self.server.whole, [str(self.pass_id)])

    def test_a_pass_that_is_refused_is_kept_apart(self) -> None:
        self.fill()
        self.server.trouble = lambda request: httpx.Response(422, json={"detail": "no"})
        with self.assertRaisesRegex(Refused, "no"):
            self.spool.send(self.pass_id, self.server.client())
        self.assertEqual(self.spool.waiting(), [])
        self.assertTrue((self.folder / "refused" / str(self.pass_id) / "manifest.json").exists())

    def test_what_was_kept_apart_is_told_with_its_reason_and_taken_up_again(self) -> None:
        self.fill()
        self.server.trouble = lambda request: httpx.Response(422, json={"detail": "no room"})
        with self.assertRaises(Refused):
            self.spool.send(self.pass_id, self.server.client())
        (told,) = Spool(self.folder).kept_aside()
        self.assertEqual((told["id"], told["reason"]), (str(self.pass_id), "no room"))
        self.assertEqual(self.spool.take_up_again(), 1)
        self.assertEqual((self.spool.kept_aside(), self.spool.waiting()), ([], [self.pass_id]))

    def test_series_whose_names_are_the_same_to_the_database_get_names_of_their_own(self) -> None:
        made = result(10)
        columns = made.captures[1].columns
        names = ("Fan", "fan", "FÀN ", "x" * 90, "x" * 95)
        made = replace(made, captures=[Captured(name, "sensor", columns, "1/min") for name in names])
        self.spool.open(self.pass_id, JOB)
        self.spool.close(self.pass_id, JOB, made)
        self.spool.send(self.pass_id, self.server.client())
        stored = list(self.server.bytes[str(self.pass_id)])
        self.assertEqual(stored, ["Fan", "fan (2)", "FÀN (3)", "x" * 80, "x" * 76 + " (2)"])

    def test_a_pass_without_its_manifest_counts_as_unfinished(self) -> None:
        self.spool.open(self.pass_id, JOB)
        (found,) = self.spool.unfinished()
        self.assertEqual(found[:2], (self.pass_id, JOB))
        self.assertEqual(self.spool.waiting(), [])

    def test_the_manifest_is_what_the_server_is_told(self) -> None:
        self.fill()
        manifest = json.loads((self.folder / str(self.pass_id) / "manifest.json").read_text())
        self.assertEqual(manifest["outcome"], "completed")
        self.assertEqual([one["name"] for one in manifest["series"]], ["frames", "core 0"])

    def test_one_that_was_killed_while_it_let_go_of_a_sent_pass_goes_on(self) -> None:
        """Whatever was deleted before the kill, nothing of it is taken for a pass that waits."""
        self.fill()
        kept = self.folder / str(self.pass_id)
        with (
            mock.patch("nomothet.bench.spool.shutil.rmtree", side_effect=KeyboardInterrupt),
            self.assertRaises(KeyboardInterrupt),
        ):
            self.spool.send(self.pass_id, self.server.client())
        self.assertEqual(self.server.whole, [str(self.pass_id)])
        self.assertFalse(kept.exists())
        self.assertEqual(self.spool.waiting(), [])
        again = Spool(self.folder)
        self.assertEqual((again.waiting(), list(again.unfinished()), list(self.folder.iterdir())), ([], [], []))

    def test_a_pass_whose_capture_is_gone_holds_up_no_other(self) -> None:
        self.fill()
        (self.folder / str(self.pass_id) / "frames.series").unlink()
        with self.assertRaisesRegex(Refused, "frames.series is not on this machine any more"):
            self.spool.send(self.pass_id, self.server.client())
        self.assertEqual(self.spool.waiting(), [])
        self.assertIn("frames.series", self.spool.kept_aside()[0]["reason"])

    def test_a_pass_whose_capture_is_gone_and_that_the_server_has_is_let_go_of(self) -> None:
        self.fill()
        copied = self.folder / "copied"
        shutil.copytree(self.folder / str(self.pass_id), copied)
        self.spool.send(self.pass_id, self.server.client())
        copied.rename(self.folder / str(self.pass_id))
        (self.folder / str(self.pass_id) / "frames.series").unlink()
        self.spool.send(self.pass_id, self.server.client())
        self.assertEqual((self.spool.waiting(), self.spool.kept_aside()), ([], []))
