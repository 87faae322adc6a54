"""Two acts that wait for one another in the database: both are done, and none is done twice."""

import json
import threading
from collections.abc import Callable

from django.db import OperationalError, connection, transaction
from django.http import HttpRequest, HttpResponse
from django.test import RequestFactory

from nomothet.server.meeting import TryAgain, has_met
from nomothet.server.people.models import Team
from nomothet.server.problems import handler
from nomothet.server.workloads.models import Workload
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
