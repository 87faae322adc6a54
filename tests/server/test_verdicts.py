"""Verdicts: written, checked sentence by sentence, answered, signed, and taken back by what changes."""

from typing import Any

from nomothet.server.findings.models import Pin
from nomothet.server.people.models import Team
from nomothet.server.verdicts.models import Revision, Signature, Verdict
from tests.server.base import Browser, SceneTest


def write_verdict(path: str, text: str, answer: str = "", who: str = "editor", **use: Any) -> Any:
    """Write what a verdict says of one use, over what it said before."""
    browser = Browser(who)
    tag = browser.get(path).headers["ETag"]
    body = {"answer": answer, "uses": [{"key": "a", "name": "the dome", "text": text, **use}]}
    return browser.send("patch", path, body, **{"If-Match": tag})


class VerdictTest(SceneTest):
    """Two configurations, the second a tenth slower, with a finding of it pinned as number 1."""

    found: dict[str, Any]

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        for column, rates in ((0, (60.0, 60.2, 59.9)), (1, (54.0, 54.1, 53.9))):
            cls.scene.fill(column, rates, seed=0)
        editor, path = Browser("editor"), f"/api/reviews/{cls.scene.review.pk}"
        findings = editor.json(f"{path}/findings")["findings"]
        cls.found = next(one for one in findings if one["kind"] == "versus")
        editor.send("post", f"{path}/pins", {"key": cls.found["key"]})

    def setUp(self) -> None:
        super().setUp()
        self.editor = Browser("editor")
        self.path = f"{self.review_path}/verdict"

    def write(self, text: str, answer: str = "", who: str = "editor", **use: Any) -> Any:
        return write_verdict(self.path, text, answer, who, **use)

    def statuses(self) -> list[str]:
        return [one["status"] for one in self.editor.json(self.path)["sentences"]]


class Writing(VerdictTest):
    def test_nothing_is_written_at_first(self) -> None:
        found = self.editor.json(self.path)
        self.assertEqual((found["version"], found["answer"], found["uses"], found["sentences"]), (0, "", [], []))

    def test_the_answer_leads_the_list_of_reviews(self) -> None:
        self.assertEqual(self.write("", "20 W costs a tenth.").status_code, 200)
        self.assertEqual(self.editor.json("/api/reviews")[0]["answer"], "20 W costs a tenth.")

    def test_advice_by_use_is_kept_with_its_conditions(self) -> None:
        column = self.scene.columns[1].pk
        self.write(
            "It is quiet.",
            judged=[{"column": column, "call": "not advised", "note": "too slow"}],
            conditions={"settings": "4K", "room": "21 to 23 °C", "workload": "", "basis": ""},
            outcome="not worth it",
        )
        use = self.editor.json(self.path)["uses"][0]
        self.assertEqual(use["judged"], [{"column": column, "call": "not advised", "note": "too slow"}])
        self.assertEqual((use["conditions"]["settings"], use["outcome"]), ("4K", "not worth it"))

    def test_of_two_who_write_at_once_the_slower_is_told(self) -> None:
        tag = self.editor.get(self.path).headers["ETag"]
        self.write("Mine.")
        problem = self.problem(self.editor.send("patch", self.path, {"answer": "Theirs."}, **{"If-Match": tag}), 412)
        self.assertEqual(problem["current"]["uses"][0]["text"], "Mine.")
        self.assertEqual(Verdict.objects.get().answer, "")
        self.problem(self.editor.send("patch", self.path, {"answer": "Theirs."}), 428)

    def test_mistakes_are_named(self) -> None:
        column = self.scene.columns[0].pk
        twice = [{"column": column, "call": "advised"}, {"column": column, "call": "acceptable"}]
        for use, words in (
            ({"judged": twice}, "twice"),
            ({"text": "x" * 20_001}, "letters"),
            ({"conditions": {"basis": "guessed"}}, "guessed"),
        ):
            with self.subTest(words):
                self.assertIn(words, self.problem(self.write(use.pop("text", ""), **use), 422)["detail"])
        self.problem(self.write("", judged=[{"column": column, "call": "loved"}]), 400)
        self.assertFalse(Verdict.objects.exists())

    def test_every_version_is_kept_and_two_are_compared(self) -> None:
        self.write("20 W is quiet. It costs a tenth.")
        self.write("20 W is quiet. It costs an eighth.")
        self.write("20 W is quiet. It costs an eighth.")
        found = self.editor.json(f"{self.path}/revisions")
        self.assertEqual([one["version"] for one in found["revisions"]], [2, 1])
        self.assertEqual(
            [(line["change"], line["text"]) for line in found["lines"]],
            [
                ("same", "the dome"),
                ("same", "20 W is quiet."),
                ("gone", "It costs a tenth."),
                ("new", "It costs an eighth."),
            ],
        )

    def test_only_editors_write(self) -> None:
        for who in ("reader", "tester"):
            with self.subTest(who):
                self.problem(self.write("x", who=who), 403)
        self.assertFalse(Revision.objects.exists())


class Checks(VerdictTest):
    def test_sentences_are_held_against_the_review(self) -> None:
        self.write(
            "20 W is 10 % slower than 35 W [1]. 20 W is 10 % slower. 20 W is 30 % slower than 35 W [1]. "
            "12 W would do too. We measured in May."
        )
        self.assertEqual(self.statuses(), ["backed", "sourceless", "contradicted", "further", "nothing"])

    def test_a_wrong_figure_can_be_taken_over(self) -> None:
        self.write("20 W is 30 % slower than 35 W [1].")
        one = self.editor.json(self.path)["sentences"][0]
        self.assertEqual(one["instead"], f"20 W is {self.found['told'].lstrip('−')} slower than 35 W [1].")
        self.assertIn("finding 1 says", one["says"][0])
        self.write(one["instead"])
        self.assertEqual(self.statuses(), ["backed"])

    def test_a_figure_that_comes_from_a_finding_follows_it(self) -> None:
        self.write("20 W is [1 amount] slower than 35 W [1].")
        self.assertEqual(self.statuses(), ["backed"])
        self.fill(1, [30.0, 30.1, 30.2, 29.9, 30.0], seed=50)
        self.assertEqual(self.statuses(), ["backed"])

    def test_a_finding_that_would_carry_it_is_offered(self) -> None:
        self.write("20 W is 10 % slower than 35 W.")
        one = self.editor.json(self.path)["sentences"][0]
        self.assertIn(self.found["key"], one["offers"])

    def test_a_text_is_checked_while_it_is_written(self) -> None:
        body = {"answer": "20 W is faster than 35 W.", "uses": []}
        self.problem(Browser("tester").send("post", f"{self.path}/check", body), 403)
        found = self.editor.send("post", f"{self.path}/check", body).json()
        self.assertEqual([one["status"] for one in found["sentences"]], ["contradicted"])
        self.assertFalse(Verdict.objects.exists())

    def test_a_judgement_is_said_to_be_one_until_its_words_change(self) -> None:
        self.write("20 W is enough for us.")
        self.editor.send("post", f"{self.path}/replies", {"sentence": "20 W is enough for us.", "kind": "judgement"})
        self.assertEqual(self.statuses(), ["judgement"])
        self.write("20 W is enough for all of us.")
        self.assertNotEqual(self.statuses(), ["judgement"])

    def test_a_sentence_stands_all_the_same_with_a_reason(self) -> None:
        self.write("12 W would do too.")
        body = {"sentence": "12 W would do too.", "kind": "stands"}
        self.problem(self.editor.send("post", f"{self.path}/replies", body), 422)
        found = self.editor.send("post", f"{self.path}/replies", {**body, "words": "by experience"}).json()
        self.assertEqual(
            (found["sentences"][0]["status"], found["sentences"][0]["reply"]["words"]), ("further", "by experience")
        )
        self.assertEqual([one for one in found["points"] if one["kind"] == "claim"], [])
        reply = found["sentences"][0]["reply"]["id"]
        self.assertEqual(self.editor.send("delete", f"/api/replies/{reply}").status_code, 204)
        self.assertEqual(len([one for one in self.editor.json(self.path)["points"] if one["kind"] == "claim"]), 1)

    def test_a_number_stays_with_its_finding_when_the_pin_is_taken_off_and_put_back(self) -> None:
        pin = Pin.objects.get()
        self.editor.send("delete", f"/api/pins/{pin.pk}")
        other = next(
            one
            for one in self.editor.json(f"{self.review_path}/findings")["findings"]
            if one["key"] != self.found["key"]
        )
        self.editor.send("post", f"{self.review_path}/pins", {"key": other["key"]})
        self.editor.send("post", f"{self.review_path}/pins", {"key": self.found["key"]})
        numbers = dict(Pin.objects.values_list("key", "number"))
        self.assertEqual(numbers, {self.found["key"]: 1, other["key"]: 2})


class Points(VerdictTest):
    def test_what_is_open_is_answered_and_the_answer_counts_until_it_says_something_else(self) -> None:
        self.write("12 W would do too.")
        point = next(one for one in self.editor.json(self.path)["points"] if one["kind"] == "claim")
        address = f"{self.path}/points/{point['key']}"
        self.problem(self.editor.send("put", address, {"how": "accepted", "words": " "}), 400)
        found = self.editor.send("put", address, {"how": "accepted", "words": "said as a hope"}).json()
        answered = next(one for one in found["points"] if one["key"] == point["key"])
        self.assertEqual((answered["answer"]["how"], answered["answer"]["words"]), ("accepted", "said as a hope"))
        self.write("13 W would do too.")
        self.assertEqual(
            [one["answer"] for one in self.editor.json(self.path)["points"] if one["kind"] == "claim"], [None]
        )

    def test_an_answer_is_taken_back(self) -> None:
        self.write("12 W would do too.")
        point = next(one for one in self.editor.json(self.path)["points"] if one["kind"] == "claim")
        address = f"{self.path}/points/{point['key']}"
        self.editor.send("put", address, {"how": "left out", "words": "later"})
        self.assertEqual(self.editor.send("delete", address).status_code, 204)
        self.assertIsNone(next(o for o in self.editor.json(self.path)["points"] if o["key"] == point["key"])["answer"])

    def test_a_point_that_is_gone_cannot_be_answered(self) -> None:
        self.problem(self.editor.send("put", f"{self.path}/points/abc", {"how": "accepted", "words": "x"}), 422)

    def test_holes_are_told_once_for_each_reason(self) -> None:
        kinds = [one["kind"] for one in self.editor.json(self.path)["points"]]
        self.assertIn("hole", kinds)
        self.assertLessEqual(kinds.count("hole"), 3)


class Signatures(VerdictTest):
    def setUp(self) -> None:
        super().setUp()
        self.write("20 W is quiet.", "20 W is quiet.")

    def sign(self, role: str, who: str) -> Any:
        return Browser(who).send("post", f"{self.path}/signatures", {"role": role})

    def standing(self) -> list[tuple[str, bool]]:
        return [(one["role"], one["stands"]) for one in self.editor.json(self.path)["signatures"]]

    def test_author_and_second_reader_are_two_people(self) -> None:
        self.assertEqual(self.sign("author", "editor").status_code, 201)
        self.problem(self.sign("second reader", "editor"), 409)
        self.problem(self.sign("author", "editor"), 409)
        self.assertEqual(self.sign("second reader", "tester").status_code, 201)
        self.assertEqual(self.standing(), [("author", True), ("second reader", True)])

    def test_what_is_changed_takes_a_signature_back_and_says_what(self) -> None:
        self.sign("author", "editor")
        self.write("20 W is very quiet.", "20 W is quiet.")
        one = self.editor.json(self.path)["signatures"][0]
        self.assertEqual((one["stands"], one["why_not"]), (False, "taken back: the text changed since"))
        self.sign("author", "editor")
        self.fill(0, [61.0], seed=9)
        self.assertEqual(self.standing(), [("author", False), ("author", False)])
        self.assertIn("the evidence", self.editor.json(self.path)["signatures"][1]["why_not"])

    def test_a_signature_is_withdrawn_by_who_gave_it(self) -> None:
        self.sign("author", "editor")
        pk = Signature.objects.get().pk
        self.problem(Browser("tester").send("delete", f"/api/signatures/{pk}"), 403)
        self.assertEqual(self.editor.send("delete", f"/api/signatures/{pk}").status_code, 204)
        self.assertEqual(self.standing(), [("author", False)])

    def test_readers_sign_nothing_and_testers_do_not_sign_as_author(self) -> None:
        self.problem(self.sign("second reader", "reader"), 403)
        self.problem(self.sign("author", "tester"), 403)
        self.assertFalse(Signature.objects.exists())

    def test_a_team_may_ask_for_two_before_publishing(self) -> None:
        Browser("admin").send("put", "/api/team", {"two_signatures": True})
        self.problem(self.editor.send("put", "/api/team", {"two_signatures": False}), 403)
        self.assertTrue(Team.settings().two_signatures)
        self.sign("author", "editor")
        problem = self.problem(self.editor.send("post", f"{self.review_path}/records", {}), 409)
        self.assertIn("second reader has not signed", problem["detail"])
        self.sign("second reader", "tester")
        self.assertEqual(self.editor.send("post", f"{self.review_path}/records", {}).status_code, 201)

    def test_nothing_written_is_nothing_to_sign(self) -> None:
        Verdict.objects.all().delete()
        self.problem(self.sign("author", "editor"), 422)


class Published(VerdictTest):
    def record(self, note: str = "") -> Any:
        slug = self.editor.send("post", f"{self.review_path}/records", {"change_note": note}).json()["slug"]
        return Browser().json(f"/api/records/{slug}")["content"]

    def test_the_record_has_its_figures_put_in_and_its_findings_numbered_as_they_come(self) -> None:
        findings = self.editor.json(f"{self.review_path}/findings")["findings"]
        other = next(one for one in findings if one["key"] != self.found["key"])
        self.editor.send("post", f"{self.review_path}/pins", {"key": other["key"]})
        self.write("It is seen [2]. 20 W is [1 amount] slower [1], says one.", "20 W costs [1 amount].")
        verdict = self.record()["verdict"]
        amount = self.found["told"].lstrip("−")
        self.assertEqual(verdict["answer"], f"20 W costs {amount}.")
        self.assertEqual(
            [(one["text"], one["finding"]) for one in verdict["uses"][0]["paragraphs"][0]],
            [("It is seen", 2), (f". 20 W is {amount} slower", 1), (", says one.", 0)],
        )

    def test_what_was_open_stands_in_the_record_with_its_answer(self) -> None:
        self.write("12 W would do too.")
        point = next(one for one in self.editor.json(self.path)["points"] if one["kind"] == "claim")
        self.editor.send("put", f"{self.path}/points/{point['key']}", {"how": "accepted", "words": "a hope"})
        told = {one["words"]: one["how"] for one in self.record()["verdict"]["points"]}
        self.assertEqual(told[point["words"]], "accepted")
        self.assertIn("", told.values())

    def test_a_signature_stands_in_the_record_and_one_taken_back_does_not(self) -> None:
        self.write("20 W is quiet.")
        Browser("editor").send("post", f"{self.path}/signatures", {"role": "author"})
        self.assertEqual([one["role"] for one in self.record()["verdict"]["signatures"]], ["author"])
        self.write("20 W is very quiet.")
        self.assertEqual(self.record("the words")["verdict"]["signatures"], [])

    def test_notes_of_the_team_stay_with_the_team(self) -> None:
        self.editor.send("post", f"{self.review_path}/pins", {"key": self.found["key"], "note": "between us"})
        self.editor.send("post", f"{self.review_path}/talk", {"text": "between us too"})
        self.write("20 W is slower [1].")
        self.assertNotIn("between us", str(self.record()))

    def metric_note(self) -> Any:
        notes = self.editor.json(f"{self.review_path}/metric-notes")
        return next(one for one in notes if one["metric"] == "average_fps")

    def explain(self, words: str, tag: str) -> None:
        answer = self.editor.send("put", "/api/metric-notes/average_fps", {"words": words}, **{"If-Match": f'"{tag}"'})
        self.assertEqual(answer.status_code, 204)

    def test_metrics_are_explained_in_the_teams_words_from_then_on(self) -> None:
        before = self.record()["metric_notes"]["average_fps"]
        path = "/api/metric-notes/average_fps"
        self.problem(Browser("tester").send("put", path, {"words": "x"}), 403)
        self.problem(self.editor.send("put", path, {"words": "x"}), 428)
        read = self.metric_note()["tag"]
        self.explain("How smooth the dome looks.", read)
        self.assertEqual(self.metric_note()["words"], "How smooth the dome looks.")
        late = self.problem(self.editor.send("put", path, {"words": "x"}, **{"If-Match": f'"{read}"'}), 412)
        self.assertEqual(late["current"]["words"], "How smooth the dome looks.")
        self.assertEqual(self.record("words")["metric_notes"]["average_fps"], "How smooth the dome looks.")
        self.explain(" ", late["current"]["tag"])
        self.assertEqual(self.record("words again")["metric_notes"]["average_fps"], before)
