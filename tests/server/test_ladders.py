"""Ladders of tests: tried downwards by hand and by bench, with the recommended settings as their result."""

import uuid
from typing import Any

from django.test import override_settings

from nomothet.server.docket.models import Entry, State
from nomothet.server.ladders.commands import go_on
from nomothet.server.ladders.models import Going, Ladder
from nomothet.server.people.models import User
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.workloads.models import Workload
from tests.server.base import Browser, SceneTest, steady
from tests.server.tasks import AT_ONCE

METER = {"method": "meter", "half_width": 0.1}
PRESETS = ("ultra", "high", "medium")


@override_settings(TASKS=AT_ONCE)
class LadderTest(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        Review.objects.update(target_fps=60, passes_per_test=1)
        settings = [{"key": "preset", "label": "preset", "values": list(PRESETS)}]
        Workload.objects.filter(pk=self.scene.scene.pk).update(settings=settings)
        self.rungs = [
            Test.objects.create(
                review=self.scene.review,
                position=10 + at,
                workload=self.scene.scene,
                settings={"preset": preset},
                detail=preset,
                shown=["average_fps"],
            )
            for at, preset in enumerate(PRESETS)
        ]
        answer = self.make([test.pk for test in self.rungs])
        self.assertEqual(answer.status_code, 201, answer.content)
        self.ladder = Ladder.objects.get()

    def make(self, tests: list[int], who: str = "editor", name: str = "presets") -> Any:
        return Browser(who).send("post", f"{self.review_path}/ladders", {"name": name, "tests": tests})

    def cell(self, column: int = 0) -> dict[str, Any]:
        (shape,) = Browser("reader").json(f"{self.review_path}/ladders")
        found: dict[str, Any] = shape["cells"][str(self.scene.columns[column].pk)]
        return found

    def type_in(self, rung: int, text: str, column: int = 0, metric: str = "average_fps") -> None:
        cell = {"test": self.rungs[rung].pk, "column": self.scene.columns[column].pk, "metric": metric}
        path = f"{self.review_path}/typed/{uuid.uuid4()}"
        with self.captureOnCommitCallbacks(execute=True):
            answer = Browser("tester").send("put", path, {"cells": [{**cell, "text": text, **METER}]})
        self.assertEqual(answer.status_code, 201, answer.content)

    def descend(self, who: str = "tester", columns: tuple[int, ...] = (0,)) -> Any:
        body = {"columns": [self.scene.columns[at].pk for at in columns], "passes": 1}
        return Browser(who).send("post", f"/api/ladders/{self.ladder.pk}/descent", body)

    def owed(self, column: int = 0) -> list[str]:
        entries = Entry.objects.filter(column=self.scene.columns[column], state=State.OWED).order_by("pk")
        return [entry.test.detail for entry in entries]


class Found(LadderTest):
    def test_the_most_demanding_rung_that_is_met_is_recommended(self) -> None:
        self.type_in(0, "40")
        self.type_in(1, "66")
        cell = self.cell()
        self.assertEqual((cell["word"], cell["best_name"], cell["next"]), ("found", "preset high", None))
        self.assertEqual([rung["word"] for rung in cell["rungs"]], ["missed", "met", ""])

    def test_what_was_passed_over_and_what_contradicts_is_told(self) -> None:
        self.type_in(1, "66")
        self.assertIn("ultra was not tried", self.cell()["words"])
        self.type_in(2, "50")
        self.assertIn("preset medium asked less and missed it", self.cell()["words"])

    def test_where_all_miss_there_is_none(self) -> None:
        for rung in range(3):
            self.type_in(rung, "30")
        self.assertEqual(self.cell()["word"], "none")
        self.assertIn("not even preset medium", self.cell()["words"])

    def test_a_pass_that_did_not_start_is_a_miss(self) -> None:
        path = f"{self.review_path}/typed/{uuid.uuid4()}"
        cell = {
            "test": self.rungs[0].pk,
            "column": self.scene.columns[0].pk,
            "metric": "average_fps",
            "text": "n (no launcher)",
        }
        answer = Browser("tester").send("put", path, {"cells": [cell]})
        self.assertEqual(answer.status_code, 201, answer.content)
        self.assertEqual(self.cell()["rungs"][0]["word"], "missed")

    def test_without_a_target_nothing_is_judged(self) -> None:
        Review.objects.update(target_fps=None)
        self.type_in(0, "40")
        self.assertIn("no target", self.cell()["words"])

    def test_an_average_waits_for_its_low(self) -> None:
        Test.objects.filter(pk=self.rungs[0].pk).update(shown=["average_fps", "low_1pct"])
        self.type_in(0, "70")
        self.assertEqual(self.cell()["rungs"][0]["word"], "cannot tell")
        self.type_in(0, "50", metric="low_1pct")
        self.assertEqual(self.cell()["rungs"][0]["word"], "average only")

    def test_a_record_holds_what_is_recommended(self) -> None:
        self.type_in(0, "66")
        slug = Browser("editor").send("post", f"{self.review_path}/records", {"change_note": ""}).json()["slug"]
        content = Browser().json(f"/api/records/{slug}")["content"]
        (ladder,) = content["ladders"]
        self.assertEqual(ladder["cells"][str(self.scene.columns[0].pk)]["best_name"], "ultra")


class Descending(LadderTest):
    def test_the_next_rung_is_owed_once_one_has_missed_and_no_more_once_one_is_met(self) -> None:
        self.assertEqual(self.descend().json(), {"configurations": 1})
        self.assertEqual(self.owed(), ["ultra"])
        self.type_in(0, "40")
        self.assertEqual(self.owed(), ["high"])
        self.type_in(1, "70")
        self.assertEqual(self.owed(), [])
        self.assertFalse(Going.objects.exists())

    def test_each_configuration_goes_down_by_itself(self) -> None:
        self.descend(columns=(0, 1))
        self.type_in(0, "40", column=1)
        self.assertEqual((self.owed(0), self.owed(1)), (["ultra"], ["high"]))

    def test_asking_twice_owes_a_rung_once(self) -> None:
        self.descend()
        self.descend()
        self.assertEqual(self.owed(), ["ultra"])

    def test_stopping_leaves_what_is_owed_and_asks_for_no_more(self) -> None:
        self.descend()
        self.assertEqual(Browser("tester").send("delete", f"/api/ladders/{self.ladder.pk}/descent").status_code, 204)
        self.type_in(0, "40")
        self.assertEqual(self.owed(), [])

    def test_who_may_no_longer_ask_goes_no_further(self) -> None:
        self.descend()
        User.objects.filter(username="tester").update(role="reader")
        going = Going.objects.get()
        going.asked_by.refresh_from_db()
        cell = {"test": self.rungs[0].pk, "column": self.scene.columns[0].pk, "metric": "average_fps"}
        path = f"{self.review_path}/typed/{uuid.uuid4()}"
        Browser("editor").send("put", path, {"cells": [{**cell, "text": "40", **METER}]})
        go_on(going.ladder, going.column)
        self.assertEqual(self.owed(), [])
        self.assertFalse(Going.objects.exists())

    def test_a_bench_goes_down_too(self) -> None:
        self.descend()
        with self.captureOnCommitCallbacks(execute=True):
            self.bench.deliver(steady(45))
        self.assertEqual(self.owed(), ["high"])


class Declaring(LadderTest):
    def test_rungs_are_two_or_more_tests_of_one_workload_named_once(self) -> None:
        own, other = [test.pk for test in self.rungs], self.scene.tests[1].pk
        for tests, field in ((own[:1], "tests"), ([own[0], own[0]], "tests"), ([own[0], other], "tests"),
                             ([own[0], 10**6], "tests"), (own[:2], "name")):  # fmt: skip
            with self.subTest(tests=tests):
                self.assertEqual(self.problem(self.make(tests), 422)["field"], field)

    def test_who_may(self) -> None:
        self.problem(self.make([test.pk for test in self.rungs], "tester", "other"), 403)
        self.problem(self.descend("reader"), 403)
        self.problem(Browser("tester").send("delete", f"/api/ladders/{self.ladder.pk}"), 403)
        self.assertEqual(Browser("editor").send("delete", f"/api/ladders/{self.ladder.pk}").status_code, 204)
        self.assertEqual(Test.objects.filter(pk__in=[test.pk for test in self.rungs]).count(), 3)

    def test_a_rung_that_is_removed_is_no_rung(self) -> None:
        Browser("editor").send("delete", f"{self.review_path}/tests/{self.rungs[0].pk}")
        (shape,) = Browser("reader").json(f"{self.review_path}/ladders")
        self.assertEqual(shape["names"], ["preset high", "preset medium"])

    def test_a_configuration_that_cannot_be_built_is_not_tried(self) -> None:
        column = Column.objects.get(pk=self.scene.columns[0].pk)
        column.configuration.blocked = "no connector"
        column.configuration.save()
        self.assertEqual(self.descend().json(), {"configurations": 0})
        self.assertIn("no connector", self.cell()["words"])
