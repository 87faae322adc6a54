"""Talk: threads about things, people named, what is unread, who looks, and nothing lost when its thing goes."""

from datetime import timedelta
from typing import Any

from django.utils import timezone

from nomothet.server.history.models import Event
from nomothet.server.talk.models import Comment, Looking
from tests.server.base import Browser, SceneTest


class TalkTest(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.path = f"{self.review_path}/talk"

    def say(self, text: str, who: str = "tester", **more: Any) -> Any:
        return Browser(who).send("post", self.path, {"text": text, **more})

    def threads(self, who: str = "reader") -> list[dict[str, Any]]:
        found: list[dict[str, Any]] = Browser(who).json(self.path)["threads"]
        return found


class Threads(TalkTest):
    def test_everybody_comments_and_answers_also_readers(self) -> None:
        first = self.say("Why is it so loud?", "reader").json()["threads"][0]["id"]
        self.assertEqual(self.say("The fan.", "tester", thread=first).status_code, 201)
        [thread] = self.threads()
        self.assertEqual([one["by"] for one in thread["comments"]], ["Reader", "Tester"])

    def test_a_comment_is_about_a_cell_a_pass_or_a_sentence_and_names_it(self) -> None:
        [pass_id] = self.fill(0, [60.0])
        cell = {"test": self.scene.tests[0].pk, "column": self.scene.columns[0].pk}
        self.say("a", about="cell", **cell)
        self.say("b", about="pass", owner=pass_id)
        self.say("c", about="sentence", key="20 W is quiet.")
        words = {one["about"]: one["words"] for one in self.threads()}
        self.assertEqual(words["cell"], "Reef Walk 2, kelp tunnel on 35 W")
        self.assertEqual(words["pass"], "pass 1 of Reef Walk 2, kelp tunnel on 35 W")
        self.assertEqual(words["sentence"], "20 W is quiet.")

    def test_a_comment_about_a_finding_keeps_what_the_finding_said(self) -> None:
        self.fill(0, [60.0, 60.1])
        self.fill(1, [54.0, 54.1])
        finding = Browser("editor").json(f"{self.review_path}/findings")["findings"][0]
        self.say("Really?", about="finding", key=finding["key"])
        self.assertEqual(self.threads()[0]["words"], finding["sentence"])

    def test_things_of_other_reviews_are_refused(self) -> None:
        other = self.scene.new_review("other", "Another?")
        for more in (
            {"about": "cell", "test": other.tests.first().pk, "column": self.scene.columns[0].pk},
            {"about": "pass", "owner": "11111111-1111-1111-1111-111111111111"},
            {"about": "finding", "key": "none"},
            {"about": "sentence"},
            {"thread": 999_999},
        ):
            with self.subTest(more):
                self.problem(self.say("x", **more), 422)
        self.assertFalse(Comment.objects.exists())

    def test_an_empty_or_endless_comment_is_refused(self) -> None:
        self.problem(self.say("  "), 400)
        self.problem(self.say("x" * 4001), 400)

    def test_a_thread_stays_when_its_test_is_removed(self) -> None:
        cell = {"test": self.scene.tests[1].pk, "column": self.scene.columns[0].pk}
        self.say("Is this needed?", about="cell", **cell)
        self.scene.tests[1].delete()
        [thread] = self.threads()
        self.assertEqual((thread["words"], thread["gone"]), ("Loom, all parts on 35 W", True))
        self.assertEqual(thread["comments"][0]["text"], "Is this needed?")

    def test_a_thread_is_closed_and_an_answer_opens_it_again(self) -> None:
        first = self.say("Done?").json()["threads"][0]["id"]
        self.assertEqual(Browser("editor").send("put", f"/api/comments/{first}/closed").status_code, 204)
        found = Browser("reader").json(self.path)
        self.assertEqual((found["open"], found["threads"][0]["closed_by"]), (0, "Editor"))
        answer = self.say("Not quite.", thread=first).json()
        self.assertEqual((answer["open"], answer["threads"][0]["closed_at"]), (1, None))
        self.problem(Browser("editor").send("put", f"/api/comments/{Comment.objects.last().pk}/closed"), 422)

    def test_only_ones_own_words_are_changed_and_what_they_were_is_kept(self) -> None:
        made = self.say("It is loud.").json()["threads"][0]["id"]
        address = f"/api/comments/{made}"
        self.problem(Browser("editor").send("patch", address, {"text": "It is quiet."}), 409)
        self.assertEqual(Browser("tester").send("patch", address, {"text": "It is very loud."}).status_code, 200)
        self.assertIsNotNone(self.threads()[0]["comments"][0]["edited_at"])
        event = Event.objects.get(kind="comment", object_id=made)
        self.assertEqual(event.changes["text"], ["It is loud.", "It is very loud."])

    def test_nobody_reads_it_signed_out(self) -> None:
        self.assertEqual(Browser().get(self.path).status_code, 401)
        self.assertEqual(Browser().get("/api/inbox").status_code, 401)


class Notices(TalkTest):
    def inbox(self, who: str) -> Any:
        return Browser(who).json("/api/inbox")

    def test_whoever_is_named_is_told_and_nobody_else(self) -> None:
        self.say("Look at this, @nobody and @editor. Mail me at x@reader.example.")
        self.assertEqual((self.inbox("editor")["unread"], self.inbox("reader")["unread"]), (1, 0))
        notice = self.inbox("editor")["notices"][0]
        self.assertEqual((notice["by"], notice["named"], notice["review"]), ("Tester", True, self.scene.review.pk))

    def test_those_who_take_part_are_told_of_an_answer(self) -> None:
        first = self.say("Why?", "reader").json()["threads"][0]["id"]
        self.say("Because.", "tester", thread=first)
        self.say("Indeed.", "editor", thread=first)
        self.assertEqual([one["named"] for one in self.inbox("reader")["notices"]], [False, False])
        self.assertEqual(self.inbox("tester")["unread"], 1)
        self.assertEqual(self.inbox("editor")["unread"], 0)

    def test_notices_are_read_one_by_one_or_all_and_never_those_of_others(self) -> None:
        for text in ("@editor one", "@editor two", "@reader three"):
            self.say(text)
        one = self.inbox("editor")["notices"][0]["id"]
        other = self.inbox("reader")["notices"][0]["id"]
        self.assertEqual(Browser("editor").send("put", "/api/inbox", {"notices": [one, other]}).json()["unread"], 1)
        self.assertEqual(Browser("editor").send("put", "/api/inbox", {}).json()["unread"], 0)
        self.assertEqual(self.inbox("reader")["unread"], 1)

    def test_what_is_new_is_told_until_it_is_read(self) -> None:
        self.say("one")
        self.say("two", "editor")
        found = Browser("editor").json(self.path)
        self.assertEqual(found["unread"], 1)
        Browser("editor").send("put", f"{self.path}/seen", {"upto": found["last"]})
        self.assertEqual(Browser("editor").json(self.path)["unread"], 0)
        Browser("editor").send("put", f"{self.path}/seen", {"upto": 0})
        self.assertEqual(Browser("editor").json(self.path)["unread"], 0)


class WhoLooks(TalkTest):
    def look(self, who: str, sheet: str = "matrix") -> list[dict[str, Any]]:
        answer = Browser(who).send("put", f"{self.review_path}/looking", {"sheet": sheet})
        found: list[dict[str, Any]] = answer.json()
        return found

    def test_others_are_told_with_their_sheet_and_oneself_is_not(self) -> None:
        self.assertEqual(self.look("editor", "verdict"), [])
        self.assertEqual(self.look("tester"), [{"username": "editor", "display_name": "Editor", "sheet": "verdict"}])

    def test_who_has_left_is_forgotten(self) -> None:
        self.look("editor")
        Looking.objects.update(at=timezone.now() - timedelta(minutes=2))
        self.assertEqual(self.look("tester"), [])

    def test_a_sheet_that_is_none_is_refused(self) -> None:
        answer = Browser("editor").send("put", f"{self.review_path}/looking", {"sheet": "kitchen"})
        self.problem(answer, 400)
