"""Figures typed into the matrix: looked at, stored once, kept apart where they are not exact, and put right."""

import csv
import io
import json
import uuid
from typing import Any

from nomothet.server.docket.models import Entry
from nomothet.server.passes.models import Figure, Gap, Pass
from nomothet.server.reviews.models import Test
from tests.server.base import Browser, SceneTest

METHOD = {"method": "glance at an overlay", "half_width": 0.5}


class TypedTest(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.tester = Browser("tester")

    def cell(
        self, text: str, metric: str = "average_fps", test: int = 0, column: int = 0, **more: Any
    ) -> dict[str, Any]:
        ids = {"test": self.scene.tests[test].pk, "column": self.scene.columns[column].pk}
        return {**ids, "metric": metric, "text": text, **more}

    def look(self, *cells: dict[str, Any]) -> list[dict[str, Any]]:
        answer = self.tester.send("post", f"{self.review_path}/typed", {"cells": cells})
        self.assertEqual(answer.status_code, 200, answer.content)
        return list(json.loads(answer.content))

    def store(self, *cells: dict[str, Any], batch: uuid.UUID | None = None, who: Browser | None = None) -> Any:
        path = f"{self.review_path}/typed/{batch or uuid.uuid4()}"
        return (who or self.tester).send("put", path, {"cells": cells})

    def remember(self, metric: str = "average_fps", test: int = 0) -> None:
        path = f"{self.review_path}/tests/{self.scene.tests[test].pk}/readings/{metric}"
        self.assertEqual(self.tester.send("put", path, METHOD).status_code, 204)


class Storing(TypedTest):
    def test_looking_stores_nothing_and_says_where_each_value_lands(self) -> None:
        (one,) = self.look(self.cell("94.1 52–55 c -"))
        self.assertTrue(one["asks_method"])
        landed = [
            (x["value"], x["half_width"], x["outcome"], x["missing"], x["number"], x["new"]) for x in one["landings"]
        ]
        self.assertEqual(
            landed,
            [
                (94.1, 0.0, "completed", "", 1, True),
                (53.5, 1.5, "completed", "", 2, True),
                (None, None, "crashed", "", 3, True),
                (None, None, "completed", "not run", 0, False),
            ],
        )
        self.assertEqual((Pass.objects.count(), Gap.objects.count()), (0, 0))

    def test_a_row_asks_once_for_its_method_and_remembers_it(self) -> None:
        refused = self.problem(self.store(self.cell("94")), 422)
        self.assertEqual(refused["field"], "method")
        self.assertIn("Nothing was stored", refused["detail"])
        self.remember()
        self.assertEqual(self.store(self.cell("94")).status_code, 201)
        figure = Figure.objects.get()
        self.assertEqual((figure.method, figure.half_width, figure.obtained), (METHOD["method"], 0.5, "typed"))
        self.assertEqual(self.row()["reading"], METHOD)

    def test_an_export_tells_how_a_reading_was_come_by_and_how_exact_it_is(self) -> None:
        self.remember()
        self.store(self.cell("94 ~45"))
        text = b"".join(Browser("reader").get(f"{self.review_path}/figures.csv")).decode()
        told = [(row["method"], row["half_width"], row["bound"]) for row in csv.DictReader(io.StringIO(text))]
        self.assertEqual(told, [(METHOD["method"], "0.5", ""), (METHOD["method"], "", "about")])

    def test_typed_passes_are_compared_like_any_other(self) -> None:
        self.remember()
        self.store(self.cell("60 61 59"), self.cell("54 55 53", column=1))
        row = self.row()
        cell = row["cells"][str(self.scene.columns[1].pk)]
        self.assertEqual((cell["n"], cell["methods"]), (3, [METHOD["method"]]))
        self.assertAlmostEqual(cell["half_width"], 0.5)
        self.assertAlmostEqual(cell["comparison"]["change"], -10, delta=0.2)

    def test_sending_the_same_batch_again_stores_it_once(self) -> None:
        self.remember()
        batch = uuid.uuid4()
        for _ in range(3):
            self.assertEqual(self.store(self.cell("94 95 c"), batch=batch).status_code, 201)
        self.assertEqual((Pass.objects.count(), Figure.objects.count()), (3, 2))

    def test_the_low_typed_next_joins_the_passes_of_the_average(self) -> None:
        self.remember()
        self.remember("low_1pct")
        self.store(self.cell("94 95"))
        self.store(self.cell("70 71", "low_1pct"))
        self.assertEqual(Pass.objects.count(), 2)
        owner = Pass.objects.get(number=1)
        self.assertEqual(
            set(owner.figures.values_list("metric", "value")), {("average_fps", 94.0), ("low_1pct_told", 70.0)}
        )

    def test_several_rows_of_one_block_join_too(self) -> None:
        more = {"method": "stopwatch", "half_width": 0.2}
        answer = self.store(self.cell("94 95", **more), self.cell("70", "low_1pct", **more))
        self.assertEqual(answer.status_code, 201, answer.content)
        self.assertEqual(Pass.objects.count(), 2)
        self.assertEqual(Figure.objects.filter(owner__number=1).count(), 2)

    def test_a_block_with_one_bad_cell_stores_nothing_and_names_it(self) -> None:
        self.remember()
        problem = self.problem(self.store(self.cell("94"), self.cell("ninety", column=1)), 422)
        self.assertEqual(problem["column"], self.scene.columns[1].pk)
        self.assertIn("'ninety' cannot be read", problem["detail"])
        self.assertEqual(Pass.objects.count(), 0)

    def test_zero_is_no_figure_of_a_ratio(self) -> None:
        self.remember()
        self.assertIn("over 0", self.look(self.cell("0"))[0]["error"])
        self.problem(self.store(self.cell("94 -3")), 422)
        self.assertEqual(Pass.objects.count(), 0)

    def test_cells_that_are_not_in_the_review_are_named(self) -> None:
        stranger = self.scene.new_review("other", "Another question?")
        self.assertIn(
            "not in the review",
            self.look({**self.cell("1"), "column": stranger.columns.get(position=0).pk})[0]["error"],
        )
        self.assertIn("does not show", self.look(self.cell("1", "unheard_of"))[0]["error"])

    def test_a_reader_may_look_and_not_store(self) -> None:
        self.problem(self.store(self.cell("94"), who=Browser("reader")), 403)


class Apart(TypedTest):
    def test_about_over_and_remembered_are_shown_apart_and_enter_nothing(self) -> None:
        self.remember()
        self.store(self.cell("60 61"))
        self.store(self.cell("~45 >200"), self.cell("99", method="remembered"))
        row = self.row()
        key = str(self.scene.columns[0].pk)
        self.assertEqual(row["cells"][key]["n"], 2)
        apart = {(one["value"], one["bound"], one["method"]) for one in row["apart"][key]}
        self.assertEqual(
            apart, {(45.0, "about", METHOD["method"]), (200.0, "over", METHOD["method"]), (99.0, "", "remembered")}
        )

    def test_why_there_is_no_value_is_kept_until_there_is_one(self) -> None:
        self.store(self.cell("x", method="meter"))
        key = str(self.scene.columns[0].pk)
        self.assertEqual(self.row()["gaps"], {key: "not recorded"})
        self.remember()
        self.store(self.cell("94"))
        self.assertEqual(self.row()["gaps"], {})

    def test_failures_by_letter_count_and_have_no_figures(self) -> None:
        self.remember()
        self.store(self.cell("n v"))
        self.assertEqual(list(Pass.objects.values_list("outcome", flat=True)), ["did_not_start", "visual_faults"])
        self.assertEqual(Browser("reader").json(f"{self.review_path}/matrix")["totals"]["failed"], 2)


class Plausible(TypedTest):
    def test_what_looks_wrong_is_told_before_it_is_stored(self) -> None:
        self.fill(0, [60.0, 60.2, 59.9, 60.1])
        warnings = " ".join(
            w for landing in self.look(self.cell("6059 95 60"))[0]["landings"] for w in landing["warnings"]
        )
        self.assertIn("over 2,000 fps", warnings)
        self.assertIn("run together", warnings)
        self.assertIn("95 fps is", warnings)
        self.assertEqual(self.look(self.cell("60"))[0]["landings"][0]["warnings"], [])

    def test_a_low_above_the_average_of_its_own_pass(self) -> None:
        self.remember()
        self.store(self.cell("60"))
        (landing,) = self.look(self.cell("75", "low_1pct"))[0]["landings"]
        self.assertFalse(landing["new"])
        self.assertIn("above the average", landing["warnings"][0])


class PuttingRight(TypedTest):
    def setUp(self) -> None:
        super().setUp()
        self.remember()
        self.batch = uuid.uuid4()
        self.store(self.cell("94 95"), batch=self.batch)
        self.owner = Pass.objects.get(number=1)
        self.path = f"/api/passes/{self.owner.pk}/figures/average_fps"

    def test_a_correction_keeps_what_was_and_why(self) -> None:
        answer = self.tester.send("put", self.path, {"text": "49", "reason": "digits swapped"})
        self.assertEqual(answer.status_code, 204, answer.content)
        self.assertEqual(self.owner.figures.get().value, 49.0)
        remark = self.owner.remarks.get()
        self.assertEqual((remark.act, remark.reason), ("corrected", "94 fps is now 49 fps: digits swapped"))

    def test_a_correction_wants_a_reason_and_one_figure(self) -> None:
        self.problem(self.tester.send("put", self.path, {"text": "49", "reason": " "}), 400)
        self.problem(self.tester.send("put", self.path, {"text": "49 50", "reason": "x"}), 422)
        self.problem(Browser("reader").send("put", self.path, {"text": "49", "reason": "x"}), 403)

    def test_captured_figures_cannot_be_typed_over(self) -> None:
        (captured,) = self.fill(1, [60.0])
        path = f"/api/passes/{captured}/figures/average_fps"
        self.problem(self.tester.send("put", path, {"text": "61", "reason": "nicer"}), 422)

    def test_undo_sets_the_passes_aside_and_takes_joined_figures_off(self) -> None:
        self.remember("low_1pct")
        low = uuid.uuid4()
        self.store(self.cell("70", "low_1pct"), batch=low)
        self.assertEqual(self.tester.send("delete", f"{self.review_path}/typed/{low}").status_code, 204)
        self.assertEqual(self.owner.figures.count(), 1)
        self.tester.send("delete", f"{self.review_path}/typed/{self.batch}")
        self.assertEqual(Pass.objects.filter(set_aside=True).count(), 2)
        self.assertEqual(Pass.objects.count(), 2)


class Owed(SceneTest):
    """Owed passes are settled by what is typed."""

    READ = {"method": "glance at an overlay", "half_width": 1.0}

    def store(self, text: str, metric: str = "average_fps", batch: uuid.UUID | None = None, **more: Any) -> uuid.UUID:
        batch = batch or uuid.uuid4()
        cell = {"test": self.scene.tests[0].pk, "column": self.scene.columns[0].pk, "metric": metric, "text": text}
        answer = Browser("tester").send(
            "put", f"{self.review_path}/typed/{batch}", {"cells": [{**cell, **self.READ, **more}]}
        )
        self.assertEqual(answer.status_code, 201, answer.content)
        return batch

    def owed(self) -> list[int]:
        return list(Entry.objects.filter(state="owed").order_by("number").values_list("number", flat=True))

    def test_typed_passes_take_the_numbers_that_are_owed_and_settle_them(self) -> None:
        self.scene.owe(count=3)
        self.store("60 c")
        self.assertEqual(self.owed(), [3])
        self.assertEqual(list(Pass.objects.order_by("number").values_list("number", flat=True)), [1, 2])

    def test_what_is_typed_beyond_them_gets_new_numbers(self) -> None:
        self.scene.owe(count=1)
        self.store("60 61")
        self.assertEqual(self.owed(), [])
        self.assertEqual(list(Pass.objects.order_by("number").values_list("number", flat=True)), [1, 2])

    def test_taking_the_typing_back_owes_them_as_before(self) -> None:
        self.scene.owe(count=2)
        batch = self.store("60 61")
        for _ in range(2):
            Browser("tester").send("delete", f"{self.review_path}/typed/{batch}")
            self.assertEqual(self.owed(), [3, 4])

    def test_sending_it_again_settles_no_more(self) -> None:
        self.scene.owe(count=3)
        batch = self.store("60")
        self.store("60", batch=batch)
        self.assertEqual(self.owed(), [2, 3])

    def test_a_pass_of_a_recorder_pair_stays_owed(self) -> None:
        self.scene.owe(count=2)
        Entry.objects.filter(number=1).update(recorder="off")
        self.store("60")
        self.assertEqual(self.owed(), [1])

    def test_a_figure_more_joins_a_pass_that_a_bench_brought(self) -> None:
        self.fill(0, [60])
        Test.objects.filter(pk=self.scene.tests[0].pk).update(shown=["average_fps", "low_1pct", "p95_ms"])
        Figure.objects.filter(metric="p95_ms").delete()
        self.store("17", "p95_ms")
        self.assertEqual(Pass.objects.count(), 1)

    def test_a_low_goes_onto_the_passes_just_typed_before_captured_ones(self) -> None:
        self.fill(0, [60])
        self.store("61")
        self.store("50", "low_1pct")
        self.assertEqual(Figure.objects.get(metric="low_1pct_told").owner.number, 2)

    def test_a_figure_goes_onto_the_pass_that_is_named(self) -> None:
        self.store("60 61 62")
        self.store("50", "low_1pct", onto=2)
        self.assertEqual(Figure.objects.get(metric="low_1pct_told").owner.number, 2)

    def test_a_pass_that_has_such_a_figure_takes_no_second(self) -> None:
        self.store("60 61")
        cell = {"test": self.scene.tests[0].pk, "column": self.scene.columns[0].pk, "metric": "average_fps"}
        body = {"cells": [{**cell, "text": "59", "onto": 1, **self.READ}]}
        answer = Browser("tester").send("put", f"{self.review_path}/typed/{uuid.uuid4()}", body)
        self.assertIn("Pass 1 takes no average", self.problem(answer, 422)["detail"])

    def test_a_failure_tells_why_what_was_done_and_what_ran_instead(self) -> None:
        self.store("c (driver reset; started again; low preset)")
        owner = Pass.objects.get()
        self.assertEqual((owner.note, owner.action, owner.fallback), ("driver reset", "started again", "low preset"))

    def test_a_figure_typed_among_the_first_runs_is_one(self) -> None:
        self.store("40", "first:average_fps")
        self.store("60 61")
        self.assertEqual(list(Pass.objects.order_by("number").values_list("run_group", flat=True)), ["first", "", ""])
        self.store("30", "first:low_1pct")
        self.assertEqual(Figure.objects.get(metric="low_1pct_told").owner.number, 1)


class Everywhere(TypedTest):
    def test_a_way_of_reading_can_be_told_for_all_rows_of_a_metric(self) -> None:
        other = Test.objects.create(
            review=self.scene.review, position=2, workload=self.scene.scene, detail="open reef", shown=["average_fps"]
        )
        third = Test.objects.create(
            review=self.scene.review,
            position=3,
            workload=self.scene.scene,
            detail="by night",
            shown=["average_fps"],
            readings={"average_fps": {"method": "stopwatch", "half_width": 2.0}},
        )
        path = f"{self.review_path}/tests/{self.scene.tests[0].pk}/readings/average_fps"
        self.assertEqual(self.tester.send("put", path, {**METHOD, "everywhere": True}).status_code, 204)
        other.refresh_from_db()
        third.refresh_from_db()
        self.assertEqual(other.readings, {"average_fps": METHOD})
        self.assertEqual(third.readings["average_fps"]["method"], "stopwatch")
