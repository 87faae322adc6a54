"""What readers ask and send: held until somebody lets it through, never in a comparison, machines kept out."""

from typing import Any
from unittest.mock import patch

from django.core import signing
from django.core.cache import cache
from django.http import HttpResponse

from nomothet.server.analysis.models import Hypothesis
from nomothet.server.readers import spam
from nomothet.server.readers.models import Message
from nomothet.server.readers.rate import MOST_AN_HOUR
from tests.server.base import Browser
from tests.server.test_record_pages import HOSTILE, RecordTest


class ReaderTest(RecordTest):
    def setUp(self) -> None:
        super().setUp()
        cache.clear()
        self.slug = self.publish()

    def stamp(self, age_s: float = 60) -> str:
        import time

        with patch.object(signing.time, "time", return_value=time.time() - age_s):
            return spam.stamp()

    def send(self, text: str = "How loud is it?", **more: str) -> HttpResponse:
        form = {"stamp": self.stamp(), "kind": "question", "text": text, **more}
        return Browser().client.post(f"/records/{self.slug}/messages", form)

    def decide(self, decision: str, who: str = "editor") -> Any:
        pk = Message.objects.get().pk
        return Browser(who).send("put", f"/api/messages/{pk}/decision", {"decision": decision})

    def problem_page(self, answer: HttpResponse, words: str, status: int = 422) -> str:
        """The page comes back with what was wrong."""
        self.assertEqual(answer.status_code, status)
        text = answer.content.decode()
        self.assertIn(words, text)
        self.assertIn("Nothing was sent.", text)
        return text


class Asking(ReaderTest):
    def test_a_question_waits_and_is_shown_once_it_is_let_through(self) -> None:
        answer = self.send(name="Ada", email="ada@reader.example")
        self.assertEqual(
            (answer.status_code, answer.headers["Location"]), (302, f"/records/{self.slug}?received=1#questions")
        )
        self.assertNotIn("How loud is it?", self.text(self.slug))
        self.assertEqual(self.decide("shown").status_code, 200)
        text = self.text(self.slug)
        self.assertIn("How loud is it?", text)
        self.assertNotIn("ada@reader.example", text)
        self.decide("refused")
        self.assertNotIn("How loud is it?", self.text(self.slug))

    def test_an_answer_is_public_and_lets_the_question_through(self) -> None:
        self.send()
        pk = Message.objects.get().pk
        self.editor.send("put", f"/api/messages/{pk}/answer", {"answer": "30 dB at 1 m."})
        self.assertIn("30 dB at 1 m.", self.text(self.slug))

    def test_a_result_stands_apart_and_can_become_an_explanation_to_test(self) -> None:
        self.problem_page(self.send("Mine is faster.", kind="result"), "on which machine")
        self.send("Mine is faster.", kind="result", machine="a small one", figure="70 fps")
        self.decide("shown")
        text = self.text(self.slug)
        self.assertIn("Not verified by the team", text)
        self.assertIn("<strong>70 fps</strong> on a small one", text)
        pk = Message.objects.get().pk
        self.assertEqual(self.editor.send("post", f"/api/messages/{pk}/follow-up").status_code, 204)
        self.assertIn("70 fps on a small one", Hypothesis.objects.get().words)

    def test_markup_in_a_message_is_text(self) -> None:
        self.send(HOSTILE, name=HOSTILE)
        self.decide("shown")
        self.assertNotIn("<script>alert", self.text(self.slug))

    def test_only_editors_decide_and_the_team_reads(self) -> None:
        self.send()
        for who in ("reader", "tester"):
            with self.subTest(who):
                self.problem(self.decide("shown", who), 403)
        self.assertEqual(Browser("reader").json("/api/messages")["waiting"], 1)
        self.assertEqual(Browser().get("/api/messages").status_code, 401)

    def test_nothing_is_sent_under_a_withdrawn_record(self) -> None:
        self.editor.send("put", f"/api/records/{self.slug}/withdrawn", {"why": "wrong"})
        self.assertEqual(self.send().status_code, 404)


class Machines(ReaderTest):
    def test_a_refusal_keeps_what_was_typed(self) -> None:
        text = self.problem_page(self.send("How loud?", website="x", name="Ada"), "hidden field")
        self.assertIn(">How loud?</textarea>", text)
        self.assertIn('value="Ada"', text)
        self.assertFalse(Message.objects.exists())

    def test_too_quick_too_late_and_forged_forms_are_refused(self) -> None:
        self.problem_page(self.send(stamp=self.stamp(0)), "a few seconds")
        self.problem_page(self.send(stamp=self.stamp(2 * spam.MOST_S)), "too long ago")
        self.problem_page(self.send(stamp="form:1:forged"), "too long ago")

    def test_many_links_are_refused(self) -> None:
        self.problem_page(self.send("https://a.example https://b.example https://c.example"), "links")

    def test_the_same_words_twice_are_refused(self) -> None:
        self.send()
        self.problem_page(self.send(), "wait already", 409)

    def test_from_one_address_so_many_an_hour_are_taken(self) -> None:
        for at in range(MOST_AN_HOUR):
            self.assertEqual(self.send(f"Question {at}?").status_code, 302)
        self.problem_page(self.send("One more?"), "for an hour", 429)
        self.assertEqual(Message.objects.count(), MOST_AN_HOUR)

    def test_empty_and_endless_texts_are_refused(self) -> None:
        for text in ("", "a", "x" * 2001):
            with self.subTest(len(text)):
                self.problem_page(self.send(text), "letters")
