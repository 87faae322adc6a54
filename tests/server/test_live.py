"""What only a real server process can show: an upload that survives a kill, and the live feed."""

import json
import tempfile
import threading
import uuid
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path

import httpx
import numpy as np
from django.db import connections, transaction
from django.test import override_settings

from nomothet.bench.client import ServerClient
from nomothet.bench.errors import Unreachable
from nomothet.bench.job import Captured, PassResult
from nomothet.bench.spool import Spool
from nomothet.formats.series import unpack
from nomothet.server.feed.commands import announce
from nomothet.server.feed.models import Change
from nomothet.server.feed.queries import events_after
from nomothet.server.passes.models import Chunk, Pass, Series
from tests.server.base import PASSWORD, Scene
from tests.server.emptied import EmptiedTest
from tests.server.live_server import LiveServer


class KilledServer(EmptiedTest):
    """Kill the server in the middle of an upload, start it again: the pass arrives once and whole."""

    def test_a_killed_upload_arrives_once(self) -> None:
        scene = Scene()
        scene.owe()
        frames = np.random.default_rng(4).random(600_000) * 5 + 10
        with LiveServer() as server, tempfile.TemporaryDirectory() as folder:
            client = ServerClient(server.address, scene.token)
            spool = Spool(Path(folder))
            pass_id = uuid.uuid4()
            job = client.next_job(pass_id)
            assert job is not None
            spool.open(pass_id, job)
            captured = Captured("frames", "frames", {"frame_ms": frames}, "ms")
            spool.close(pass_id, job, PassResult("completed", datetime.now(UTC), 60.0, captures=[captured]))
            self._kill_after_chunks(client, server, 2)
            with self.assertRaises(Unreachable):
                spool.send(pass_id, client)
            self.assertEqual(Chunk.objects.count(), 2)
            self.assertIsNone(Pass.objects.get().whole_at)
            self.assertEqual(spool.waiting(), [pass_id])
            server.start()
            spool.send(pass_id, ServerClient(server.address, scene.token))
            self.assertEqual(spool.waiting(), [])
        owner = Pass.objects.get()
        self.assertIsNotNone(owner.whole_at)
        stored = unpack(bytes(Series.objects.get().blob or b""))["frame_ms"]
        np.testing.assert_array_equal(stored, frames)
        self.assertEqual(Chunk.objects.count(), 0)
        self.assertEqual(owner.figures.get(metric="frames").value, 600_000)

    def _kill_after_chunks(self, client: ServerClient, server: LiveServer, chunks: int) -> None:
        """Make the client kill the server before it sends the chunk after so many."""
        send = client.send_chunk
        sent = 0

        def send_or_kill(pass_id: uuid.UUID, name: str, offset: int, data: bytes) -> int:
            nonlocal sent
            if sent == chunks:
                server.kill()
            sent += 1
            return send(pass_id, name, offset, data)

        client.send_chunk = send_or_kill  # type: ignore[method-assign]


@override_settings(PASSWORD_HASHERS=["django.contrib.auth.hashers.Argon2PasswordHasher"])
class Feed(EmptiedTest):
    def setUp(self) -> None:
        self.scene = Scene()

    def sign_in(self, client: httpx.Client) -> None:
        client.get("/api/session")
        headers = {"X-CSRFToken": client.cookies["csrftoken"]}
        body = {"username": "reader", "password": PASSWORD}
        self.assertEqual(client.post("/api/session", json=body, headers=headers).status_code, 200)

    @staticmethod
    def events(lines: Iterator[str]) -> Iterator[tuple[str, dict[str, object]]]:
        """Number and data of each change, as a browser reads the stream."""
        number = ""
        kind = ""
        for line in lines:
            name, _, value = line.partition(": ")
            if name == "id":
                number = value
            elif name == "event":
                kind = value
            elif name == "data" and kind == "change":
                yield number, json.loads(value)

    def test_changes_arrive_and_the_stream_resumes_where_it_broke(self) -> None:
        with LiveServer() as server, httpx.Client(base_url=server.address, timeout=20) as client:
            self.sign_in(client)
            with client.stream("GET", "/api/feed") as stream:
                lines = stream.iter_lines()
                self.assertTrue(next(lines).startswith("retry"))
                self.scene.owe()
                number, change = next(self.events(lines))
                self.assertEqual((change["kind"], change["review"]), ("docket", self.scene.review.pk))
            self.scene.owe()
            self.scene.owe(column=1)
            with client.stream("GET", "/api/feed", headers={"Last-Event-ID": number}) as stream:
                found = self.events(stream.iter_lines())
                numbers = [int(next(found)[0]) for _ in range(2)]
            self.assertEqual(numbers, [int(number) + 1, int(number) + 2])

    def test_a_stranger_is_told_nothing(self) -> None:
        with LiveServer() as server:
            self.assertEqual(httpx.get(f"{server.address}/api/feed").status_code, 401)

    def test_numbers_have_no_gaps_and_follow_the_commits(self) -> None:
        start = Change.objects.count()

        def work() -> None:
            for _ in range(10):
                with transaction.atomic():
                    announce("docket", review=1)
            connections.close_all()

        threads = [threading.Thread(target=work) for _ in range(4)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        numbers = list(Change.objects.order_by("number").values_list("number", flat=True))[start:]
        self.assertEqual(len(numbers), 40)
        self.assertEqual(numbers, list(range(numbers[0], numbers[0] + 40)))

    def test_a_change_that_is_taken_back_leaves_nothing(self) -> None:
        before = len(events_after(0))
        with self.assertRaises(ZeroDivisionError), transaction.atomic():
            announce("docket", review=1)
            raise ZeroDivisionError
        self.assertEqual(len(events_after(0)), before)

    def test_a_change_outside_its_act_is_a_mistake(self) -> None:
        with self.assertRaises(RuntimeError):
            announce("docket", review=1)
