"""Passes that the server cannot take, and two benches with one token: told on both sides, and nothing is lost."""

import uuid
from datetime import timedelta
from typing import Any

from django.http import HttpResponse
from django.utils import timezone

from nomothet.formats.series import pack
from nomothet.server.docket.models import Entry, State
from nomothet.server.passes.models import Pass
from nomothet.server.systems.models import Bench, System
from tests.server.base import BenchClient, Browser, SceneTest, manifest, steady


class Aside(SceneTest):
    """What a server cannot take is seen at Systems, can be sent again, and holds nothing up."""

    def hello(self, client: BenchClient, **told: Any) -> None:
        answer = client.send("post", "/hello", {"inventory": {}, **told})
        self.assertEqual(answer.status_code, 200, answer.content)

    def announced(self, *names: str) -> HttpResponse:
        self.scene.owe()
        self.pass_id, job = self.bench.take()
        blob = pack({"t_s": [0.0, 1.0], "value": [1.0, 2.0]})
        self.body = manifest(job["entry"], dict.fromkeys(names, blob))
        return self.bench.send("put", f"/passes/{self.pass_id}", self.body)

    def test_names_that_are_the_same_to_the_database_are_refused_with_both(self) -> None:
        for names in (("Fan", "fan"), ("fan é", "fan e")):
            with self.subTest(names):
                detail = self.problem(self.announced(*names), 422)["detail"]
                self.assertIn(repr(names[0]), detail)
                self.assertIn(repr(names[1]), detail)

    def test_what_a_bench_set_aside_is_told_with_its_reason_and_asked_for_again(self) -> None:
        told = {"id": str(uuid.uuid4()), "reason": "no room", "at": "2026-05-04T10:00:00Z"}
        path = f"/api/systems/{self.scene.system.pk}"
        self.problem(Browser("tester").send("post", f"{path}/send-again"), 409)
        self.hello(self.bench, set_aside=[told])
        (seen,) = Browser("reader").json(path)["set_aside"]
        self.assertEqual(seen["reason"], "no room")
        self.problem(Browser("reader").send("post", f"{path}/send-again"), 403)
        self.assertEqual(Browser("tester").send("post", f"{path}/send-again").status_code, 204)
        asked = [self.bench.send("post", "/next", {"pass_id": str(uuid.uuid4())}) for _ in range(2)]
        self.assertEqual((asked[0].json(), asked[1].status_code), ({"send_again": True}, 204))
        self.hello(self.bench)
        self.assertEqual(Browser("reader").json(path)["set_aside"], [])

    def test_one_that_comes_late_settles_what_is_owed_or_is_one_more(self) -> None:
        self.announced("Fan", "fan")
        self.hello(self.bench, holding=[])
        self.assertEqual(Entry.objects.get().state, State.OWED)
        self.body["series"] = self.body["series"][:1]
        for _ in range(2):
            self.assertEqual(self.bench.send("put", f"/passes/{self.pass_id}", self.body).status_code, 200)
        self.assertEqual((Entry.objects.get().state, Pass.objects.get().number), (State.DONE, 1))
        late = self.bench.send("put", f"/passes/{uuid.uuid4()}", self.body)
        self.assertEqual((late.status_code, Pass.objects.count()), (200, 2))

    def test_one_that_was_interrupted_and_comes_late_settles_nothing(self) -> None:
        self.scene.owe()
        pass_id, job = self.bench.take()
        self.hello(self.bench, holding=[])
        body = manifest(job["entry"], {}, outcome="crashed", note="the bench was killed", owe_again=True)
        self.assertEqual(self.bench.send("put", f"/passes/{pass_id}", body).status_code, 200)
        self.assertEqual(self.bench.send("post", f"/passes/{pass_id}/finish").status_code, 200)
        self.assertEqual((Entry.objects.get().state, Pass.objects.get().number), (State.OWED, 2))
        self.bench.deliver(steady(60.0))
        self.assertEqual(Entry.objects.get().state, State.DONE)
        self.assertEqual(sorted(Pass.objects.values_list("number", "outcome")), [(1, "completed"), (2, "crashed")])

    def test_the_bench_of_an_archived_system_is_not_listened_to(self) -> None:
        System.objects.update(archived_at=timezone.now())
        self.assertIn("archived", self.problem(self.bench.send("post", "/hello", {"inventory": {}}), 401)["detail"])
        System.objects.update(archived_at=None)
        self.hello(self.bench)

    def test_of_two_benches_with_one_token_the_later_one_works_until_it_is_silent(self) -> None:
        self.scene.owe(count=2)
        first, second = BenchClient(self.scene.token), BenchClient(self.scene.token)
        self.hello(first, instance="a")
        self.hello(second, instance="b")
        asked = {"pass_id": str(uuid.uuid4())}
        self.problem(first.send("post", "/next", {**asked, "instance": "a"}), 409)
        self.assertEqual(second.send("post", "/next", {**asked, "instance": "b"}).status_code, 200)
        self.assertIsNotNone(Browser("reader").json(f"/api/systems/{self.scene.system.pk}")["rival_at"])
        Bench.objects.update(instance_at=timezone.now() - timedelta(minutes=1))
        answer = first.send("post", "/next", {"pass_id": str(uuid.uuid4()), "instance": "a"})
        self.assertEqual(answer.status_code, 200, answer.content)
