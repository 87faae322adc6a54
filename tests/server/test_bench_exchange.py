"""The server in memory that bench tests speak to answers as the real one does, request by request."""

import contextlib
import hashlib
import uuid
from collections.abc import Callable
from typing import Any

import httpx
from django.test import Client

from nomothet.bench.client import ServerClient
from nomothet.bench.errors import Refused
from nomothet.bench.job import Job
from nomothet.formats.series import pack
from tests.bench.fake_server import FakeServer
from tests.server.base import SceneTest, manifest, steady

# What a bench reads of a job; the real server may say more.
_READ_OF_A_JOB = {"entry", "number", "workload", "test", "configuration"}


def shape_of(body: Any) -> Any:
    """Names and kinds of an answer's members, without their values; members of a mapping by name are kept."""
    if isinstance(body, dict):
        return {name: shape_of(value) for name, value in sorted(body.items())}
    return type(body).__name__


class Recorded(httpx.BaseTransport):
    """Passes requests on and remembers what came back."""

    def __init__(self, onward: httpx.BaseTransport) -> None:
        self.onward = onward
        self.answers: list[tuple[str, int, Any]] = []

    def handle_request(self, request: httpx.Request) -> httpx.Response:
        answer = self.onward.handle_request(request)
        answer.read()
        body = answer.json() if answer.content else None
        what = request.url.path.removeprefix("/api/bench/").split("/")
        self.answers.append((f"{request.method} {what[0]}/{what[-1]}", answer.status_code, body))
        return answer


class Exchange(SceneTest):
    """The same requests of the bench's own client, to the real server and to the one in memory."""

    def setUp(self) -> None:
        super().setUp()
        self.scene.owe()
        self.fake = FakeServer()
        self.fake.owe({})
        self.blob = pack({"frame_ms": steady(60, 500)})
        self.pass_id = uuid.uuid4()

    def real(self) -> httpx.BaseTransport:
        client = Client()

        def answer(request: httpx.Request) -> httpx.Response:
            headers = {
                name: request.headers[name] for name in ("authorization", "content-type") if name in request.headers
            }
            kind = headers.pop("content-type", "application/json")
            path = request.url.raw_path.decode()
            found = client.generic(request.method, path, request.content, kind, headers=headers)
            return httpx.Response(found.status_code, content=found.content, headers=dict(found.headers.items()))

        return httpx.MockTransport(answer)

    def both(
        self, play: Callable[[ServerClient], None]
    ) -> tuple[list[tuple[str, int, Any]], list[tuple[str, int, Any]]]:
        """What the real server and the one in memory answered to the same play."""
        told = []
        for transport, token in ((self.real(), self.scene.token), (httpx.MockTransport(self.fake._answer), "token")):
            recorded = Recorded(transport)
            client = ServerClient("http://testserver", token, recorded)
            play(client)
            client.close()
            told.append(recorded.answers)
        return told[0], told[1]

    def check(self, play: Callable[[ServerClient], None]) -> list[tuple[str, int, Any]]:
        """That both answer with the same status, and with what a bench reads; gives the real answers."""
        real, fake = self.both(play)
        self.assertEqual([one[:2] for one in real], [one[:2] for one in fake])
        for (what, status, body), (_, _, other) in zip(real, fake, strict=True):
            with self.subTest(what=what, status=status):
                if what.startswith("POST next") and body is not None:
                    self.assertLessEqual(_READ_OF_A_JOB, set(body))
                    self.assertLessEqual(_READ_OF_A_JOB, set(other))
                elif body is None or other is None:
                    self.assertEqual(body, other)
                else:
                    wanted = shape_of(other)
                    self.assertLessEqual(set(wanted), set(body))
                    self.assertEqual({name: shape_of(body[name]) for name in wanted}, wanted)
        return real

    def take(self, client: ServerClient) -> Job:
        job = client.next_job(self.pass_id, {"room temperature": 22.0})
        assert job is not None
        return job

    def announce(self, client: ServerClient, blob: bytes | None = None) -> dict[str, Any]:
        told = self.blob if blob is None else blob
        return client.announce(self.pass_id, manifest(self.take(client).entry, {"frames": told}))

    def test_connecting(self) -> None:
        (answer,) = self.check(lambda client: client.hello({"processor": "four cores"}) and None)
        self.assertEqual(answer[1], 200)

    def test_a_job_is_given_once_and_again_to_the_same_pass(self) -> None:
        def play(client: ServerClient) -> None:
            self.assertEqual(self.take(client).entry, self.take(client).entry)
            self.assertIsNone(client.next_job(uuid.uuid4()))

        self.assertEqual([status for _, status, _ in self.check(play)], [200, 200, 204])

    def test_a_report_is_answered_with_whether_to_stop(self) -> None:
        def play(client: ServerClient) -> None:
            progress = {"phase": "running", "elapsed_s": 1.0, "left_s": None, "readings": {}}
            self.assertFalse(client.report(self.take(client).entry, progress))

        self.check(play)

    def test_an_upload_in_pieces(self) -> None:
        def play(client: ServerClient) -> None:
            self.assertFalse(self.announce(client)["whole"])
            half = len(self.blob) // 2
            self.assertEqual(client.send_chunk(self.pass_id, "frames", 0, self.blob[:half]), half)
            # A lost answer: announced again, the server says how far it came.
            self.assertEqual(self.announce(client)["received"], {"frames": half})
            self.assertEqual(client.send_chunk(self.pass_id, "frames", half, self.blob[half:]), len(self.blob))
            client.finish(self.pass_id)
            self.assertTrue(self.announce(client)["whole"])

        self.check(play)

    def test_a_piece_after_a_gap_is_refused_with_how_far_it_came(self) -> None:
        def play(client: ServerClient) -> None:
            self.announce(client)
            with self.assertRaises(Refused) as refused:
                client.send_chunk(self.pass_id, "frames", 10, self.blob[10:])
            self.assertEqual((refused.exception.status, refused.exception.received), (409, 0))

        self.check(play)

    def test_damaged_bytes_are_refused_and_asked_for_anew(self) -> None:
        damaged = self.blob[:-1] + bytes([self.blob[-1] ^ 1])
        self.assertNotEqual(hashlib.sha256(damaged).digest(), hashlib.sha256(self.blob).digest())

        def play(client: ServerClient) -> None:
            self.announce(client)
            client.send_chunk(self.pass_id, "frames", 0, damaged)
            with self.assertRaises(Refused) as refused:
                client.finish(self.pass_id)
            self.assertEqual(refused.exception.received, {"frames": 0})
            client.send_chunk(self.pass_id, "frames", 0, self.blob)
            client.finish(self.pass_id)

        self.check(play)

    def test_finishing_twice_is_finishing_once(self) -> None:
        def play(client: ServerClient) -> None:
            self.announce(client)
            client.send_chunk(self.pass_id, "frames", 0, self.blob)
            client.finish(self.pass_id)
            client.finish(self.pass_id)

        self.check(play)

    def test_the_real_server_knows_a_wrong_token(self) -> None:
        client = ServerClient("http://testserver", "nobody", self.real())
        with contextlib.closing(client), self.assertRaises(Refused) as refused:
            client.hello({})
        self.assertIn(refused.exception.status, (401, 403))
