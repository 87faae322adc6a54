"""The gate before everything: size and pace of a body, before anything of it is kept or anybody is asked."""

import asyncio
import json
import unittest
from collections.abc import Awaitable, Callable
from typing import Any
from unittest import mock

from asgiref.sync import async_to_sync
from django.conf import settings

from nomothet.server import gate
from nomothet.server.gate import FROM_ANYBODY, Gate
from nomothet.server.people.authentication import digest_of
from nomothet.server.people.models import Token
from tests.server.base import Browser, Scene
from tests.server.emptied import EmptiedTest

IMPORT = "/api/reviews/1/imports/0b9d2f10-6c1f-4a0a-9f4e-1a2b3c4d5e6f"
PIECE = 64 * 1024


class GateTest(EmptiedTest):
    def setUp(self) -> None:
        self.scene = Scene()
        self.read = 0
        self.reached = False

    async def app(self, scope: Any, receive: Any, send: Any) -> None:
        """Reads a whole body, as Django does."""
        self.reached = True
        while True:
            message = await receive()
            self.read += len(message.get("body", b""))
            if not message.get("more_body"):
                break
        await send({"type": "http.response.start", "status": 200, "headers": []})
        await send({"type": "http.response.body", "body": b"{}"})

    def ask(
        self,
        path: str,
        size: int,
        headers: dict[str, str] | None = None,
        *,
        told: int | None = -1,
        pause: Callable[[], Awaitable[None]] | None = None,
        method: str = "POST",
    ) -> tuple[int, dict[str, Any]]:
        """Send a body of a size piece by piece; `told` is what the header says of it, None for no header."""
        given = dict(headers or {})
        if told is not None:
            given["content-length"] = str(size if told < 0 else told)
        scope = {
            "type": "http", "method": method, "path": path,
            "headers": [(name.encode(), value.encode()) for name, value in given.items()],
        }  # fmt: skip
        left = [size]
        answers: list[Any] = []

        async def receive() -> dict[str, Any]:
            if pause is not None:
                await pause()
            body = b"x" * min(PIECE, left[0])
            left[0] -= len(body)
            return {"type": "http.request", "body": body, "more_body": left[0] > 0}

        async def send(message: Any) -> None:
            answers.append(message)

        async_to_sync(Gate(self.app))(scope, receive, send)
        body = answers[1]["body"] if len(answers) > 1 else b"{}"
        return answers[0]["status"], json.loads(body)

    def session(self) -> dict[str, str]:
        browser = Browser("tester")
        return {
            "cookie": f"{settings.SESSION_COOKIE_NAME}={browser.client.cookies[settings.SESSION_COOKIE_NAME].value}"
        }

    def test_what_a_stranger_sends_is_read_as_far_as_a_form_is_long(self) -> None:
        self.assertEqual(self.ask("/api/session", 2000)[0], 200)
        for path in ("/api/session", IMPORT, "/api/bench/passes/x", "/records/a-1/questions"):
            self.read, self.reached = 0, False
            with self.subTest(path):
                status, problem = self.ask(path, 40 * PIECE)
                self.assertEqual((status, self.read, self.reached), (401, 0, False))
                self.assertIn("Sign in", problem["detail"])

    def test_a_stranger_who_does_not_say_how_much_comes_is_stopped_on_the_way(self) -> None:
        status, problem = self.ask(IMPORT, 40 * PIECE, told=None)
        self.assertEqual((status, problem["title"]), (413, "Too large"))
        self.assertLessEqual(self.read, FROM_ANYBODY)

    def test_who_says_less_than_comes_is_stopped_too(self) -> None:
        self.assertEqual(self.ask(IMPORT, 40 * PIECE, self.session(), told=10)[0], 413)
        self.assertLessEqual(self.read, FROM_ANYBODY)

    def test_a_session_a_token_and_a_benchs_token_let_files_in(self) -> None:
        Token.objects.create(user=self.scene.people["tester"], name="x", scope="recording", digest=digest_of("t0ken"))
        for headers in (
            self.session(),
            {"authorization": "Bearer t0ken"},
            {"authorization": f"Bench {self.scene.token}"},
        ):
            self.read = 0
            with self.subTest(list(headers)):
                self.assertEqual(self.ask(IMPORT, 40 * PIECE, headers)[0], 200)
                self.assertEqual(self.read, 40 * PIECE)

    def test_a_session_or_token_that_is_none_lets_nothing_in(self) -> None:
        for headers in (
            {"cookie": f"{settings.SESSION_COOKIE_NAME}=invented"},
            {"cookie": "=;,odd\x00"},
            {"authorization": "Bearer invented"},
            {"authorization": "Bench invented"},
            {"authorization": "Basic dDp0"},
        ):
            with self.subTest(headers):
                self.assertEqual(self.ask(IMPORT, 40 * PIECE, headers)[0], 401)
        self.assertFalse(self.reached)

    def test_each_address_takes_what_it_needs_and_no_more(self) -> None:
        for path, size in (
            ("/api/passes/0b9d2f10/pictures", 30 << 20),
            ("/api/reviews/1", 20 << 20),
            (IMPORT, 2 << 30),
        ):
            with self.subTest(path):
                status, problem = self.ask(path, 10, self.session(), told=size)
                self.assertEqual((status, self.reached), (413, False))
                self.assertRegex(problem["detail"], r"At most \d+ MiB")

    def test_who_sends_nothing_for_long_is_let_go(self) -> None:
        async def forever() -> None:
            await asyncio.Event().wait()

        with mock.patch.object(gate, "SILENT_S", 0.01):
            status, problem = self.ask("/api/session", 2000, pause=forever)
        self.assertEqual((status, problem["title"]), (408, "Too slow"))

    def test_who_sends_too_slowly_is_let_go(self) -> None:
        now = [0.0]

        async def slowly() -> None:
            now[0] += 10.0

        with mock.patch.object(gate.time, "monotonic", side_effect=lambda: now[0]):
            status, problem = self.ask(IMPORT, 100 * PIECE, self.session(), pause=slowly)
        self.assertEqual((status, problem["title"]), (408, "Too slow"))
        self.assertLess(self.read, 100 * PIECE)

    def test_who_only_reads_sends_no_large_body_either(self) -> None:
        for method in ("GET", "HEAD", "OPTIONS"):
            self.read = 0
            with self.subTest(method):
                self.assertEqual(self.ask("/api/reviews", 0, method=method)[0], 200)
                self.assertEqual(self.ask("/api/reviews", 40 * PIECE, self.session(), method=method)[0], 413)
                self.assertLessEqual(self.read, FROM_ANYBODY)

    def test_what_is_no_request_is_not_its_business(self) -> None:
        seen: list[str] = []

        async def app(scope: Any, receive: Any, send: Any) -> None:
            seen.append(scope["type"])

        async_to_sync(Gate(app))({"type": "lifespan"}, mock.AsyncMock(), mock.AsyncMock())
        self.assertEqual(seen, ["lifespan"])


class Places(unittest.IsolatedAsyncioTestCase):
    """How many requests are worked on at once."""

    async def asked(self, path: str, count: int, method: str = "GET") -> tuple[int, int]:
        """Ask so often at once; gives how many were worked on together at most, and how many were answered."""
        working = most = answered = 0

        async def app(scope: Any, receive: Any, send: Any) -> None:
            nonlocal working, most
            await receive()
            working += 1
            most = max(most, working)
            for _ in range(5):
                await asyncio.sleep(0)
            working -= 1
            await send({"type": "http.response.start", "status": 200, "headers": []})

        async def receive() -> dict[str, Any]:
            return {"type": "http.request", "body": b"", "more_body": False}

        async def send(message: Any) -> None:
            nonlocal answered
            answered += 1

        wrapped = Gate(app)
        scope = {"type": "http", "method": method, "path": path, "headers": []}
        await asyncio.gather(*(wrapped(dict(scope), receive, send) for _ in range(count)))
        return most, answered

    async def test_so_many_at_once_and_the_others_in_turn(self) -> None:
        self.assertEqual(await self.asked("/api/reviews", 50), (gate.AT_ONCE, 50))

    async def test_those_that_wait_for_something_to_happen_take_no_place(self) -> None:
        for path in ("/api/feed", "/api/bench/next"):
            with self.subTest(path):
                self.assertEqual(await self.asked(path, 50), (50, 50))

    async def test_those_who_sign_in_have_places_of_their_own(self) -> None:
        self.assertEqual(await self.asked("/api/session", 50, "POST"), (gate.STRANGERS_AT_ONCE, 50))
        self.assertEqual(await self.asked("/api/session", 50), (gate.AT_ONCE, 50))

    async def test_a_place_is_given_back_by_who_fails(self) -> None:
        async def app(scope: Any, receive: Any, send: Any) -> None:
            await receive()
            raise ConnectionError

        async def receive() -> dict[str, Any]:
            return {"type": "http.request", "body": b"", "more_body": False}

        wrapped = Gate(app)
        scope = {"type": "http", "method": "GET", "path": "/api/reviews", "headers": []}
        asked = [wrapped(dict(scope), receive, mock.AsyncMock()) for _ in range(3 * gate.AT_ONCE)]
        found = await asyncio.wait_for(asyncio.gather(*asked, return_exceptions=True), 10)
        self.assertEqual({type(one) for one in found}, {ConnectionError})
