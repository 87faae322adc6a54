"""Benches that wait for work are answered when there is some, and cost the database nothing until then."""

import time
import uuid
from concurrent.futures import Future, ThreadPoolExecutor

import httpx
from django.db import transaction

from nomothet.server.docket.queries import systems_with_work
from nomothet.server.feed.commands import announce
from nomothet.server.systems.models import Bench
from tests.server.base import Scene
from tests.server.emptied import EmptiedTest
from tests.server.live_server import LiveServer

LONG_S = 20.0


class Waiting(EmptiedTest):
    def setUp(self) -> None:
        self.scene = Scene()
        server = LiveServer()
        self.enterContext(server)
        self.address = server.address
        self.threads = ThreadPoolExecutor(4)
        self.addCleanup(self.threads.shutdown)

    def ask(self, wait_s: float) -> httpx.Response:
        body = {"pass_id": str(uuid.uuid4()), "wait_s": wait_s}
        headers = {"Authorization": f"Bench {self.scene.token}"}
        return httpx.post(f"{self.address}/api/bench/next", json=body, headers=headers, timeout=60)

    def waiting(self) -> "Future[httpx.Response]":
        """A request that waits; gives it once the server has heard the bench."""
        Bench.objects.update(heard_at=None)
        asked = self.threads.submit(self.ask, LONG_S)
        while Bench.objects.get().heard_at is None:
            time.sleep(0.01)
        return asked

    def test_without_a_wish_to_wait_the_answer_comes_at_once(self) -> None:
        self.assertEqual(self.ask(0).status_code, 204)

    def test_the_answer_comes_when_something_is_owed(self) -> None:
        asked = self.waiting()
        self.assertFalse(asked.done())
        self.scene.owe()
        answer = asked.result(60)
        # One whose time is over before the docket changes is answered 204.
        self.assertEqual(answer.status_code, 200)
        self.assertIn("entry", answer.json())

    def test_the_answer_comes_when_the_time_is_over(self) -> None:
        self.assertEqual(self.ask(0.5).status_code, 204)

    def test_what_was_set_aside_is_asked_for_by_the_same_answer(self) -> None:
        Bench.objects.update(set_aside=[{"id": "a", "reason": "r", "at": ""}])
        asked = self.waiting()
        Bench.objects.update(send_again=True)
        self.assertEqual(systems_with_work(), {self.scene.system.pk})
        with transaction.atomic():
            announce("systems", system=self.scene.system.pk)
        self.assertEqual(asked.result(60).json(), {"send_again": True})

    def test_a_wish_that_is_too_long_or_none_is_refused(self) -> None:
        for wait_s in (3600, -1):
            with self.subTest(wait_s=wait_s):
                self.assertEqual(self.ask(wait_s).status_code, 400)
