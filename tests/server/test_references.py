"""Results of another review beside those of a review: frozen, compared, offered, and from outside."""

from collections.abc import Callable
from typing import Any

from django.db import connection

from nomothet.server.history.models import Event
from nomothet.server.passes.models import Pass
from nomothet.server.records.models import Record
from nomothet.server.reviews.models import Review, Test
from nomothet.server.standings.models import Reference, Result
from nomothet.server.standings.references.freezing import seal_of
from tests.server.base import Browser, steady
from tests.server.test_standings import StandingsTest


class ReferencesTest(StandingsTest):
    def setUp(self) -> None:
        super().setUp()
        self.editor = Browser("editor")
        self.path = f"/api/reviews/{self.scene.review.pk}/references"

    def take(self, test: Test, status: int = 201) -> Any:
        answer = self.editor.send("post", self.path, {"column": test.review.columns.get().pk})
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def one(self) -> Any:
        (found,) = self.editor.json(self.path)["references"]
        return found

    def cell(self, metric: str = "average_fps") -> Any:
        return next(cell for cell in self.one()["cells"] if cell["metric"] == metric)


class Taken(ReferencesTest):
    def test_a_column_of_another_review_stands_beside_and_is_compared(self) -> None:
        self.fill(0, [60.0, 61.0, 60.5])
        earlier = self.another_review([66.0, 66.5, 67.0])
        self.take(earlier)
        one, cell = self.one(), self.cell()
        self.assertEqual((one["number"], one["source"], one["kind"]), (1, "Measured again?", "own"))
        self.assertEqual((cell["test"], cell["place"], cell["n"]), (self.scene_test.pk, "beside", 3))
        # 66.5 over 60.5, by the geometric means of both.
        self.assertAlmostEqual(cell["better"], 100 * (66.4968 / 60.4986 - 1), delta=0.3)
        self.assertEqual(cell["verdict"], "ahead")
        self.assertIn("again", cell["sentence"])

    def test_it_stays_as_it_was_and_says_that_its_review_has_moved_on(self) -> None:
        self.fill(0, [60.0, 61.0])
        earlier = self.another_review([66.0, 66.5])
        self.take(earlier)
        before, seal = self.cell(), self.one()["seal"]
        self.assertFalse(self.one()["since_changed"])
        dropped = Pass.objects.filter(test=earlier).order_by("number")[0]
        Browser("tester").send("put", f"/api/passes/{dropped.pk}/set-aside", {"reason": "a scan ran"})
        self.standing()
        self.assertEqual(self.cell(), before)
        self.assertEqual((self.one()["seal"], self.one()["since_changed"]), (seal, True))
        self.assertEqual(seal_of(Reference.objects.get().content), seal)

    def test_what_warns_between_reviews_is_named_and_what_blocks_is_not_compared(self) -> None:
        self.scene.owe(count=2)
        for at, rate in enumerate([60.0, 61.0]):
            self.bench.deliver(steady(rate, seed=at), environment={"image": "41"})
        self.take(self.another_review([66.0, 66.5], environment={"image": "42"}))
        cell = self.cell()
        self.assertEqual(cell["place"], "with a warning")
        self.assertIn("image", cell["reasons"][0]["words"])
        other = self.scene_test.workload
        other.pk, other.version = None, "9"
        other.save()
        self.take(self.another_review([70.0, 71.0], workload=other))
        second = self.editor.json(self.path)["references"][1]
        cell = next(cell for cell in second["cells"] if cell["metric"] == "average_fps")
        self.assertEqual((cell["place"], cell["told"]), ("not beside", ""))
        self.assertIn("version", cell["reasons"][0]["words"])

    def test_a_row_without_a_result_of_the_baseline_shows_the_figure_and_compares_nothing(self) -> None:
        self.take(self.another_review([66.0, 66.5]))
        cell = self.cell()
        self.assertEqual((cell["place"], cell["told"]), ("", ""))
        self.assertAlmostEqual(cell["centre"], 66.25, delta=0.1)
        # Nothing of it has gone into the review's own cells.
        self.assertEqual(Pass.objects.filter(test__review=self.scene.review).count(), 0)

    def test_other_settings_are_another_test(self) -> None:
        self.fill(0, [60.0, 61.0])
        self.take(self.another_review([66.0, 66.5], settings={"preset": "low"}))
        self.assertEqual(self.one()["cells"], [])

    def test_the_chosen_baseline_is_compared_with(self) -> None:
        self.fill(0, [60.0, 61.0])
        self.fill(1, [50.0, 51.0])
        self.take(self.another_review([60.0, 61.0]))
        second = self.scene.columns[1].pk
        (found,) = self.editor.json(f"{self.path}?baseline={second}")["references"]
        cell = next(cell for cell in found["cells"] if cell["metric"] == "average_fps")
        self.assertAlmostEqual(cell["better"], 100 * (60.5 / 50.5 - 1), delta=1.0)

    def test_taken_twice_unchanged_or_of_this_review_or_empty_it_is_refused(self) -> None:
        earlier = self.another_review([66.0])
        self.take(earlier)
        self.take(earlier, status=409)
        own = {"column": self.scene.columns[0].pk}
        self.problem(self.editor.send("post", self.path, own), 422)
        self.problem(self.editor.send("post", self.path, {"column": 10**6}), 422)
        self.take(self.another_review([]), status=422)
        self.problem(Browser("tester").send("post", self.path, own), 403)

    def test_taken_off_it_is_kept_and_can_be_brought_back(self) -> None:
        self.take(self.another_review([66.0]))
        path = f"/api/references/{self.one()['id']}/taken-off"
        self.assertEqual(self.editor.send("put", path, {"why": "another cooler"}).status_code, 204)
        self.problem(self.editor.send("put", path, {"why": "again"}), 409)
        told = self.editor.json(self.path)
        self.assertEqual((told["references"], len(told["removed"])), ([], 1))
        self.assertEqual(self.editor.send("delete", path).status_code, 204)
        self.assertEqual(self.one()["number"], 1)
        acts = Event.objects.filter(kind="review", object_id=self.scene.review.pk).values_list("act", flat=True)
        self.assertLessEqual({"reference taken", "reference taken off", "reference brought back"}, set(acts))


class FromOutside(ReferencesTest):
    told: dict[str, Any] = {"named": "a desktop of last year", "told_in": "a reader's letter", "day": "2026-03-02"}

    def test_figures_from_outside_are_shown_with_source_and_day_and_held_against_nothing(self) -> None:
        self.fill(0, [60.0, 61.0])
        figures = [{"test": self.scene_test.pk, "value": 71.5}]
        answer = self.editor.send("post", self.path, {**self.told, "figures": figures})
        self.assertEqual(answer.status_code, 201, answer.content)
        one, cell = self.one(), self.cell()
        self.assertEqual((one["kind"], one["source"], one["day"]), ("foreign", "a reader's letter", "2026-03-02"))
        self.assertEqual((cell["centre"], cell["place"], cell["verdict"], cell["n"]), (71.5, "foreign", "", 0))

    def test_what_is_missing_or_of_another_review_is_named(self) -> None:
        figures = [{"test": self.scene_test.pk, "value": 71.5}]
        for body, field in (
            ({**self.told}, "figures"),
            ({"named": "x", "day": "2026-03-02", "figures": figures}, "told_in"),
            ({**self.told, "figures": [{"test": 10**6, "value": 1.0}]}, "figures"),
            ({**self.told, "day": "2999-01-01", "figures": figures}, "day"),
        ):
            with self.subTest(field=field):
                self.assertIn(field, str(self.problem(self.editor.send("post", self.path, body), 422)))
        self.assertEqual(Reference.objects.count(), 0)


class Offered(ReferencesTest):
    def offers(self) -> Any:
        return self.editor.json(f"/api/reviews/{self.scene.review.pk}/reference-offers")

    def test_earlier_results_of_planned_tests_are_offered_with_the_passes_that_they_save(self) -> None:
        earlier = self.another_review([66.0, 66.5])
        self.standing()
        (offer,) = self.offers()
        column = self.scene.columns[0]
        self.assertEqual((offer["fits"], offer["of"], offer["alone"]), (1, self.scene.review.tests.count(), True))
        # The same configuration is planned here, of which no pass has been run.
        self.assertEqual((offer["same_as"], offer["saves"]), (column.pk, self.scene.review.passes_per_test))
        self.fill(0, [60.0])
        self.assertEqual(self.offers()[0]["saves"], self.scene.review.passes_per_test - 1)
        self.assertFalse(self.offers()[0]["taken"])
        self.take(earlier)
        self.assertTrue(self.offers()[0]["taken"])

    def test_another_version_fits_only_where_it_was_declared_comparable(self) -> None:
        older = self.scene_test.workload
        own = older.version
        older.pk, older.version = None, "0.9"
        older.save()
        self.another_review([66.0], workload=older)
        self.standing()
        (offer,) = self.offers()
        self.assertEqual((offer["fits"], offer["other_version"], offer["saves"]), (0, 1, 0))
        older.comparable = [{"version": own, "why": "the same scenes"}]
        older.save()
        (offer,) = self.offers()
        self.assertEqual((offer["fits"], offer["other_version"]), (1, 0))

    def test_what_goes_away_while_it_is_looked_for_is_not_offered(self) -> None:
        self.another_review([66.0])
        self.standing()

        def take_away(execute: Callable[..., Any], sql: str, *rest: Any) -> Any:
            done = execute(sql, *rest)
            if "COUNT(DISTINCT" in sql:
                Result.objects.all().delete()
            return done

        self.assertEqual(len(self.offers()), 1)
        with connection.execute_wrapper(take_away):
            self.assertEqual(self.offers(), [])
        self.assertFalse(Result.objects.exists())

    def test_what_is_made_anew_while_it_is_looked_for_is_offered(self) -> None:
        self.another_review([66.0])
        self.standing()
        left = [True]

        def make_anew(execute: Callable[..., Any], sql: str, *rest: Any) -> Any:
            done = execute(sql, *rest)
            if "ORDER BY `standings_result`.`last_at`" in sql and left and left.pop():
                old = list(Result.objects.all())
                Result.objects.all().delete()
                for one in old:
                    one.pk = None
                    one.save(force_insert=True)
            return done

        with connection.execute_wrapper(make_anew):
            self.assertEqual([offer["fits"] for offer in self.offers()], [1])
        self.assertEqual(left, [])

    def test_nothing_is_offered_where_nothing_fits(self) -> None:
        self.another_review([66.0], settings={"preset": "low"})
        self.standing()
        self.assertEqual(self.offers(), [])
        empty = Review.objects.create(key="empty", question="?", editor=self.scene.review.editor)
        self.assertEqual(self.editor.json(f"/api/reviews/{empty.pk}/reference-offers"), [])


class InRecords(ReferencesTest):
    def publish(self, review: Review) -> str:
        answer = self.editor.send("post", f"/api/reviews/{review.pk}/records", {"change_note": "more"})
        self.assertEqual(answer.status_code, 201, answer.content)
        return Browser().get(f"/records/{Record.objects.latest('pk').slug}").content.decode()

    def test_a_record_shows_what_stands_beside_without_the_question_of_what_is_not_public(self) -> None:
        self.fill(0, [60.0, 61.0])
        earlier = self.another_review([66.0, 66.5])
        self.take(earlier)
        text = self.publish(self.scene.review)
        self.assertIn("Beside, from elsewhere", text)
        self.assertIn("an earlier review of the team", text)
        self.assertNotIn("Measured again?", text)
        self.publish(earlier.review)
        self.assertIn("Measured again?", self.publish(self.scene.review))

    def test_a_record_notes_what_was_measured_before_an_update(self) -> None:
        self.scene.owe(count=2)
        for at in range(2):
            self.bench.deliver(steady(60.0, seed=at), environment={"graphics driver": "31.4"})
        self.assertNotIn("Measured before an update", self.publish(self.scene.review))
        self.bench.send("post", "/hello", {"inventory": {"graphics driver": "31.6"}})
        self.assertIn("measured under graphics driver 31.4; 31.6 since", self.publish(self.scene.review))

    def test_a_record_of_the_format_before_is_read_without_them(self) -> None:
        self.fill(0, [60.0])
        self.publish(self.scene.review)
        one = Record.objects.get()
        del one.content["references"], one.content["measured_before"]
        one.content["format"] = 7
        one.save()
        answer = Browser().get(f"/records/{one.slug}")
        self.assertEqual(answer.status_code, 200)
        self.assertNotIn("Beside, from elsewhere", answer.content.decode())
