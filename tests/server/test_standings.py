"""Results of several reviews beside one another: kept, made anew when something changes, and shown with why."""

import csv
from datetime import date
from typing import Any
from unittest import mock

from django.utils import timezone

from nomothet.server.docket.commands import ask_for_passes
from nomothet.server.passes.models import Pass
from nomothet.server.people.models import User
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.shelf.models import Part, Price
from nomothet.server.standings import keeping, tasks
from nomothet.server.standings import standing as module
from nomothet.server.standings.held import read
from nomothet.server.standings.keeping import keep, stale_tests
from nomothet.server.standings.models import KeptTest, Result
from nomothet.server.standings.tasks import prepare_results
from nomothet.server.systems.models import Configuration, Fitting, System
from nomothet.server.workloads.models import Workload
from tests.server.base import Browser, SceneTest, steady


class StandingsTest(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.scene_test = self.scene.tests[0]
        self.key = self.scene_test.workload.key
        self.reader = Browser("reader")

    def standing(self, query: str = "", status: int = 200) -> Any:
        answer = self.reader.get(f"/api/standings/{self.key}{query}")
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def rows(self, query: str = "") -> dict[str, Any]:
        return {row["label"]: row for row in self.standing(query)["rows"]}

    def another_review(self, rates: list[float], *, environment: dict[str, Any] | None = None, **changes: Any) -> Test:
        """The same test on the first configuration in a review of its own."""
        review = Review.objects.create(
            key=f"again-{Review.objects.count()}", question="Measured again?", editor=self.scene.review.editor
        )
        first = self.scene.columns[0]
        column = Column.objects.create(
            review=review, configuration=first.configuration, position=0, label=f"again {review.pk}", is_baseline=True
        )
        fields = {"workload": self.scene_test.workload, "settings": self.scene_test.settings, **changes}
        test = Test.objects.create(review=review, position=0, detail="", shown=self.scene_test.shown, **fields)
        if rates:
            ask_for_passes(User.objects.get(username="tester"), review, [test.pk], [column.pk], len(rates))
        for at, rate in enumerate(rates):
            self.bench.deliver(steady(rate, seed=50 + at), environment=environment or {})
        return test


class Kept(StandingsTest):
    def test_a_cell_is_a_result_as_its_matrix_says_it(self) -> None:
        self.fill(0, [60.0, 61.0])
        self.fill(1, [50.0, 51.0])
        self.assertEqual(self.standing()["waiting"], 0)
        rows, cells = self.rows(), self.row()["cells"]
        for column in self.scene.columns:
            self.assertAlmostEqual(rows[column.label]["centre"], cells[str(column.pk)]["centre"])
            self.assertEqual(rows[column.label]["n"], 2)

    def test_results_that_are_made_anew_while_they_are_read_are_read_again(self) -> None:
        self.fill(0, [60.0, 61.0])
        self.standing()
        now = Result.objects.filter(metric="average_fps")
        gone = [(max(one.pk for one in now) + 1000, timezone.now())]
        asked = mock.Mock(spec=["values_list"])
        asked.values_list.side_effect = [gone, list(now.values_list("pk", "last_at"))]
        self.assertEqual([one.pk for one in read(asked)], [one.pk for one in now])

    def test_what_a_result_is_of_is_told_as_it_is_now(self) -> None:
        self.fill(0, [60.0, 61.0])
        self.fill(1, [50.0, 51.0])
        first = self.scene.columns[0]
        own = f"{self.scene_test.pk}-{first.pk}"
        self.assertIn(first.label, self.rows(f"?against={own}"))
        Column.objects.filter(pk=first.pk).update(label="as it came")
        Review.objects.filter(pk=first.review_id).update(question="What was it again?", margin=0.1)
        System.objects.filter(pk=first.configuration.system_id).update(name="Renamed")
        told = self.standing(f"?against={own}&words=renamed%20again")
        row = next(one for one in told["rows"] if one["id"] == own)
        self.assertEqual((row["label"], row["system"]), ("as it came", "Renamed"))
        self.assertEqual((row["question"], told["margin_pct"]), ("What was it again?", 10.0))
        self.assertEqual({one["verdict"] for one in told["rows"]}, {"", "behind"})

    def test_a_pass_that_comes_or_is_set_aside_changes_it_at_once(self) -> None:
        ids = self.fill(0, [60.0, 61.0])
        before = self.standing()["rows"][0]
        self.fill(0, [90.0], seed=9)
        self.assertEqual(self.standing()["rows"][0]["n"], 3)
        Browser("tester").send("put", f"/api/passes/{ids[0]}/set-aside", {"reason": "a scan ran"})
        after = self.standing()["rows"][0]
        self.assertEqual(after["n"], 2)
        self.assertGreater(after["centre"], before["centre"])

    def test_a_metric_that_is_not_trusted_stands_apart_at_once_and_until_it_is_again(self) -> None:
        self.fill(0, [60.0, 61.0])
        self.assertNotIn("it counts the menu", str(self.standing("?metric=average_fps")["rows"]))
        path = f"/api/workloads/{self.scene.scene.pk}/untrusted/average_fps"
        Browser("editor").send("put", path, {"reason": "it counts the menu"})
        self.assertIn("it counts the menu", str(self.standing("?metric=average_fps")["rows"]))
        Browser("editor").send("delete", path)
        self.assertNotIn("it counts the menu", str(self.standing("?metric=average_fps")["rows"]))

    def test_what_a_killed_worker_leaves_is_found_again(self) -> None:
        self.fill(0, [60.0])
        self.fill(1, [50.0])
        Result.objects.all().delete()
        with mock.patch("nomothet.server.standings.tasks.keep", side_effect=KeyboardInterrupt):
            tasks.see_to_results()
        self.assertEqual(Result.objects.count(), 0)
        with mock.patch.object(tasks, "_MADE_AT_ONCE", 0):
            told = self.reader.get(f"/api/standings/{self.key}")
            self.assertIn(told.status_code, (200, 404))
        prepare_results.func()
        self.assertEqual(stale_tests().count(), 0)
        self.assertEqual(len(self.standing()["rows"]), 2)

    def test_one_that_cannot_be_made_keeps_none_of_the_others_from_being_made(self) -> None:
        self.fill(0, [60.0])
        other = self.another_review([70.0])
        Result.objects.all().delete()
        KeptTest.objects.all().delete()
        made = keeping.keep

        def failing(tests: list[int]) -> None:
            if self.scene_test.pk in tests:
                raise ZeroDivisionError
            made(tests)

        with mock.patch.object(tasks, "keep", side_effect=failing):
            prepare_results.func()
        self.assertEqual(set(Result.objects.values_list("test", flat=True)), {other.pk})
        prepare_results.func()
        self.assertEqual(stale_tests().count(), 0)

    def test_many_that_are_stale_are_left_to_the_background_and_told(self) -> None:
        self.fill(0, [60.0])
        keep([self.scene_test.pk])
        Test.objects.filter(pk=self.scene_test.pk).update(stamp=1_000)
        with mock.patch.object(tasks, "_MADE_AT_ONCE", 0), mock.patch.object(tasks, "see_to_results") as asked:
            self.assertEqual(self.standing()["waiting"], 1)
        asked.assert_called_once()

    def test_the_list_counts_workloads_settings_and_results(self) -> None:
        self.fill(0, [60.0])
        self.fill(1, [50.0])
        prepare_results.func()
        (one,) = self.reader.json("/api/standings")["workloads"]
        self.assertEqual((one["key"], one["settings"], one["results"]), (self.key, 1, 2))

    def test_a_workload_without_results_is_told(self) -> None:
        self.assertIn("No pass", self.problem(self.reader.get(f"/api/standings/{self.key}"), 404)["detail"])


class Beside(StandingsTest):
    def test_results_of_two_reviews_are_compared(self) -> None:
        self.fill(0, [60.0, 61.0, 60.5])
        test = self.another_review([70.0, 71.0, 70.5])
        reference = f"{self.scene_test.pk}-{self.scene.columns[0].pk}"
        shown = self.standing(f"?against={reference}")
        again = next(row for row in shown["rows"] if row["test"] == test.pk)
        self.assertEqual((shown["reviews"], again["place"], again["verdict"]), (2, "beside", "ahead"))
        self.assertAlmostEqual(again["better"], 100 * (70.5 / 60.5 - 1), delta=0.5)
        self.assertIn("against", again["sentence"])

    def test_another_version_may_not_stand_beside_unless_declared(self) -> None:
        self.fill(0, [60.0, 61.0])
        old = self.scene_test.workload
        new = Workload.objects.create(
            key=old.key,
            version="9",
            name=old.name,
            kind=old.kind,
            settings=old.settings,
            metrics=old.metrics,
            runner=old.runner,
        )
        test = self.another_review([70.0, 71.0], workload=new)
        reference = f"?against={self.scene_test.pk}-{self.scene.columns[0].pk}"
        row = next(row for row in self.standing(reference)["rows"] if row["test"] == test.pk)
        self.assertEqual((row["place"], row["better"]), ("not beside", None))
        self.assertIn(f"workload version 9, not {old.version}", row["reasons"][0]["words"])
        Workload.objects.filter(pk=new.pk).update(comparable=[{"version": old.version, "why": "menus only"}], edit=2)
        row = next(row for row in self.standing(reference)["rows"] if row["test"] == test.pk)
        self.assertEqual(row["place"], "with a warning")
        self.assertIn("menus only", row["reasons"][0]["words"])

    def test_other_settings_stand_on_a_page_of_their_own(self) -> None:
        self.fill(0, [60.0])
        self.another_review([70.0], settings={**self.scene_test.settings, "detail": "low"})
        shown = self.standing()
        self.assertEqual((len(shown["all_settings"]), len(shown["rows"])), (2, 1))

    def test_a_driver_that_changed_is_named(self) -> None:
        self.scene.owe(count=2)
        for at in range(2):
            self.bench.deliver(steady(60, seed=at), environment={"graphics driver": "31.4"})
        test = self.another_review([55.0, 55.5], environment={"graphics driver": "31.6"})
        row = next(
            row
            for row in self.standing(f"?against={self.scene_test.pk}-{self.scene.columns[0].pk}")["rows"]
            if row["test"] == test.pk
        )
        self.assertEqual(row["place"], "with a warning")
        self.assertIn("graphics driver 31.6, not 31.4", [one["words"] for one in row["reasons"]])

    def test_each_change_over_time_has_its_cost(self) -> None:
        self.scene.owe(count=3)
        for at in range(3):
            self.bench.deliver(steady(60, seed=at), environment={"graphics driver": "31.4"})
        self.another_review([54.0, 54.1, 54.2], environment={"graphics driver": "31.6"})
        Pass.objects.filter(test__review__key__startswith="again").update(started_at="2026-06-01T10:00:00Z")
        found = self.reader.json(f"/api/standings/{self.key}/over-time")
        (change,) = found["changes"]
        self.assertEqual(change["what"], ["graphics driver 31.6, not 31.4"])
        self.assertEqual(change["verdict"], "behind")
        self.assertEqual([len(line["points"]) for line in found["lines"]], [2])

    def test_configurations_that_differ_in_an_image_alone_are_one_line(self) -> None:
        first = self.scene.columns[0].configuration
        updated = Configuration.objects.create(
            system=first.system, name="on the new image", settings={**first.settings, "image": "42"}
        )
        self.scene.owe(count=2)
        for at in range(2):
            self.bench.deliver(steady(60, seed=at), environment={"image": "41", "power_limit_w": 35})
        test = self.another_review([54.0, 54.1], environment={"image": "42", "power_limit_w": 35})
        Column.objects.filter(review=test.review).update(configuration=updated)
        Pass.objects.filter(test=test).update(started_at="2026-06-01T10:00:00Z")
        self.fill(1, [50.0])
        found = self.reader.json(f"/api/standings/{self.key}/over-time")
        self.assertEqual(sorted(len(line["points"]) for line in found["lines"]), [1, 2])
        self.assertEqual([change["what"] for change in found["changes"]], [["exhibit image 42, not 41"]])


class Chosen(StandingsTest):
    def setUp(self) -> None:
        super().setUp()
        self.fill(0, [60.0])
        self.fill(1, [50.0])

    def labels(self, query: str) -> list[str]:
        shown = self.standing(query)
        return [row["label"] for row in shown["rows"] if row["place"] != "reference"]

    def test_words_machine_review_and_days_narrow_it(self) -> None:
        first, second = (column.label for column in self.scene.columns)
        base = f"&against={self.scene_test.pk}-{self.scene.columns[0].pk}"
        self.assertEqual(self.labels(f"?words={second.split()[0]}{base}"), [second])
        self.assertEqual(self.labels(f"?words=nothing+of+it{base}"), [])
        self.assertEqual(self.labels(f"?system=Nowhere{base}"), [])
        self.assertEqual(self.labels(f"?since=2026-05-01&until=2026-05-30{base}"), [second])
        self.assertEqual(self.labels(f"?since=2026-05-30{base}"), [])
        self.assertEqual(self.labels(f"?review={self.scene.review.pk}{base}"), [second])
        self.assertNotEqual(first, second)

    def test_what_is_no_day_or_number_is_named(self) -> None:
        for query, field in (("?since=yesterday", "since"), ("?review=x", "review"), ("?offset=-1", "offset")):
            with self.subTest(query):
                told = self.problem(self.reader.get(f"/api/standings/{self.key}{query}"), 422)
                self.assertEqual(told["field"], field)

    def test_prices_of_now_and_of_then(self) -> None:
        part = Part.objects.create(kind="machine", name="The whole of it")
        for column in self.scene.columns:
            Fitting.objects.update_or_create(
                configuration=column.configuration, place="machine", defaults={"part": part}
            )
        Pass.objects.update(started_at="2026-05-04T10:00:00Z")
        for amount, on in ((500, date(2026, 1, 1)), (400, date(2026, 9, 1))):
            Price.objects.create(part=part, amount=amount, currency="EUR", on=on, basis="street")
        now, then = (self.standing(query)["rows"][0] for query in ("?basis=street", "?basis=street&prices=then"))
        self.assertEqual((now["price"], then["price"]), (400.0, 500.0))
        self.assertAlmostEqual(now["for_price"], 100 * now["centre"] / 400)

    def test_a_figure_that_is_beaten_for_its_price_is_told(self) -> None:
        self.fill(0, [60.2, 60.4], seed=20)
        self.fill(1, [50.2, 50.4], seed=20)
        for column, amount in zip(self.scene.columns, (300, 400), strict=True):
            part = Part.objects.create(kind="machine", name=f"Of {column.label}")
            Fitting.objects.update_or_create(
                configuration=column.configuration, place="machine", defaults={"part": part}
            )
            Price.objects.create(part=part, amount=amount, currency="EUR", on=timezone.now().date(), basis="street")
        rows = self.rows("?basis=street")
        first, second = (column.label for column in self.scene.columns)
        self.assertEqual(rows[first]["beaten_by"], [])
        self.assertIn(first, rows[second]["beaten_by"][0])

    def test_what_results_differ_in_is_offered_and_chosen_by(self) -> None:
        first, second = self.scene.columns
        part = Part.objects.create(
            kind="graphics",
            name="Pike 8",
            attributes=[{"key": "memory_gb", "label": "memory", "unit": "GB", "value": 8}],
        )
        Fitting.objects.create(configuration=first.configuration, place="graphics", part=part)
        self.fill(0, [60.0, 60.3])
        self.fill(1, [50.0, 50.3])
        path = f"/api/standings/{self.key}/facts"
        offered = {one["key"]: one for one in self.reader.json(path)}
        self.assertEqual(offered["part.graphics"]["values"], [{"value": "Pike 8", "results": 1}])
        self.assertEqual(offered["part.graphics.memory_gb"]["values"], [{"value": "8 GB", "results": 1}])
        self.assertNotIn("machine", offered)
        base = f"&against={self.scene_test.pk}-{first.pk}"
        # The reference stays in sight, whether it fits or not.
        other = f"&against={self.scene_test.pk}-{second.pk}"
        self.assertEqual(self.labels(f"?having=part.graphics.memory_gb%3D8%20GB{other}"), [first.label])
        self.assertEqual(self.labels(f"?having=part.graphics.memory_gb%3D8%20GB{base}"), [])
        self.assertEqual(self.labels(f"?having=part.graphics%3DOther{other}"), [])
        left = {one["key"] for one in self.reader.json(f"{path}?having=part.graphics%3DPike%208")}
        self.assertNotIn("part.graphics", left)
        refused = self.problem(self.reader.get(f"/api/standings/{self.key}?having=graphics"), 422)
        self.assertIn("having", str(refused))

    def test_it_is_read_by_pages(self) -> None:
        with mock.patch.object(module, "PAGE", 1):
            one, two = (self.standing(f"?offset={at}") for at in (0, 1))
        self.assertEqual((one["count"], len(one["rows"]), len(two["rows"])), (2, 1, 1))
        self.assertNotEqual(one["rows"][0]["id"], two["rows"][0]["id"])

    def test_all_of_it_is_had_as_values_whatever_page_is_shown(self) -> None:
        with mock.patch.object(module, "PAGE", 1):
            answer = self.reader.get(f"/api/standings/{self.key}/results.csv?offset=1")
            lines = b"".join(answer.streaming_content).decode().splitlines()  # type: ignore[attr-defined]
        head, *rows = csv.reader(lines)
        self.assertEqual(len(rows), 2)
        shown = {row["label"]: row for row in self.standing()["rows"]}
        for row in rows:
            told = dict(zip(head, row, strict=True))
            one = shown[told["configuration"]]
            self.assertEqual((told["place"], float(told["figure in fps"])), (one["place"], one["centre"]))

    def test_a_configuration_of_another_system_is_told_by_both_names(self) -> None:
        other = System.objects.create(key="otter", name="Otter")
        configuration = Configuration.objects.create(system=other, name="as it is")
        Column.objects.filter(pk=self.scene.columns[1].pk).update(configuration=configuration, label="plain")
        Test.objects.update(stamp=99)
        shown = self.standing(f"?against={self.scene_test.pk}-{self.scene.columns[0].pk}")
        sentence = next(row["sentence"] for row in shown["rows"] if row["label"] == "plain")
        self.assertTrue(sentence.startswith("Otter, plain ("), sentence)
