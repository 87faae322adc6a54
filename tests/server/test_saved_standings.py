"""Standings under a name, and the pages of those that are published."""

from typing import Any
from unittest import mock

from django.core.cache import cache
from django.http import HttpResponse

from nomothet.server.passes.models import Pass
from nomothet.server.people.models import SecurityEvent
from nomothet.server.standings.models import SavedStanding
from nomothet.server.standings.saved import page as page_module
from tests.server.base import Browser
from tests.server.test_standings import StandingsTest


class SavedTest(StandingsTest):
    path = "/api/saved-standings"

    def setUp(self) -> None:
        super().setUp()
        cache.clear()
        self.editor = Browser("editor")

    def save(self, **query: str) -> Any:
        body = {"name": "The tunnel", "query": {"workload": self.key, **query}}
        answer = Browser("tester").send("post", self.path, body)
        self.assertEqual(answer.status_code, 201, answer.content)
        return answer.json()

    def publish(self, one: Any, frozen: bool) -> Any:
        answer = self.editor.send("put", f"{self.path}/{one['id']}/published", {"frozen": frozen})
        self.assertEqual(answer.status_code, 200, answer.content)
        return answer.json()

    def page(self, address: str) -> HttpResponse:
        return Browser().get(address)


class Kept(SavedTest):
    def test_what_somebody_looks_at_is_kept_for_the_team_with_its_address(self) -> None:
        self.save(metric="low_1pct", words="kelp", nonsense="x")
        (one,) = self.reader.json(self.path)
        self.assertEqual(one["query"], {"workload": self.key, "metric": "low_1pct", "words": "kelp"})
        self.assertEqual((one["address"], one["published_at"]), ("", None))

    def test_neither_workload_nor_set_is_refused_and_readers_save_nothing(self) -> None:
        self.problem(self.editor.send("post", self.path, {"name": "x", "query": {"words": "kelp"}}), 422)
        self.problem(self.reader.send("post", self.path, {"name": "x", "query": {"workload": self.key}}), 403)

    def test_one_that_is_published_is_withdrawn_before_it_is_taken_off(self) -> None:
        self.fill(0, [60.0])
        one = self.save()
        self.publish(one, frozen=True)
        self.problem(self.editor.send("delete", f"{self.path}/{one['id']}"), 409)
        self.problem(self.editor.send("put", f"{self.path}/{one['id']}/withdrawn", {"why": " "}), 422)
        self.editor.send("put", f"{self.path}/{one['id']}/withdrawn", {"why": "a wrong cooler"})
        self.assertEqual(self.editor.send("delete", f"{self.path}/{one['id']}").status_code, 204)
        self.assertEqual(self.reader.json(self.path), [])
        self.assertEqual(SavedStanding.objects.count(), 1)


class Published(SavedTest):
    def test_the_page_shows_results_and_warnings_and_no_question_of_a_review(self) -> None:
        self.fill(0, [60.0, 61.0])
        self.fill(1, [48.0, 48.5])
        address = self.publish(self.save(), frozen=True)["address"]
        answer = self.page(address)
        text = answer.content.decode()
        self.assertEqual(answer.status_code, 200)
        for column in self.scene.columns:
            self.assertIn(column.label, text)
        self.assertIn("the reference", text)
        self.assertIn("behind", text)
        self.assertNotIn(self.scene.review.question, text)
        self.assertIn("nonce-", answer.headers["Content-Security-Policy"])
        self.assertEqual(SecurityEvent.objects.filter(kind="published").count(), 1)

    def test_a_frozen_page_stays_and_one_that_follows_changes(self) -> None:
        ids = self.fill(0, [60.0, 61.0])
        one = self.save()
        frozen = self.publish(one, frozen=True)["address"]
        before = self.page(frozen).content.decode()
        self.assertIn("<td>2</td>", before)
        Browser("tester").send("put", f"/api/passes/{ids[0]}/set-aside", {"reason": "a scan ran"})
        self.assertIn("<td>2</td>", self.page(frozen).content.decode())
        following = self.publish(one, frozen=False)["address"]
        self.assertEqual(following, frozen)
        self.assertIn("<td>1</td>", self.page(following).content.decode())
        self.fill(0, [60.0, 60.5], seed=7)
        cache.clear()
        self.assertIn("<td>3</td>", self.page(following).content.decode())

    def test_a_page_that_follows_is_worked_out_once_a_minute(self) -> None:
        self.fill(0, [60.0])
        address = self.publish(self.save(), frozen=False)["address"]
        with mock.patch.object(page_module, "content_of", wraps=page_module.content_of) as made:
            for _ in range(5):
                self.assertEqual(self.page(address).status_code, 200)
        self.assertEqual(made.call_count, 1)

    def test_what_it_showed_being_gone_it_shows_what_was_there(self) -> None:
        self.fill(0, [60.0])
        address = self.publish(self.save(), frozen=False)["address"]
        Pass.objects.update(set_aside=True)
        with mock.patch.object(page_module, "content_of", side_effect=page_module.Problem(422, "x", "y")):
            self.assertIn(self.scene.columns[0].label, self.page(address).content.decode())

    def test_withdrawn_it_says_why_and_shows_nothing(self) -> None:
        self.fill(0, [60.0])
        one = self.publish(self.save(), frozen=True)
        self.problem(Browser("tester").send("put", f"{self.path}/{one['id']}/withdrawn", {"why": "x"}), 403)
        self.editor.send("put", f"{self.path}/{one['id']}/withdrawn", {"why": "a wrong cooler"})
        answer = self.page(one["address"])
        self.assertEqual(answer.status_code, 410)
        self.assertIn("a wrong cooler", answer.content.decode())
        self.assertNotIn(self.scene.columns[0].label, answer.content.decode())
        self.assertEqual(self.publish(one, frozen=True)["address"], one["address"])
        self.assertEqual(self.page(one["address"]).status_code, 200)

    def test_a_set_is_published_with_its_tests(self) -> None:
        self.fill(0, [60.0, 60.5])
        self.fill(1, [48.0, 48.5])
        item = {"workload": self.scene_test.workload_id, "settings": self.scene_test.settings, "weight": 2.0}
        made = self.editor.send("post", "/api/test-sets", {"name": "Opening night", "items": [item]}).json()
        body = {"name": "Opening night", "query": {"set": str(made["id"])}}
        one = self.editor.send("post", self.path, body).json()
        text = self.page(self.publish(one, frozen=True)["address"]).content.decode()
        self.assertIn("weight 2", text)
        self.assertIn("One ratio over one test", text)

    def test_an_address_that_is_none_is_404(self) -> None:
        self.assertEqual(self.page("/standings/no-such").status_code, 404)
