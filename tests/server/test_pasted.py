"""A table pasted over the matrix: where each value lands, put right where it is not known, and stored by runs."""

import json
import uuid
from typing import Any

from nomothet.server.passes.models import Figure, Pass
from nomothet.server.reviews.models import Column, Test
from tests.server.base import Browser, SceneTest

GLANCE = {"method": "glance at an overlay", "half_width": 1.0}


class PastedTest(SceneTest):
    def paste(self, *lines: str, anchor: tuple[int, str, int] | None = None, **more: Any) -> dict[str, Any]:
        test, metric, column = anchor or (0, "average_fps", 0)
        place = {"test": self.scene.tests[test].pk, "metric": metric, "column": self.scene.columns[column].pk}
        body = {"text": "\n".join(lines), "at": place, "ways": [{"metric": "", **GLANCE}], **more}
        answer = Browser("tester").send("post", f"{self.review_path}/pasted", body)
        self.assertEqual(answer.status_code, 200, answer.content)
        found: dict[str, Any] = json.loads(answer.content)
        return found

    def landed(self, pasted: dict[str, Any]) -> list[tuple[object, ...]]:
        """Test, column, metric and pass of every value that has a place."""
        tests = {test.pk: at for at, test in enumerate(self.scene.tests)}
        columns = {column.pk: at for at, column in enumerate(self.scene.columns)}
        return [
            (
                value["text"],
                tests[value["looked"]["test"]],
                columns[value["looked"]["column"]],
                value["looked"]["metric"],
                value["looked"]["landings"][0]["number"],
            )
            for value in pasted["values"]
            if value["looked"]
        ]

    def store(self, pasted: dict[str, Any]) -> None:
        fields = ("test", "column", "metric", "text", "method", "half_width")
        cells = [
            {**{field: value["looked"][field] for field in fields}, "run": value["run"]}
            for value in pasted["values"]
            if value["looked"]
        ]
        answer = Browser("tester").send("put", f"{self.review_path}/typed/{uuid.uuid4()}", {"cells": cells})
        self.assertEqual(answer.status_code, 201, answer.content)


class Placing(PastedTest):
    def test_names_of_tests_and_configurations_place_every_value(self) -> None:
        found = self.landed(self.paste("\t20 W\t35 W", "Reef Walk 2\t50\t60", "Loom\t900\t1000"))
        self.assertEqual(
            found,
            [
                ("50", 0, 1, "average_fps", 1),
                ("60", 0, 0, "average_fps", 1),
                ("900", 1, 1, "one_thread", 1),
                ("1000", 1, 0, "one_thread", 1),
            ],
        )

    def test_plain_numbers_go_right_and_down_from_the_cell(self) -> None:
        found = self.landed(self.paste("60\t50", "48\t40", "1000\t900"))
        self.assertEqual(
            [one[1:4] for one in found],
            [
                (0, 0, "average_fps"),
                (0, 1, "average_fps"),
                (0, 0, "low_1pct"),
                (0, 1, "low_1pct"),
                (1, 0, "one_thread"),
                (1, 1, "one_thread"),
            ],
        )

    def test_heads_of_metrics_alone_stay_in_the_column_of_the_cell(self) -> None:
        found = self.landed(self.paste("average\t1 % low", "60\t48", anchor=(0, "average_fps", 1)))
        self.assertEqual([one[1:4] for one in found], [(0, 1, "average_fps"), (0, 1, "low_1pct")])

    def test_what_is_outside_the_matrix_says_so(self) -> None:
        pasted = self.paste("60\t50\t40")
        self.assertEqual([bool(value["looked"]) for value in pasted["values"]], [True, True, False])
        self.assertIn("outside the matrix", pasted["values"][2]["problem"])

    def test_a_metric_that_the_test_does_not_show_is_named(self) -> None:
        pasted = self.paste("\tone thread", "Reef Walk 2\t900")
        self.assertIn("does not show one_thread", pasted["values"][0]["problem"])

    def test_a_label_that_is_not_known_waits_and_is_put_right(self) -> None:
        lines = ("\t20 W", "the reef\t50")
        waiting = self.paste(*lines)
        self.assertTrue(waiting["blocks"][0]["rows"][0]["unknown"])
        self.assertEqual(self.landed(waiting), [])
        right = {"axis": "row", "label": "the reef", "block": 0, "at": 0, "says": {"test": self.scene.tests[0].pk}}
        self.assertEqual(self.landed(self.paste(*lines, corrections=[right])), [("50", 0, 1, "average_fps", 1)])

    def test_the_name_of_a_machine_is_enough_where_it_stands_once(self) -> None:
        Column.objects.filter(pk=self.scene.columns[1].pk).delete()
        found = self.landed(self.paste("\tWren", "Reef Walk 2\t60"))
        self.assertEqual(found, [("60", 0, 0, "average_fps", 1)])

    def test_a_head_in_another_unit_is_converted(self) -> None:
        self.scene.suite.metrics = [
            {"key": "time_s", "label": "time", "unit": "s", "direction": "lower", "scale": "ratio"}
        ]
        self.scene.suite.save()
        Test.objects.filter(pk=self.scene.tests[1].pk).update(shown=["time_s"])
        pasted = self.paste("\ttime (min)", "Loom\t2")
        self.assertEqual(pasted["values"][0]["looked"]["landings"][0]["value"], 120)

    def test_nothing_is_stored_by_looking(self) -> None:
        self.paste("60\t50")
        self.assertEqual(Pass.objects.count(), 0)

    def test_an_empty_paste_is_refused_with_a_remedy(self) -> None:
        answer = Browser("tester").send("post", f"{self.review_path}/pasted", {"text": " \n\t"})
        self.assertIn("copy the cells", self.problem(answer, 422)["detail"])


class Runs(PastedTest):
    def test_figures_of_one_run_are_of_one_pass_also_where_some_are_missing(self) -> None:
        self.store(self.paste("run\taverage\t1 % low", "1\t60\t48", "2\t61\t-", "3\t62\t50"))
        told = {
            owner.number: dict(owner.figures.values_list("metric", "value"))
            for owner in Pass.objects.filter(column=self.scene.columns[0])
        }
        self.assertEqual(
            told,
            {
                1: {"average_fps": 60, "low_1pct_told": 48},
                2: {"average_fps": 61},
                3: {"average_fps": 62, "low_1pct_told": 50},
            },
        )

    def test_lows_pasted_later_go_onto_the_passes_of_their_runs(self) -> None:
        self.store(self.paste("run\taverage", "1\t60", "2\t61", "3\t62"))
        self.store(self.paste("run\t1 % low", "1\t48", "3\t50"))
        self.assertEqual(Pass.objects.count(), 3)
        lows = Figure.objects.filter(metric="low_1pct_told").values_list("owner__number", "value")
        self.assertEqual(dict(lows), {1: 48, 3: 50})

    def test_runs_with_all_their_figures_are_new_passes_beside_those_that_are_there(self) -> None:
        table = ("run\taverage\t1 % low", "1\t60\t48", "2\t61\t49")
        self.store(self.paste(*table))
        self.store(self.paste(*table))
        self.assertEqual(Pass.objects.count(), 4)
        self.assertEqual({owner.figures.count() for owner in Pass.objects.all()}, {2})

    def test_an_average_and_its_low_are_of_one_new_pass_beside_captured_ones(self) -> None:
        self.fill(0, [60, 61])
        found = self.landed(self.paste("\taverage\t1 % low", "Reef Walk 2\t60\t48"))
        self.assertEqual([one[4] for one in found], [3, 3])

    def test_several_readings_in_one_cell_are_runs_too(self) -> None:
        self.fill(0, [60])
        self.store(self.paste("average\t1 % low", "60 61\t48 49"))
        typed = Pass.objects.filter(origin="typed").order_by("number")
        self.assertEqual([owner.number for owner in typed], [2, 3])
        self.assertEqual({owner.figures.count() for owner in typed}, {2})

    def test_runs_over_averages_and_lows_are_plain_runs_with_both(self) -> None:
        heads = ("\trun 1\t\trun 2\t", "\tavg\t1% low\tavg\t1% low")
        found = self.landed(self.paste(*heads, "Reef Walk 2\t60\t48\t61\t49"))
        self.assertEqual(
            [(one[0], one[3], one[4]) for one in found],
            [("60", "average_fps", 1), ("48", "low_1pct", 1), ("61", "average_fps", 2), ("49", "low_1pct", 2)],
        )

    def test_one_run_has_one_value_of_a_metric(self) -> None:
        pasted = self.paste("run\taverage", "1\t60", "1\t61")
        self.assertIn("two values of average", pasted["values"][1]["looked"]["error"])

    def test_rows_of_one_name_are_runs(self) -> None:
        found = self.landed(self.paste("\t35 W", "Reef Walk 2\t60", "Reef Walk 2\t61"))
        self.assertEqual([one[4] for one in found], [1, 2])

    def test_runs_settle_what_is_owed(self) -> None:
        self.scene.owe(count=2)
        self.store(self.paste("\trun 1\trun 2", "Reef Walk 2\t60\t61"))
        docket = Browser("tester").json(f"/api/systems/{self.scene.system.pk}/docket")
        self.assertEqual(docket["visits"], [])


class Ways(PastedTest):
    def test_a_block_may_mix_ways_of_reading_by_metric(self) -> None:
        own = {"metric": "low_1pct", "method": "read from output", "half_width": 0}
        pasted = self.paste("average\t1 % low", "60\t48", ways=[{"metric": "", **GLANCE}, own])
        told = [(value["looked"]["method"], value["looked"]["half_width"]) for value in pasted["values"]]
        self.assertEqual(told, [("glance at an overlay", 1.0), ("read from output", 0)])

    def test_without_a_way_each_row_asks(self) -> None:
        pasted = self.paste("60\t50", ways=[])
        self.assertEqual([value["looked"]["asks_method"] for value in pasted["values"]], [True, True])

    def test_what_was_told_once_is_remembered_for_the_row(self) -> None:
        self.store(self.paste("60"))
        self.assertEqual(self.row()["reading"], GLANCE)
        self.assertFalse(self.paste("61", ways=[])["values"][0]["looked"]["asks_method"])
