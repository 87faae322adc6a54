"""Two acts that wait for one another in the database: both are done, and none is done twice."""

import json
import threading
import unittest
import uuid
from collections.abc import Callable
from typing import Any
from unittest.mock import patch

from django.db import OperationalError, connection, transaction
from django.http import HttpRequest, HttpResponse
from django.test import RequestFactory

from nomothet.server.meeting import TryAgain, has_met, tried_again
from nomothet.server.passes.commands import stamp
from nomothet.server.passes.file_pass import new_file_pass
from nomothet.server.passes.models import Tally
from nomothet.server.passes.tallies import refresh
from nomothet.server.people.models import Team
from nomothet.server.problem_details import handler
from nomothet.server.reviews.models import Test
from nomothet.server.standings.keeping import keep
from nomothet.server.standings.models import KeptTest
from nomothet.server.workloads.models import Workload
from tests.server.base import BenchClient, Browser, Scene, steady
from tests.server.emptied import EmptiedTest

_DEADLINE_S = 60.0


class Meeting(EmptiedTest):
    def setUp(self) -> None:
        self.rows = [
            Workload.objects.create(key=f"walk-{at}", name=f"Walk {at}", version="1", kind="scene") for at in range(2)
        ]
        self.tries: list[str] = []
        self.first = threading.Barrier(2)

    def rename(self, pk: int, word: str) -> None:
        with connection.cursor() as cursor:
            cursor.execute("UPDATE workloads_workload SET name = CONCAT(name, %s) WHERE id = %s", [word, pk])

    def act(self, name: str, order: list[int], before: Callable[[], None] = lambda: None) -> HttpResponse:
        """Through the middleware: both rows in an order, met by the other act in the middle at the first try."""

        def view(request: HttpRequest) -> HttpResponse:
            self.tries.append(name)
            try:
                before()
                with transaction.atomic():
                    self.rename(self.rows[order[0]].pk, name)
                    if self.tries.count(name) == 1:
                        self.first.wait(_DEADLINE_S)
                    self.rename(self.rows[order[1]].pk, name)
            except OperationalError as error:
                self.assertTrue(has_met(error))
                request._request = request  # type: ignore[attr-defined]
                answer = handler(error, {"request": request})
                assert answer is not None
                return HttpResponse(json.dumps(answer.data), status=answer.status_code)
            return HttpResponse(status=204)

        request = RequestFactory().post("/api/x", b'{"a": 1}', content_type="application/json")
        return TryAgain(view)(request)  # type: ignore[return-value]

    def both(self, *acts: Callable[[], HttpResponse]) -> list[HttpResponse]:
        answers: list[HttpResponse] = []

        def run(act: Callable[[], HttpResponse]) -> None:
            try:
                answers.append(act())
            finally:
                connection.close()

        threads = [threading.Thread(target=run, args=(act,)) for act in acts]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join(_DEADLINE_S)
        return answers

    def test_who_was_turned_away_is_tried_again(self) -> None:
        answers = self.both(lambda: self.act("a", [0, 1]), lambda: self.act("b", [1, 0]))
        self.assertEqual([answer.status_code for answer in answers], [204, 204])
        self.assertEqual(len(self.tries), 3)
        for row in self.rows:
            row.refresh_from_db()
            self.assertEqual(sorted(row.name.removeprefix(f"Walk {row.key[-1]}")), ["a", "b"])

    def test_what_had_been_written_before_is_not_written_again(self) -> None:
        def note() -> None:
            Team.objects.create(name="noted")

        answers = self.both(lambda: self.act("a", [0, 1], note), lambda: self.act("b", [1, 0], note))
        self.assertEqual(sorted(answer.status_code for answer in answers), [204, 503])
        self.assertEqual(len(self.tries), 2)
        self.assertEqual(Team.objects.count(), 2)
        refused = next(answer for answer in answers if answer.status_code == 503)
        self.assertIn("try again", json.loads(refused.content)["detail"])

    def test_a_large_body_is_not_kept_for_it(self) -> None:
        read: list[bool] = []

        def view(request: HttpRequest) -> HttpResponse:
            read.append(request._read_started)  # type: ignore[attr-defined]
            return HttpResponse()

        for body in (b"[" + b"0," * 1_000_000 + b"0]", b"[0]"):
            TryAgain(view)(RequestFactory().post("/api/x", body, content_type="application/json"))
        TryAgain(view)(RequestFactory().post("/api/x", b"raw", content_type="application/octet-stream"))
        self.assertEqual(read, [False, True, False])


class Worker(unittest.TestCase):
    """Work in the background, which nobody would ask for again."""

    def setUp(self) -> None:
        self.enterContext(patch("nomothet.server.meeting._PAUSE_S", 0.0))
        self.tries = 0

    def meeting(self, times: int, code: int = 1213) -> int:
        self.tries += 1
        if self.tries <= times:
            raise OperationalError(code, "met")
        return self.tries

    def test_what_was_turned_away_is_begun_again(self) -> None:
        self.assertEqual(tried_again(self.meeting)(2), 3)

    def test_not_for_ever_and_not_after_another_mistake(self) -> None:
        with self.assertRaises(OperationalError):
            tried_again(self.meeting)(1000)
        self.assertLess(self.tries, 10)
        self.tries = 0
        with self.assertRaises(OperationalError):
            tried_again(self.meeting)(1, 1205)
        self.assertEqual(self.tries, 1)


class WhilePassesComeIn(EmptiedTest):
    """What is made when somebody looks never stands in the way of whoever brings in a pass."""

    def setUp(self) -> None:
        self.scene = Scene()
        self.scene.owe(count=2)
        BenchClient(self.scene.token).deliver(steady(60, frames=600))
        self.test = self.scene.tests[0]
        # Before each new try of what was turned away.
        self.pause = self.enterContext(patch("nomothet.server.meeting._pause"))

    def beside_a_pass(self, work: Callable[[], None]) -> list[BaseException]:
        """Do work in a thread while a pass is being brought in, as far as it waits; gives what went wrong with it."""
        wrong: list[BaseException] = []
        begun = threading.Event()

        def tell(execute: Callable[..., Any], sql: str, *arguments: Any) -> Any:
            if "FOR UPDATE" in sql or sql.startswith("INSERT"):
                begun.set()
            return execute(sql, *arguments)

        def run() -> None:
            try:
                with connection.execute_wrapper(tell):
                    work()
            except BaseException as error:
                wrong.append(error)
            finally:
                connection.close()

        thread = threading.Thread(target=run)
        stamp(Test.objects.filter(pk=self.test.pk))
        with transaction.atomic():
            new_file_pass(
                None, self.test, self.scene.columns[0], uuid.uuid4(), note="", duration_s=60.0, environment={}
            )
            thread.start()
            self.assertTrue(begun.wait(_DEADLINE_S))
            # That it waits in the database by now is likely, and not sure; it may not get there at all.
            thread.join(0.2)
            stamp(Test.objects.filter(pk=self.test.pk))
        thread.join(_DEADLINE_S)
        self.assertFalse(self.pause.called, "it was turned away, and tried again")
        return wrong

    def test_results_of_a_standing_are_made(self) -> None:
        keep([self.test.pk])
        self.assertEqual(self.beside_a_pass(lambda: keep([self.test.pk])), [])
        KeptTest.objects.all().delete()
        self.assertEqual(self.beside_a_pass(lambda: keep([self.test.pk])), [])

    def test_tallies_are_made(self) -> None:
        Tally.objects.all().delete()
        for state in ("never made", "made before"):
            with self.subTest(state):
                self.assertEqual(self.beside_a_pass(lambda: refresh(Test.objects.all())), [])

    def test_a_look_that_is_turned_away_after_it_kept_something_is_answered(self) -> None:
        really, turned_away = KeptTest.objects.update_or_create, [OperationalError(1213, "met")]

        def make(**what: Any) -> tuple[KeptTest, bool]:
            if turned_away:
                raise turned_away.pop()
            return really(**what)

        Tally.objects.all().delete()
        with patch.object(KeptTest.objects, "update_or_create", make):
            answer = Browser("reader").get("/api/standings")
        self.assertEqual((answer.status_code, self.pause.call_count), (200, 1), answer.content)
        self.assertEqual([one["key"] for one in answer.json()["workloads"]], [self.scene.scene.key])
