"""What the places list: reviews by what they have measured, owe and have published; and the one catalogue of words."""

from typing import Any

from nomothet.core.docket_order import BETWEEN_PASSES_S
from nomothet.core.readings import READING_METHODS
from nomothet.formats.words import GRADES, IMPRESSIONS, OUTCOMES, SPANS
from nomothet.server.docket.commands import ask_for_passes
from nomothet.server.planning.check import plan, whole_cost
from nomothet.server.reviews.models import Review, Test
from tests.server.base import Browser, SceneTest, steady


class Listed(SceneTest):
    def item(self, query: str = "") -> Any:
        found = Browser("reader").json(f"/api/reviews{query}")
        return next((one for one in found if one["id"] == self.scene.review.pk), None)

    def told(self) -> tuple[str, int, int, int]:
        one = self.item()
        return one["state"], one["kept"], one["owed"], one["running"]

    def test_a_review_from_its_plan_to_its_record(self) -> None:
        self.assertEqual(self.told(), ("planned", 0, 0, 0))
        self.scene.owe(count=2)
        self.assertEqual(self.told(), ("passes owed", 0, 2, 0))
        pass_id, _ = self.bench.take()
        self.assertEqual(self.told(), ("running", 0, 1, 1))
        self.bench.send("post", "/hello", {"inventory": {}, "holding": []})
        self.assertEqual(self.told(), ("passes owed", 0, 2, 0), pass_id)
        self.bench.deliver(steady(60, 1200))
        self.bench.deliver(steady(60, 1200, seed=2))
        self.assertEqual(self.told(), ("measured", 2, 0, 0))
        Browser("editor").send("post", f"{self.review_path}/records", {"change_note": ""})
        self.assertEqual(self.told(), ("published", 2, 0, 0))
        self.assertTrue(self.item()["record"])

    def test_another_edition_is_the_one_that_is_linked(self) -> None:
        self.fill(0, [60.0])
        for note in ("", "a pass more"):
            answer = Browser("editor").send("post", f"{self.review_path}/records", {"change_note": note})
            self.assertEqual(answer.status_code, 201)
        slug = answer.json()["slug"]
        self.assertEqual(self.item()["record"], slug)

    def test_what_is_archived_is_listed_on_request_only(self) -> None:
        Browser("editor").send("put", f"{self.review_path}/archived")
        self.assertIsNone(self.item())
        self.assertTrue(self.item("?archived=true")["archived"])

    def test_a_question_is_asked_by_an_editor_and_by_nobody_below(self) -> None:
        body = {"question": "Does the second kit help?"}
        self.problem(Browser("tester").send("post", "/api/reviews", body), 403)
        made = Browser("editor").send("post", "/api/reviews", body)
        self.assertEqual(made.status_code, 201)
        self.assertEqual(made.headers["ETag"], f'"v{made.json()["version"]}"')
        self.problem(Browser("editor").send("post", "/api/reviews", {"question": ""}), 400)

    def test_the_brief_knows_what_has_passes_and_since_when(self) -> None:
        def brief() -> Any:
            return Browser("reader").json(self.review_path)

        self.assertIsNone(brief()["first_pass_at"])
        self.fill(1, [60.0])
        shape = brief()
        self.assertEqual([one["has_passes"] for one in shape["columns"]], [False, True])
        self.assertEqual([one["has_passes"] for one in shape["tests"]], [True, False])
        self.assertTrue(shape["first_pass_at"].startswith("2026-05-04T10:00:00"))


class Planned(SceneTest):
    """What a plan still has to run: a pass that failed was run, one set aside or of a recorder pair was not."""

    def owed(self) -> int:
        return plan(Review.objects.get(pk=self.scene.review.pk)).cost.passes

    def test_passes_that_were_run_come_off_the_plan(self) -> None:
        whole = self.owed()
        (first,) = self.fill(0, [60.0])
        self.assertEqual(self.owed(), whole - 1)
        self.scene.owe()
        self.bench.deliver(steady(60, 1200), outcome="crashed")
        self.assertEqual(self.owed(), whole - 2)
        Browser("tester").send("put", f"/api/passes/{first}/set-aside", {"reason": "wrong scene"})
        self.assertEqual(self.owed(), whole - 1)

    def test_the_whole_plan_stays_what_it_was_before_the_first_pass(self) -> None:
        before = whole_cost(self.scene.review)
        self.assertEqual(before.passes, self.owed())
        self.fill(0, [60.0, 61.0])
        self.assertEqual(whole_cost(self.scene.review), before)

    def test_a_pass_that_was_never_run_takes_as_long_as_other_tests_of_its_settings_on_average(self) -> None:
        for lengths, settings in (
            ((100.0, 200.0), {"preset": "high", "crowd": 3}),
            ((350.0,), {"crowd": 3, "preset": "high"}),
        ):
            test = Test.objects.create(
                review=self.scene.review, position=Test.objects.count(), workload=self.scene.scene, settings=settings
            )
            ask_for_passes(
                self.scene.people["tester"], self.scene.review, [test.pk], [self.scene.columns[0].pk], len(lengths)
            )
            for length in lengths:
                self.bench.deliver(steady(60, 1200), duration_s=length)
        other = self.scene.new_review("another", "And another?")
        other.tests.exclude(position=0).delete()
        other.tests.update(settings={"preset": "high", "crowd": 3})
        # The mean of 150 s and 350 s.
        self.assertAlmostEqual(plan(other).cost.running_s, plan(other).cost.passes * (250.0 + BETWEEN_PASSES_S))

    def test_the_length_of_a_pass_is_that_of_kept_ones(self) -> None:
        def hours() -> float:
            return plan(Review.objects.get(pk=self.scene.review.pk)).cost.running_s

        self.fill(0, [60.0])
        before = hours()
        self.scene.owe()
        self.bench.deliver(steady(60, 1200), duration_s=6000.0, outcome="hung")
        Test.objects.filter(pk=self.scene.tests[1].pk).delete()
        self.assertLess(hours(), before)


class Catalogue(SceneTest):
    """What the screens offer is what the server takes."""

    def catalogue(self) -> Any:
        return Browser("reader").json("/api/catalogue")

    def test_marks_are_taken_by_every_name_that_is_offered(self) -> None:
        (pass_id,) = self.fill(0, [60.0])
        found = self.catalogue()
        self.assertEqual(tuple(found["spans"]), SPANS)
        for label in (*found["spans"], *found["impressions"]):
            body = {"label": label, "start_s": 1.0, "end_s": 2.0}
            with self.subTest(label=label):
                answer = Browser("tester").send("post", f"/api/passes/{pass_id}/marks", body)
                self.assertEqual(answer.status_code, 201, answer.content)

    def test_grades_are_taken_as_far_as_they_go(self) -> None:
        (pass_id,) = self.fill(0, [60.0])
        path = f"/api/passes/{pass_id}/marks"
        self.assertEqual(tuple(self.catalogue()["grades"]), GRADES)
        for grade, status in ((0, 201), (len(GRADES) - 1, 201), (len(GRADES), 400)):
            body = {"label": IMPRESSIONS[0], "start_s": 1.0, "grade": grade}
            with self.subTest(grade=grade):
                self.assertEqual(Browser("tester").send("post", path, body).status_code, status)

    def test_readings_are_taken_by_every_method_that_is_offered(self) -> None:
        found = self.catalogue()["reading_methods"]
        self.assertEqual([one["name"] for one in found], list(READING_METHODS))
        for one in found:
            cell = {
                "test": self.scene.tests[0].pk, "column": self.scene.columns[0].pk, "metric": "average_fps",
                "text": "61", "method": one["name"], "half_width": one["usual"].get("fps", one["usual"].get("")),
            }  # fmt: skip
            with self.subTest(method=one["name"]):
                answer = Browser("tester").send("post", f"{self.review_path}/typed", {"cells": [cell]})
                self.assertEqual(answer.status_code, 200, answer.content)

    def test_workloads_are_made_of_every_kind_that_is_offered(self) -> None:
        for at, kind in enumerate(self.catalogue()["workload_kinds"]):
            body = {"key": f"made-{at}", "name": f"Made {at}", "version": "1", "kind": kind}
            with self.subTest(kind=kind):
                self.assertEqual(Browser("editor").send("post", "/api/workloads", body).status_code, 201)

    def test_passes_end_in_every_way_that_is_told(self) -> None:
        self.assertEqual(self.catalogue()["outcomes"], OUTCOMES)
        for outcome in OUTCOMES:
            self.scene.owe()
            frames = steady(60, 1200) if outcome == "completed" else None
            with self.subTest(outcome=outcome):
                pass_id = self.bench.deliver(frames, outcome=outcome)
                detail = Browser("reader").json(self.cell_path())["passes"]
                told = next(one for one in detail if one["id"] == pass_id)["outcome_words"]
                self.assertEqual(told, OUTCOMES[outcome])

    def test_a_low_is_defined_in_every_way_that_is_offered(self) -> None:
        for definition in self.catalogue()["low_definitions"]:
            version = Browser("editor").json(self.review_path)["version"]
            answer = Browser("editor").send(
                "patch", self.review_path, {"low_definition": definition}, **{"If-Match": f'"v{version}"'}
            )
            with self.subTest(definition=definition):
                self.assertEqual(answer.status_code, 200, answer.content)

    def test_it_is_for_those_who_are_signed_in(self) -> None:
        self.problem(Browser().get("/api/catalogue"), 401)
