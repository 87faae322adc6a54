"""Reviews: edits on a known version, the difference table, the docket and published records."""

import json
from typing import Any

from nomothet.server.docket.models import Entry
from nomothet.server.passes.models import Pass
from nomothet.server.records.models import Record
from tests.server.base import Browser, SceneTest, steady


class Edits(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.editor = Browser("editor")

    def edit(self, tag: str | None, **changes: object) -> Any:
        headers = {} if tag is None else {"If-Match": tag}
        return self.editor.send("patch", self.review_path, changes, **headers)

    def test_an_edit_on_the_present_version_is_stored_and_makes_a_new_one(self) -> None:
        tag = self.editor.get(self.review_path).headers["ETag"]
        answer = self.edit(tag, audience="20 W is enough.", margin=0.05)
        self.assertEqual(answer.status_code, 200)
        self.assertNotEqual(answer.headers["ETag"], tag)
        stored = self.editor.json(self.review_path)
        self.assertEqual((stored["audience"], stored["margin"]), ("20 W is enough.", 0.05))

    def test_the_slower_of_two_editors_is_shown_what_is_stored(self) -> None:
        self.edit('"v1"', audience="mine")
        problem = self.problem(self.edit('"v1"', audience="theirs"), 412)
        self.assertEqual(problem["current"]["audience"], "mine")
        self.assertEqual(self.editor.json(self.review_path)["audience"], "mine")

    def test_an_edit_without_a_version_is_refused(self) -> None:
        self.problem(self.edit(None, audience="x"), 428)

    def test_mistakes_name_the_field(self) -> None:
        for field, value in (("margin", -1), ("margin", 2), ("low_definition", "x"), ("question", ""), ("editor", 1)):
            with self.subTest(field=field, value=value):
                self.assertIn(field, self.problem(self.edit('"v1"', **{field: value}), 400)["errors"])
        self.assertEqual(self.editor.json(self.review_path)["version"], 1)

    def test_a_wider_margin_changes_the_verdict(self) -> None:
        self.fill(0, [60.0, 60.1, 60.0])
        self.fill(1, [58.0, 58.1, 58.0])
        other = str(self.scene.columns[1].pk)
        self.assertEqual(self.row()["cells"][other]["comparison"]["verdict"], "behind")
        self.edit('"v1"', margin=0.05)
        self.assertEqual(self.row()["cells"][other]["comparison"]["verdict"], "level")

    def test_the_baseline_for_everybody(self) -> None:
        second = self.scene.columns[1]
        self.editor.send("put", f"{self.review_path}/baseline/{second.pk}")
        self.assertEqual(Browser("reader").json(f"{self.review_path}/matrix")["baseline"], second.pk)


class DifferenceTable(SceneTest):
    def rows(self) -> dict[str, dict[str, Any]]:
        return {row["key"]: row for row in Browser("reader").json(self.review_path)["differences"]["rows"]}

    def test_only_what_differs_is_shown_and_the_rest_is_folded(self) -> None:
        found = Browser("reader").json(self.review_path)["differences"]
        self.assertEqual([row["key"] for row in found["rows"]], ["power_limit_w"])
        self.assertEqual(found["rows"][0]["kind"], "factor")
        self.assertEqual(found["constant"], ["system Wren", "fan profile 2"])

    def test_what_differs_undeclared_is_flagged(self) -> None:
        configuration = self.scene.configurations[1]
        configuration.settings["fan_profile"] = 3
        configuration.save()
        row = self.rows()["fan_profile"]
        self.assertEqual(row["kind"], "undeclared")
        self.assertTrue(row["flagged"])

    def test_an_observed_value_off_the_set_one_is_flagged(self) -> None:
        for column, observed in ((0, 35.0), (1, 23.0)):
            self.scene.owe(column=column)
            self.bench.deliver(steady(60), environment={"observed": {"power_limit_w": observed}})
        row = self.rows()["observed.power_limit_w"]
        self.assertEqual(row["flagged"], [self.scene.columns[1].pk])
        self.assertEqual(row["values"][str(self.scene.columns[1].pk)], "23 W")

    def test_an_observed_value_within_the_tolerance_is_not(self) -> None:
        self.scene.owe()
        self.bench.deliver(steady(60), environment={"observed": {"power_limit_w": 34.0}})
        self.assertNotIn("observed.power_limit_w", self.rows())


class Docket(SceneTest):
    def ask(self, **changes: object) -> Any:
        body = {
            "tests": [test.pk for test in self.scene.tests],
            "columns": [column.pk for column in self.scene.columns],
            "passes": 2,
            **changes,
        }
        return Browser("tester").send("post", f"{self.review_path}/docket", body)

    def test_work_is_ordered_by_configuration_with_the_change_between(self) -> None:
        self.assertEqual(self.ask().json(), {"asked": 8})
        (system,) = Browser("reader").json(f"{self.review_path}/docket")
        groups = [[(group["column"], len(group["entries"])) for group in visit["groups"]] for visit in system["visits"]]
        first, second = (column.pk for column in self.scene.columns)
        self.assertEqual(groups, [[(first, 2), (first, 2)], [(second, 2), (second, 2)]])
        words = [step["words"] for step in system["visits"][1]["steps"]]
        self.assertEqual(words, ["Set power limit from 35 W to 20 W."])

    def test_what_is_running_comes_first(self) -> None:
        self.ask(columns=[self.scene.columns[1].pk])
        self.bench.take()
        self.ask(columns=[self.scene.columns[0].pk])
        (system,) = Browser("reader").json(f"{self.review_path}/docket")
        self.assertEqual(system["running"][0]["entries"][0]["state"], "running")
        # The baseline is measured first, although the machine is at the other configuration just now.
        self.assertEqual([visit["title"] for visit in system["visits"]], ["Wren at 35 W", "Wren at 20 W"])

    def test_mistakes_are_refused_and_nothing_is_owed(self) -> None:
        self.problem(self.ask(tests=[99_999]), 422)
        self.problem(self.ask(columns=[]), 400)
        self.problem(self.ask(passes=0), 400)
        self.problem(self.ask(passes=21), 400)
        self.assertEqual(Entry.objects.count(), 0)

    def test_what_nobody_began_can_be_taken_off(self) -> None:
        (entry,) = self.scene.owe()
        self.assertEqual(Browser("tester").send("delete", f"/api/docket/{entry.pk}").status_code, 204)
        self.assertEqual(Browser("reader").json(f"{self.review_path}/docket"), [])


class TheList(SceneTest):
    def test_a_review_is_told_by_what_it_owes_and_holds(self) -> None:
        browser = Browser("reader")

        def item() -> tuple[str, int, int]:
            (found,) = browser.json("/api/reviews")
            return found["state"], found["kept"], found["owed"]

        self.assertEqual(item(), ("planned", 0, 0))
        self.scene.owe(count=2)
        self.assertEqual(item(), ("passes owed", 0, 2))
        self.bench.deliver(steady(60))
        self.bench.take()
        self.assertEqual(item(), ("running", 1, 0))

    def test_the_list_takes_the_same_few_queries_however_long(self) -> None:
        browser = Browser("reader")
        # What passes amount to is kept once for each test, and found in order by the next look.
        for _ in range(2):
            browser.get("/api/reviews")
        with self.assertNumQueries(9):
            browser.get("/api/reviews")
        for at in range(5):
            self.scene.new_review(f"more-{at}", f"Question {at}?")
        for _ in range(2):
            browser.get("/api/reviews")
        with self.assertNumQueries(9):
            browser.get("/api/reviews")


class Records(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.ids = self.fill(0, [60.0, 60.2])
        self.fill(1, [54.0, 54.3])
        self.editor = Browser("editor")

    def publish(self, **body: object) -> Any:
        return self.editor.send("post", f"{self.review_path}/records", body)

    def stranger(self, path: str) -> Any:
        return Browser().get(path)

    def test_a_record_is_readable_without_sign_in_and_frozen(self) -> None:
        slug = self.publish().json()["slug"]
        path = f"/api/records/{slug}"
        before = self.stranger(path).content
        figures = b"".join(self.stranger(f"{path}/figures.csv"))
        Browser("tester").send("put", f"/api/passes/{self.ids[0]}/set-aside", {"reason": "late doubt"})
        self.editor.send("patch", self.review_path, {"audience": "changed"}, **{"If-Match": '"v1"'})
        self.assertEqual(self.stranger(path).content, before)
        self.assertEqual(b"".join(self.stranger(f"{path}/figures.csv")), figures)
        content = json.loads(before)["content"]
        self.assertEqual(content["review"]["question"], self.scene.review.question)
        self.assertEqual(len(content["passes"]), 4)
        self.assertEqual(content["matrix"]["rows"][0]["cells"][str(self.scene.columns[1].pk)]["n"], 2)

    def test_its_captures_are_readable_and_no_others(self) -> None:
        slug = self.publish().json()["slug"]
        late = self.fill(0, [61.0])[0]
        early = Pass.objects.get(pk=self.ids[0]).series.get().pk
        later = Pass.objects.get(pk=late).series.get().pk
        self.assertEqual(self.stranger(f"/api/records/{slug}/traces/{self.ids[0]}").status_code, 200)
        self.assertEqual(self.stranger(f"/api/records/{slug}/captures/{early}.csv").status_code, 200)
        self.problem(self.stranger(f"/api/records/{slug}/traces/{late}"), 404)
        self.problem(self.stranger(f"/api/records/{slug}/captures/{later}.csv"), 404)
        self.problem(self.stranger(f"/api/captures/{early}.csv"), 401)

    def test_a_correction_is_a_new_edition_that_says_what_changed(self) -> None:
        first = self.publish().json()["slug"]
        self.assertIn("what changed", self.problem(self.publish(), 422)["detail"])
        second = self.publish(change_note="pass 1 set aside").json()
        self.assertEqual(second["edition"], 2)
        editions = self.stranger(f"/api/records/{first}").json()["editions"]
        self.assertEqual([edition["edition"] for edition in editions], [2, 1])

    def test_nothing_measured_is_nothing_to_publish(self) -> None:
        empty = self.scene.new_review("empty", "Is there anything?")
        self.problem(self.editor.send("post", f"/api/reviews/{empty.pk}/records", {}), 422)
        self.assertEqual(Record.objects.count(), 0)

    def test_an_address_that_never_was_is_not_found(self) -> None:
        self.problem(self.stranger("/api/records/never-was"), 404)
