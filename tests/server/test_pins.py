"""What people do with findings: pinned with what they said, drawn otherwise, settled by passes on the docket."""

from typing import Any
from unittest.mock import patch

from nomothet.server.docket.models import Entry
from nomothet.server.feed.models import Change
from nomothet.server.findings.models import DrawnFinding, Pin
from nomothet.server.findings.tasks import prepare_all_findings, prepare_findings
from nomothet.server.passes.models import Figure
from nomothet.server.reviews.models import Review, Test
from tests.server.base import Browser
from tests.server.finding_scene import BEGAN, KindsTest


class PinsTest(KindsTest):
    def setUp(self) -> None:
        super().setUp()
        self.other = self.row(self.scene.scene, ["average_fps"], scene="open")
        for test, base in ((self.walk, 100.0), (self.other, 50.0)):
            self.passes(test, self.first, average_fps=self.around(base))
            self.passes(test, self.second, average_fps=self.around(base * 0.8))
        self.editor = Browser("editor")

    def found(self, key: str = "overall") -> dict[str, Any]:
        return self.said(key)[0]

    def pin(self, key: str, note: str = "", who: str = "editor") -> int:
        return Browser(who).send("post", f"{self.review_path}/pins", {"key": key, "note": note}).status_code

    def slow_down(self, factor: float = 0.5) -> None:
        for figure in Figure.objects.filter(owner__column=self.second, metric="average_fps"):
            Figure.objects.filter(pk=figure.pk).update(value=figure.value * factor)
        Test.objects.update(stamp=1000)


class Pinning(PinsTest):
    def test_a_pin_keeps_what_it_said_and_tells_what_changed_until_it_is_seen(self) -> None:
        key = self.found()["key"]
        self.assertEqual(self.pin(key, "the answer"), 201)
        pin = self.found()["pin"]
        self.assertEqual((pin["note"], pin["by"], pin["changed"]), ("the answer", "Editor", ""))
        said = pin["said"]
        self.slow_down()
        pin = self.found()["pin"]
        self.assertEqual((pin["said"], pin["changed"]), (said, "was −20.0 %, is −60.0 %; still behind"))
        self.assertEqual(Browser("tester").send("put", f"/api/pins/{pin['id']}/seen").status_code, 204)
        pin = self.found()["pin"]
        self.assertEqual((pin["said"], pin["changed"]), (said, ""))

    def test_one_that_is_no_longer_found_stays_readable(self) -> None:
        key = self.found()["key"]
        self.pin(key)
        self.other.passes.all().update(set_aside=True)
        Test.objects.update(stamp=1000)
        answer = Browser("reader").json(f"{self.review_path}/findings")
        (gone,) = answer["gone"]
        self.assertEqual((gone["key"], gone["pin"]["changed"]), (key, "is no longer found"))
        self.assertIn("80.0 %", gone["pin"]["said"])
        self.assertEqual(self.editor.send("put", f"/api/pins/{gone['pin']['id']}/seen").status_code, 422)
        self.assertEqual(self.editor.send("delete", f"/api/pins/{gone['pin']['id']}").status_code, 204)
        self.assertEqual(Browser("reader").json(f"{self.review_path}/findings")["gone"], [])

    def test_pinning_twice_is_one_pin_and_changes_its_note(self) -> None:
        key = self.found()["key"]
        self.pin(key, "first")
        self.slow_down()
        self.pin(key, "second")
        pin = Pin.objects.get()
        self.assertEqual(pin.note, "second")
        self.assertIn("80.0 %", pin.said["sentence"])

    def test_pins_are_put_in_order_and_a_list_that_is_old_is_refused(self) -> None:
        keys = [one["key"] for one in Browser("reader").json(f"{self.review_path}/findings")["findings"]][:3]
        for key in keys:
            self.pin(key)
        order = list(Pin.objects.values_list("pk", flat=True))[::-1]
        self.assertEqual(self.editor.send("put", f"{self.review_path}/pins", {"order": order}).status_code, 200)
        self.assertEqual(list(Pin.objects.values_list("pk", flat=True)), order)
        for wrong in (order[:2], [*order, order[0]], [order[0]] * 3):
            self.assertEqual(self.editor.send("put", f"{self.review_path}/pins", {"order": wrong}).status_code, 409)
        self.assertEqual(list(Pin.objects.values_list("pk", flat=True)), order)

    def test_what_is_not_there_cannot_be_pinned(self) -> None:
        self.assertEqual(self.pin("overall-nothing-1"), 422)
        self.assertEqual(self.pin("x" * 161), 400)
        self.assertFalse(Pin.objects.exists())


class Roles(PinsTest):
    def test_who_may_not_edit_reviews_changes_nothing(self) -> None:
        key = self.found()["key"]
        self.pin(key)
        pin = Pin.objects.get()
        drawn = {"kind": "overall", "choice": {"role": "averages"}}
        self.editor.send("post", f"{self.review_path}/findings/drawn", drawn)
        made = DrawnFinding.objects.get()
        for who in ("reader", "tester"):
            browser = Browser(who)
            for method, path, body in (
                ("post", f"{self.review_path}/pins", {"key": key}),
                ("put", f"{self.review_path}/pins", {"order": [pin.pk]}),
                ("delete", f"/api/pins/{pin.pk}", None),
                ("post", f"{self.review_path}/findings/drawn", drawn),
                ("delete", f"/api/drawn-findings/{made.pk}", None),
            ):
                with self.subTest(who=who, path=path):
                    self.assertEqual(browser.send(method, path, body).status_code, 403)
        self.assertEqual(Browser("reader").send("put", f"/api/pins/{pin.pk}/seen").status_code, 403)
        cells = [{"test": self.walk.pk, "column": self.first.pk, "passes": 1}]
        owed = Browser("reader").send("post", f"{self.review_path}/findings/owed", {"cells": cells})
        self.assertEqual(owed.status_code, 403)
        self.assertEqual((Pin.objects.kept().count(), DrawnFinding.objects.count(), Entry.objects.count()), (1, 1, 0))

    def test_who_has_not_signed_in_reads_nothing(self) -> None:
        for path in ("findings", "findings/overall-averages-1.csv"):
            self.assertIn(Browser().get(f"{self.review_path}/{path}").status_code, (401, 403))


class Drawing(PinsTest):
    def draw(self, kind: str = "overall", **choice: Any) -> Any:
        return self.editor.send("post", f"{self.review_path}/findings/drawn", {"kind": kind, "choice": choice})

    def test_another_baseline_stays_in_the_list_for_everybody(self) -> None:
        answer = self.draw(baseline=self.second.pk)
        self.assertEqual(answer.status_code, 201, answer.content)
        drawn = [one for one in self.said("overall") if one["drawn"] is not None]
        self.assertEqual(len(drawn), 1)
        self.assertIn("of 35 W come to 125 % of 20 W", drawn[0]["sentence"])
        self.assertEqual(drawn[0]["drawn_by"], "Editor")
        self.assertEqual(self.draw(baseline=self.second.pk).status_code, 201)
        self.assertEqual(DrawnFinding.objects.count(), 1)

    def test_tests_are_left_out_and_a_drawn_one_is_pinned_and_taken_away_with_its_pin(self) -> None:
        third = self.row(self.scene.scene, ["average_fps"], scene="dark")
        self.passes(third, self.first, average_fps=self.around(10.0))
        self.passes(third, self.second, average_fps=self.around(10.0))
        self.draw(without=[third.pk])
        drawn = next(one for one in self.said("overall") if one["drawn"] is not None)
        self.assertEqual(drawn["tests"], [self.walk.pk, self.other.pk])
        self.pin(drawn["key"])
        self.assertTrue(next(one for one in self.said("overall") if one["drawn"])["pin"])
        self.assertEqual(self.editor.send("delete", f"/api/drawn-findings/{drawn['drawn']}").status_code, 204)
        self.assertEqual((Pin.objects.kept().count(), DrawnFinding.objects.count()), (0, 0))

    def test_a_chain_in_an_order_of_ones_own(self) -> None:
        third = self.column("28 W", power_limit_w=28)
        self.passes(self.walk, third, average_fps=self.around(90.0))
        order = [self.second.pk, third.pk, self.first.pk]
        self.assertEqual(self.draw("chain", columns=order).status_code, 201)
        (finding,) = self.said("chain")
        self.assertEqual(finding["columns"], order)

    def test_what_cannot_be_drawn_is_refused_with_why_and_leaves_nothing(self) -> None:
        for kind, choice, words in (
            ("overall", {}, "Choose what it is to be about"),
            ("overall", {"role": "lows"}, "too little of it was measured"),
            ("overall", {"role": "middle"}, "averages or lows"),
            ("overall", {"baseline": 999}, "does not have"),
            ("overall", {"without": [self.walk.pk, self.other.pk, self.scene.tests[1].pk]}, "Every test is left out"),
            ("overall", {"basis": "paid"}, "nothing else can be chosen"),
            ("overall", {"without": [self.walk.pk, self.walk.pk]}, "names something twice"),
            ("chain", {"columns": [self.first.pk, self.second.pk, self.first.pk]}, "names something twice"),
            ("overall", {"without": "all"}, "cannot be read"),
            ("overall", {"columns": {}}, "cannot be read"),
            ("headroom", {"role": "lows"}, "no kind of finding that can be drawn"),
            ("nothing", {"role": "lows"}, "no kind of finding"),
            ("frontier", {"basis": "barter"}, "Prices are"),
        ):
            with self.subTest(kind=kind, choice=choice):
                answer = self.draw(kind, **choice)
                self.assertEqual(answer.status_code, 422, answer.content)
                self.assertIn(words, answer.json()["detail"])
        self.assertFalse(DrawnFinding.objects.exists())


class Owing(PinsTest):
    def test_passes_that_settle_a_finding_are_all_asked_for_or_none(self) -> None:
        path = f"{self.review_path}/findings/owed"
        wanted = ((self.first, 25), (self.second, 2))
        cells = [{"test": self.walk.pk, "column": column.pk, "passes": n} for column, n in wanted]
        answer = Browser("tester").send("post", path, {"cells": cells})
        self.assertEqual((answer.status_code, answer.json()["asked"]), (201, 27))
        wrong = [{**cells[1]}, {"test": 999, "column": self.first.pk, "passes": 1}]
        self.assertEqual(Browser("tester").send("post", path, {"cells": wrong}).status_code, 422)
        for passes in (0, 51, "many"):
            bad = [{**cells[0], "passes": passes}]
            self.assertEqual(Browser("tester").send("post", path, {"cells": bad}).status_code, 400)
        self.assertEqual(Entry.objects.count(), 27)

    def test_what_waits_already_is_not_asked_for_twice(self) -> None:
        for number, value in ((1, 98.0), (2, 99.5), (3, 97.0)):
            own = Figure.objects.filter(owner__test=self.walk, owner__column=self.second, owner__number=number)
            own.update(value=value)
        Test.objects.update(stamp=1000)
        (act,) = self.said("open")[0]["acts"]
        self.assertEqual(act["kind"], "owe")
        Browser("tester").send("post", f"{self.review_path}/findings/owed", {"cells": act["cells"]})
        (after,) = self.said("open")[0]["acts"]
        self.assertEqual(after["kind"], "advice")
        self.assertIn("on the docket already", after["words"])


class Kept(PinsTest):
    def test_findings_are_read_back_until_something_that_they_rest_on_changes(self) -> None:
        first = self.found()["sentence"]
        Figure.objects.filter(owner__column=self.second).update(value=10.0)
        self.assertEqual(self.found()["sentence"], first)
        Test.objects.update(stamp=1000)
        self.assertNotEqual(self.found()["sentence"], first)

    def test_a_large_review_is_worked_out_in_the_background(self) -> None:
        with self.large(1):
            answer = Browser("reader").json(f"{self.review_path}/findings")
            self.assertEqual((answer["computing"], answer["findings"]), (True, []))
            prepare_findings.func(self.review.pk)
            answer = Browser("reader").json(f"{self.review_path}/findings")
            self.assertEqual(answer["computing"], False)
            before = len(answer["findings"])
            Test.objects.update(stamp=1001)
            answer = Browser("reader").json(f"{self.review_path}/findings")
            self.assertEqual((answer["computing"], len(answer["findings"])), (True, before))

    def test_where_the_background_is_held_up_the_page_has_them_worked_out(self) -> None:
        with self.large(1), patch("nomothet.server.findings.findings.LONGEST_S", -1.0):
            path = f"{self.review_path}/findings"
            self.assertTrue(Browser("reader").json(path)["computing"])
            answer = Browser("reader").json(path)
            self.assertFalse(answer["computing"])
            self.assertTrue(answer["findings"])

    def test_at_a_start_all_reviews_are_prepared_and_archived_ones_are_not(self) -> None:
        with patch("nomothet.server.findings.tasks.work_out") as work_out:
            prepare_all_findings.func()
            work_out.assert_called_once()
            Review.objects.update(archived_at=BEGAN)
            prepare_all_findings.func()
            work_out.assert_called_once()

    def large(self, passes: int) -> Any:
        return patch("nomothet.server.findings.findings.LARGE", passes)

    def test_open_pages_are_told_once_it_is_done(self) -> None:
        prepare_findings.func(self.review.pk)
        change = Change.objects.order_by("-number").first()
        assert change is not None
        self.assertEqual((change.kind, change.payload["review"]), ("findings", self.review.pk))
        prepare_findings.func(987654)

    def test_a_table_of_what_is_drawn_says_where_it_comes_from(self) -> None:
        key = self.found()["key"]
        answer = Browser("reader").get(f"{self.review_path}/findings/{key}.csv")
        text = b"".join(answer.streaming_content).decode()  # type: ignore[attr-defined]
        self.assertIn("over all tests,", text)
        self.assertIn(self.review.question, text)
        self.assertIn("section 4", text)
        self.assertEqual(Browser("reader").get(f"{self.review_path}/findings/nothing.csv").status_code, 422)


class Archived(PinsTest):
    def test_deleting_a_review_takes_its_pins_along(self) -> None:
        self.pin(self.found()["key"])
        empty = Review.objects.create(key="empty", question="Nothing?", editor=self.scene.people["editor"])
        DrawnFinding.objects.create(review=empty, kind="overall", choice={}, by=self.scene.people["editor"])
        self.assertEqual(self.editor.send("delete", f"/api/reviews/{empty.pk}").status_code, 204)
        self.assertFalse(DrawnFinding.objects.exists())
        self.assertEqual(Pin.objects.kept().count(), 1)
