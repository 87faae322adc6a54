"""A team's own sets of tests: kept in editions, one ratio over all of them, and a review made of them."""

import csv
import math
from typing import Any

from nomothet.server.docket.models import Entry
from nomothet.server.reviews.models import Review
from nomothet.server.standings.models import TestSet
from tests.server.base import Browser
from tests.server.test_standings import StandingsTest


class SetsTest(StandingsTest):
    path = "/api/test-sets"

    def setUp(self) -> None:
        super().setUp()
        self.editor = Browser("editor")
        self.own = {"workload": self.scene_test.workload_id, "settings": self.scene_test.settings}

    def make(self, *items: dict[str, Any], status: int = 201, **more: Any) -> Any:
        body = {"name": "Opening night", "items": list(items) or [self.own], **more}
        answer = self.editor.send("post", self.path, body)
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def rows(self, one: Any, query: str = "") -> dict[int, Any]:
        return {row["configuration"]: row for row in self.editor.json(f"{self.path}/{one['id']}{query}")["rows"]}


class Ratios(SetsTest):
    def test_the_ratio_over_all_tests_is_the_weighted_geometric_mean(self) -> None:
        self.fill(0, [60.0, 60.3, 59.7])
        self.fill(1, [48.0, 48.3, 47.7])
        low = {**self.own, "metric": "low_1pct"}
        one = self.make({**self.own, "weight": 3.0}, low)
        first, second = (column.configuration_id for column in self.scene.columns)
        rows = self.rows(one, f"?against={first}")
        self.assertEqual((rows[first]["place"], rows[second]["place"]), ("reference", "beside"))
        each = {cell["item"]: cell["better"] for cell in rows[second]["cells"]}
        ratios = [1 + each[0] / 100, 1 + each[1] / 100]
        expected = math.exp((3 * math.log(ratios[0]) + math.log(ratios[1])) / 4)
        self.assertAlmostEqual(rows[second]["better"], 100 * (expected - 1), places=6)
        self.assertEqual(rows[second]["verdict"], "behind")
        self.assertIn("Over 2 tests", rows[second]["sentence"])
        self.assertLess(rows[second]["better_low"], rows[second]["better"])

    def test_against_another_configuration_it_is_the_reciprocal(self) -> None:
        self.fill(0, [60.0, 60.3])
        self.fill(1, [48.0, 48.3])
        one = self.make()
        first, second = (column.configuration_id for column in self.scene.columns)
        forth = self.rows(one, f"?against={first}")[second]["better"]
        back = self.rows(one, f"?against={second}")[first]["better"]
        self.assertAlmostEqual((1 + forth / 100) * (1 + back / 100), 1.0, places=9)

    def test_what_lacks_a_test_or_may_not_stand_beside_is_left_out_with_the_reason(self) -> None:
        self.fill(0, [60.0, 60.3])
        self.fill(1, [48.0, 48.3])
        another = {"workload": self.scene.suite.pk, "metric": "one_thread"}
        one = self.make(self.own, another)
        rows = self.rows(one)
        self.assertEqual({row["place"] for row in rows.values()}, {"left out"})
        self.assertEqual([row["missing"] for row in rows.values()], [[1], [1]])

    def test_a_page_tells_of_its_rows_alone_as_the_whole_does(self) -> None:
        self.fill(0, [60.0, 60.3, 59.7])
        self.fill(1, [48.0, 48.3, 47.7])
        one = self.make()
        whole = self.editor.json(f"{self.path}/{one['id']}")
        self.assertEqual((whole["count"], len(whole["rows"])), (2, 2))
        labels = {row["configuration"]: row["label"] for row in whole["rows"]}
        self.assertEqual(whole["reference_label"], labels[whole["reference"]])
        second = self.editor.json(f"{self.path}/{one['id']}?offset=1")
        self.assertEqual((second["count"], second["rows"]), (2, whole["rows"][1:]))
        self.assertEqual(self.editor.json(f"{self.path}/{one['id']}?offset=9")["rows"], [])

    def test_its_csv_has_a_line_for_every_test_of_every_configuration(self) -> None:
        self.fill(0, [60.0, 60.3])
        self.fill(1, [48.0, 48.3])
        one = self.make(self.own, {"workload": self.scene.suite.pk, "metric": "one_thread"})
        answer = self.editor.get(f"{self.path}/{one['id']}/results.csv")
        self.assertIn(f"set-{one['id']}-edition-1.csv", answer["Content-Disposition"])
        rows = list(csv.DictReader(b"".join(answer.streaming_content).decode().splitlines()))
        told = {(row["configuration"], row["number of the test"]): row for row in rows}
        self.assertEqual(len(told), 4)
        labels = {column.configuration.title for column in self.scene.columns}
        self.assertEqual({label for label, _ in told}, labels)
        figures = sorted(float(told[label, "1"]["figure"]) for label in labels)
        for figure, expected in zip(figures, (48.15, 60.15), strict=True):
            self.assertAlmostEqual(figure, expected, delta=0.2)
        for label in labels:
            self.assertEqual((told[label, "1"]["passes"], told[label, "1"]["unit"]), ("2", "fps"))
            self.assertEqual((told[label, "2"]["why"], told[label, "2"]["figure"]), ("no result", ""))

    def test_the_latest_result_of_a_configuration_counts_and_an_earlier_one_not(self) -> None:
        self.fill(0, [60.0, 60.3])
        again = self.another_review([72.0, 72.3])
        one = self.make()
        (row,) = self.rows(one).values()
        self.assertEqual(row["cells"][0]["review"], again.review_id)
        self.assertAlmostEqual(row["cells"][0]["centre"], 72.15, delta=0.2)


class Kept(SetsTest):
    def test_an_edit_makes_the_next_edition_and_keeps_the_one_before(self) -> None:
        one = self.make(note="what the season opens with")
        path = f"{self.path}/{one['id']}"
        heavier = {"items": [{**self.own, "weight": 2.0}]}
        self.problem(self.editor.send("patch", path, heavier), 428)
        answer = self.editor.send("patch", path, heavier, **{"If-Match": '"v1"'})
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual((answer.json()["edition"], answer.json()["note"]), (2, "what the season opens with"))
        self.assertEqual(TestSet.objects.get(pk=one["id"]).items[0]["weight"], 1.0)
        late = self.problem(self.editor.send("patch", path, {"note": "x"}, **{"If-Match": '"v1"'}), 412)
        self.assertEqual(late["current"]["edition"], 2)
        (listed,) = self.editor.json(self.path)
        self.assertEqual((listed["edition"], listed["tests"]), (2, 1))
        self.assertEqual([one["edition"] for one in self.editor.json(path)["editions"]], [2, 1])

    def test_an_edit_that_changes_nothing_makes_no_edition(self) -> None:
        one = self.make()
        self.editor.send("patch", f"{self.path}/{one['id']}", {"name": "Opening night"}, **{"If-Match": '"v1"'})
        self.assertEqual(TestSet.objects.count(), 1)

    def test_the_tests_of_a_review_make_a_set(self) -> None:
        answer = self.editor.send("post", self.path, {"name": "From it", "review": self.scene.review.pk})
        self.assertEqual(answer.status_code, 201, answer.content)
        self.assertEqual(len(answer.json()["items"]), self.scene.review.tests.count())

    def test_a_test_of_a_review_is_taken_with_its_settings(self) -> None:
        one = self.make({"test": self.scene_test.pk, "weight": 2.0})
        self.assertEqual(one["items"][0]["settings"], self.scene_test.settings)
        self.assertEqual((one["items"][0]["weight"], one["items"][0]["metric"]), (2.0, "average_fps"))

    def test_what_cannot_be_in_a_set_is_named(self) -> None:
        for item, words in (
            ({**self.own, "metric": "no_such"}, "has no metric"),
            ({**self.own, "settings": {"no_such": 1}}, "no setting"),
            ({**self.own, "workload": 10**6}, "not there"),
            ({**self.own, "metric": "low_1pct", "weight": 1001}, "weight"),
        ):
            with self.subTest(words=words):
                body = {"name": "x", "items": [item]}
                self.assertIn(
                    words,
                    str(self.problem(self.editor.send("post", self.path, body), 400 if "weight" in words else 422)),
                )
        twice = {"name": "x", "items": [self.own, self.own]}
        self.assertIn("already", str(self.problem(self.editor.send("post", self.path, twice), 422)))
        self.problem(self.editor.send("post", self.path, {"name": "x", "items": []}), 422)
        self.assertEqual(TestSet.objects.count(), 0)

    def test_a_name_is_taken_once_and_archived_sets_come_back(self) -> None:
        one = self.make()
        self.problem(self.editor.send("post", self.path, {"name": "opening NIGHT", "items": [self.own]}), 409)
        self.assertEqual(self.editor.send("put", f"{self.path}/{one['id']}/archive").status_code, 204)
        self.assertTrue(self.editor.json(self.path)[0]["archived"])
        self.assertEqual(self.editor.send("delete", f"{self.path}/{one['id']}/archive").status_code, 204)
        self.assertFalse(self.editor.json(self.path)[0]["archived"])
        self.problem(Browser("tester").send("post", self.path, {"name": "y", "items": [self.own]}), 403)


class MeasuredAgainst(SetsTest):
    def test_one_act_makes_a_review_that_owes_the_passes_of_the_set(self) -> None:
        low = {**self.own, "metric": "low_1pct"}
        one = self.make(self.own, low, {"workload": self.scene.suite.pk, "metric": "one_thread"})
        configuration = self.scene.columns[1].configuration
        body = {"question": "What does the newcomer do?", "configurations": [configuration.pk]}
        answer = self.editor.send("post", f"{self.path}/{one['id']}/review", body)
        self.assertEqual(answer.status_code, 201, answer.content)
        made = Review.objects.get(pk=answer.json()["review"])
        # Two metrics of one workload with the same settings are one test.
        shown = [test.shown for test in made.tests.order_by("position")]
        self.assertEqual(shown, [["average_fps", "low_1pct"], ["one_thread"]])
        self.assertEqual((made.columns.get().configuration, made.single), (configuration, True))
        owed = Entry.objects.filter(column__review=made)
        self.assertEqual(owed.count(), 2 * made.passes_per_test)

    def test_a_configuration_that_is_not_there_is_named_and_nothing_is_made(self) -> None:
        one = self.make()
        before = Review.objects.count()
        body = {"question": "?", "configurations": [10**6]}
        self.problem(self.editor.send("post", f"{self.path}/{one['id']}/review", body), 422)
        self.problem(self.editor.send("post", f"{self.path}/{one['id']}/review", {"question": "?"}), 400)
        self.assertEqual(Review.objects.count(), before)
