"""The catalogue of workloads: editions, what is fixed by passes, fitness, reading rules, files."""

import json
from typing import Any

from nomothet.server.workloads.models import Workload
from tests.server.base import Browser, SceneTest


class Catalogue(SceneTest):
    def patch(self, changes: object, version: int = 1, pk: int | None = None) -> Any:
        path = f"/api/workloads/{pk or self.scene.scene.pk}"
        return Browser("editor").send("patch", path, changes, **{"If-Match": f'"v{version}"'})

    def shape(self, pk: int | None = None) -> dict[str, Any]:
        found = Browser("reader").json("/api/workloads?archived=true")
        return next(one for one in found if one["id"] == (pk or self.scene.scene.pk))

    def test_a_workload_is_described_and_edited(self) -> None:
        changes = {
            "steps": [{"kind": "route", "words": "along the reef", "seconds": 60}],
            "settings": [{"key": "resolution", "label": "resolution", "values": ["1080p", "4K"]}],
            "requirements": [{"aspect": "memory.capacity_gb", "label": "main memory", "least": 8, "unit": "GB"}],
            "files": "from the shelf drive",
            "warm_up_s": 10,
        }
        self.assertEqual(self.patch(changes).status_code, 200)
        self.assertEqual(self.shape()["steps"][0]["words"], "along the reef")
        self.problem(self.patch({"files": "x"}, version=1), 412)

    def test_with_passes_its_meaning_is_fixed_and_its_description_is_not(self) -> None:
        self.fill(0, [60.0])
        problem = self.problem(self.patch({"procedure": "another way"}), 409)
        self.assertEqual(problem["field"], "procedure")
        self.assertIn("new edition", problem["detail"])
        self.assertEqual(self.patch({"description": "a walk"}).status_code, 200)

    def test_editions_are_linked_and_comparable_only_when_declared(self) -> None:
        path = f"/api/workloads/{self.scene.scene.pk}/editions"
        made = Browser("editor").send("post", path, {"version": "2.4"}).json()
        self.assertEqual([one["comparable"] for one in self.shape()["editions"]], [False])
        self.problem(Browser("editor").send("post", path, {"version": "2.4"}), 422)
        declared = [{"version": "2.4", "why": "the same tour"}]
        self.assertEqual(self.patch({"comparable": declared}).status_code, 200)
        self.assertEqual(self.shape()["editions"][0]["why"], "the same tour")
        self.assertEqual(self.shape(made["id"])["editions"][0]["comparable"], False)
        self.problem(self.patch({"comparable": [{"version": "9", "why": "x"}]}, version=2), 422)

    def test_a_key_given_twice_is_refused(self) -> None:
        twice = [{"key": "a", "label": "a"}, {"key": "a", "label": "b"}]
        self.assertEqual(self.problem(self.patch({"settings": twice}), 422)["field"], "settings")

    def remarks(self) -> list[str]:
        found = Browser("reader").json("/api/workloads/fitness")
        return next(one["remarks"] for one in found if one["workload"] == self.scene.scene.pk)

    def test_only_passes_make_it_fixed(self) -> None:
        self.assertFalse(self.shape()["fixed"])
        self.fill(0, [60.0])
        self.assertTrue(self.shape()["fixed"])

    def test_fitness_is_judged_from_passes_on_record(self) -> None:
        self.assertIn("No pass", self.remarks()[0])
        self.fill(0, [60.0, 60.2])
        self.assertEqual(self.remarks(), ["Nothing on record speaks against it."])
        Workload.objects.filter(pk=self.scene.scene.pk).update(warm_up_s=40)
        self.assertIn("Too short", self.remarks()[0])
        self.fill(1, [900.0, 910.0, 905.0])
        self.assertTrue(any("Too light" in words for words in self.remarks()))

    def test_one_in_a_review_is_archived_and_not_deleted(self) -> None:
        path = f"/api/workloads/{self.scene.scene.pk}"
        self.problem(Browser("editor").send("delete", path), 409)
        Browser("editor").send("put", f"{path}/archived")
        self.assertNotIn(self.scene.scene.pk, [one["id"] for one in Browser("reader").json("/api/workloads")])

    def test_what_goes_out_comes_in_again_unchanged(self) -> None:
        for form in ("csv", "json"):
            answer = Browser("reader").get(f"/api/workloads.{form}")
            text = (b"".join(answer.streaming_content) if answer.streaming else answer.content).decode()
            with self.subTest(form=form):
                counts = Browser("editor").send("post", "/api/workloads/import", {"text": text}).json()
                self.assertEqual(counts, {"added": 0, "updated": 0, "unchanged": 2})

    def test_an_import_with_one_mistake_changes_nothing(self) -> None:
        good = {"key": "kiln", "name": "Kiln", "version": "1", "kind": "task"}
        for bad in ({**good, "kind": "stroll"}, {**good, "metrics": [{"key": "a"}]}, {**good, "version": ""}):
            with self.subTest(bad=bad):
                text = json.dumps([good, bad])
                problem = self.problem(Browser("editor").send("post", "/api/workloads/import", {"text": text}), 422)
                self.assertIn("Workload 2", problem["detail"])
        self.assertFalse(Workload.objects.filter(key="kiln").exists())


class Rules(SceneTest):
    def attempt(self, kind: str, expression: str, sample: str, metric: str = "score") -> Any:
        body = {"rule": {"kind": kind, "expression": expression, "metric": metric}, "sample": sample}
        return Browser("editor").send("post", "/api/workloads/try-rule", body)

    def test_who_writes_no_rules_tries_none(self) -> None:
        body = {"rule": {"kind": "json", "expression": "$.a", "metric": "m"}, "sample": "{}"}
        for role in ("reader", "tester"):
            self.problem(Browser(role).send("post", "/api/workloads/try-rule", body), 403)

    def test_what_is_found_is_told_with_its_place(self) -> None:
        sample = "tour average: 61.5 fps\n"
        (match,) = self.attempt("text", r"average: (?P<average_fps>[0-9.]+)", sample).json()["matches"]
        self.assertEqual((match["metric"], match["value"]), ("average_fps", 61.5))
        self.assertEqual(sample[match["start"] : match["end"]], "61.5")

    def test_a_rule_that_cannot_be_used_is_explained(self) -> None:
        for kind, expression, words in (
            ("text", "(", "RE2"),
            ("text", "average", "no group"),
            ("json", "$[", "JSONPath"),
            ("table", "speed", "no column"),
        ):
            with self.subTest(expression=expression):
                problem = self.problem(self.attempt(kind, expression, "a,b\n1,2\n"), 422)
                self.assertIn(words, problem["detail"])


class LoadSearches(SceneTest):
    """A load search has the fields of its plan and the metrics of its result without anybody knowing their names."""

    def add(self, **fields: Any) -> dict[str, Any]:
        body = {"key": "lens", "name": "Lens", "version": "1", "kind": "load_search", **fields}
        answer = Browser("editor").send("post", "/api/workloads", body)
        self.assertEqual(answer.status_code, 201, answer.content)
        return dict(json.loads(answer.content))

    def test_a_bare_one_gets_its_plan_and_its_metrics(self) -> None:
        made = self.add()
        self.assertEqual(
            [one["key"] for one in made["settings"]], ["start", "resolution", "growth", "confirm", "ceiling", "soak_s"]
        )
        self.assertEqual([one["role"] for one in made["metrics"]], ["load", "load hot"])

    def test_what_is_there_stays_and_its_unit_is_taken_over(self) -> None:
        own = {
            "key": "cameras", "label": "cameras held", "unit": "cameras", "direction": "higher", "scale": "ratio",
            "role": "load",
        }  # fmt: skip
        start = {"key": "start", "label": "first load", "unit": "cameras"}
        made = self.add(metrics=[own], settings=[start])
        self.assertEqual([one["key"] for one in made["metrics"]], ["cameras", "load_held_hot"])
        self.assertEqual({one["unit"] for one in made["metrics"]}, {"cameras"})
        self.assertEqual(made["settings"][0]["label"], "first load")

    def test_a_ladder_has_rungs_and_no_plan_of_loads(self) -> None:
        made = self.add(settings=[{"key": "rungs", "label": "rungs"}])
        self.assertEqual([one["key"] for one in made["settings"]], ["rungs"])
