"""The brief: factors, differences and their mending, tests, the plan check and its cost."""

from typing import Any

from nomothet.server.reviews.models import Review
from nomothet.server.shelf.commands import add_price
from nomothet.server.systems.configurations import add_configuration
from nomothet.server.systems.models import Configuration
from tests.server.base import Browser
from tests.server.setting_up import SettingUp


class Planning(SettingUp):
    def setUp(self) -> None:
        super().setUp()
        made = Browser("editor").send("post", "/api/reviews", {"question": "Is the large kit worth it?"}).json()
        self.plan_path = f"/api/reviews/{made['id']}"
        for configuration in (self.base, self.other):
            self.send("post", "/columns", {"configuration": configuration.pk})
        self.send("post", "/tests", {"workload": self.scene.scene.pk, "choices": {}})

    def send(self, method: str, path: str = "", body: object = None, who: str = "editor") -> Any:
        return Browser(who).send(method, f"{self.plan_path}{path}", body, **{"If-Match": "*"})

    @property
    def review(self) -> dict[str, Any]:
        found: dict[str, Any] = Browser("reader").json(self.plan_path)
        return found

    def rows(self) -> dict[str, dict[str, Any]]:
        return {row["key"]: row for row in self.review["differences"]["rows"]}

    def plan(self) -> dict[str, Any]:
        found: dict[str, Any] = Browser("reader").json(f"{self.plan_path}/plan")
        return found

    def codes(self) -> list[str]:
        return [point["code"] for point in self.plan()["points"]]


class Brief(Planning):
    def test_a_review_begins_with_a_question_and_its_expectation_is_stamped(self) -> None:
        self.assertIsNone(self.review["expectation_at"])
        version = self.review["version"]
        answer = self.patch(self.plan_path, {"expectation": "yes"}, version, who="editor").json()
        self.assertIsNotNone(answer["expectation_at"])
        first = answer["expectation_at"]
        same = self.patch(self.plan_path, {"audience": "all"}, answer["version"], who="editor").json()
        self.assertEqual(same["expectation_at"], first)

    def test_out_of_bounds_is_refused_by_its_field(self) -> None:
        for field, value in (("margin", -0.1), ("passes_per_test", 0), ("target_fps", 0), ("expected_effect", 0)):
            with self.subTest(field=field):
                problem = self.problem(
                    self.patch(self.plan_path, {field: value}, self.review["version"], "editor"), 400
                )
                self.assertIn(field, problem["errors"])

    def test_a_copy_has_the_plan_and_none_of_the_passes(self) -> None:
        path = f"/api/reviews/{self.scene.review.pk}"
        self.fill(0, [60.0])
        copy = Browser("editor").send("post", f"{path}/copy").json()
        self.assertEqual(len(copy["columns"]), 2)
        self.assertEqual(len(copy["tests"]), 2)
        self.assertFalse(any(column["has_passes"] for column in copy["columns"]))

    def test_with_passes_a_review_is_archived_and_not_deleted(self) -> None:
        self.fill(0, [60.0])
        path = f"/api/reviews/{self.scene.review.pk}"
        self.problem(Browser("editor").send("delete", path), 409)
        Browser("editor").send("put", f"{path}/archived")
        listed = [one["id"] for one in Browser("reader").json("/api/reviews")]
        self.assertNotIn(self.scene.review.pk, listed)
        self.assertEqual(self.send("delete").status_code, 204)

    def test_where_everything_comes_from_is_told_as_interest(self) -> None:
        self.small.origin, self.small.origin_note = "lent", "by the library"
        self.small.save()
        self.assertEqual(
            self.review["origins"], ["origin not said: Heron; two of 16", "lent: two of 8, by the library"]
        )


class Differences(Planning):
    def test_a_kit_that_is_larger_and_faster_shows_both_under_it(self) -> None:
        rows = self.rows()
        self.assertEqual(rows["memory.kit"]["kind"], "undeclared")
        for key in ("memory.capacity_gb", "memory.rated_mts"):
            self.assertIn("memory.kit", rows[key]["parents"])
        self.assertEqual(self.codes().count("undeclared"), 2)

    def test_declaring_makes_a_factor_with_its_levels(self) -> None:
        answer = self.send("post", "/factors", {"aspects": ["memory.kit", "memory_mts"], "name": "kit"}).json()
        (factor,) = answer["factors"]
        self.assertEqual(factor["levels"], ["two of 8 · 4800 MT/s", "two of 16 · 5600 MT/s"])
        self.assertEqual(answer["columns"][1]["levels"], {"kit": "two of 16 · 5600 MT/s"})
        self.assertNotIn("undeclared", self.codes())
        self.send("delete", "/factors/kit")
        self.assertIn("undeclared", self.codes())

    def test_what_does_not_differ_or_is_declared_already_is_no_factor(self) -> None:
        self.problem(self.send("post", "/factors", {"aspects": ["fan_profile"]}), 422)
        self.send("post", "/factors", {"aspects": ["memory_mts"]})
        self.problem(self.send("post", "/factors", {"aspects": ["memory_mts"], "name": "again"}), 422)

    def test_levels_follow_the_configurations(self) -> None:
        self.send("post", "/factors", {"aspects": ["memory_mts"]})
        self.send("post", "/paste", {"text": "\twith the large kit\nmemory speed\t5200", "store": True})
        self.assertEqual(self.review["factors"][0]["levels"], ["4800 MT/s", "5200 MT/s"])

    def test_a_level_needs_a_configuration_and_a_configuration_a_level(self) -> None:
        first, second = (str(column["id"]) for column in self.review["columns"])
        factor = {"key": "place", "name": "place", "aspects": [], "levels": ["hall", "tent"]}
        for levels, words in (
            ({first: {"place": "hall"}, second: {"place": "hall"}}, "'tent' of place has no configuration"),
            ({first: {"place": "hall"}}, "with the large kit has no level"),
            ({first: {"place": "hall"}, second: {"place": "yard"}}, "no level of it"),
        ):
            with self.subTest(levels=levels):
                problem = self.problem(self.send("put", "/factors", {"factors": [factor], "levels": levels}), 422)
                self.assertEqual(problem["field"], "levels")
                self.assertIn(words, problem["detail"])
        good = {first: {"place": "hall"}, second: {"place": "tent"}}
        self.assertEqual(self.send("put", "/factors", {"factors": [factor], "levels": good}).status_code, 200)
        self.assertEqual(self.review["columns"][1]["levels"], {"place": "tent"})

    def test_a_caveat_is_kept_and_shown_with_who_it_is_between(self) -> None:
        self.problem(self.send("put", "/caveats", {"aspect": "memory_mts", "words": "   "}), 400)
        self.send("put", "/caveats", {"aspect": "memory_mts", "words": "the small kit runs no faster"})
        (caveat,) = self.review["differences"]["caveats"]
        self.assertEqual(set(caveat["values"].values()), {"4800 MT/s", "5600 MT/s"})
        self.assertEqual(self.rows()["memory_mts"]["kind"], "accepted")
        self.send("delete", "/caveats/memory_mts")
        self.assertEqual(self.rows()["memory_mts"]["kind"], "undeclared")

    def test_making_equal_changes_the_others(self) -> None:
        first = self.review["columns"][0]["id"]
        self.send("post", "/equal", {"setting": "memory_mts", "like": first})
        self.assertNotIn("memory_mts", self.rows())
        self.other.refresh_from_db()
        self.assertEqual(self.other.settings, {})

    def test_what_passes_ran_with_is_not_made_equal(self) -> None:
        Configuration.objects.filter(pk=self.scene.configurations[1].pk).update(settings={"power_limit_w": 20})
        self.fill(1, [60.0])
        path = f"/api/reviews/{self.scene.review.pk}/equal"
        body = {"setting": "fan_profile", "like": self.scene.columns[0].pk}
        problem = self.problem(Browser("editor").send("post", path, body), 409)
        self.assertIn("Nothing was changed", problem["detail"])

    def test_a_frozen_configuration_gets_a_revision_where_the_column_is_free(self) -> None:
        self.fill(0, [60.0])
        self.send("post", "/columns", {"configuration": self.scene.configurations[0].pk, "label": "wren"})
        self.send("post", "/paste", {"text": "\twren\nfan profile\t5", "store": True})
        column = next(one for one in self.review["columns"] if one["label"] == "wren")
        self.assertEqual((column["revision"], column["settings"]["fan_profile"]), (2, 5))
        self.assertEqual(Configuration.objects.get(pk=self.scene.configurations[0].pk).settings["fan_profile"], 2)


class Paste(Planning):
    def paste(self, text: str, store: bool = False) -> Any:
        return self.send("post", "/paste", {"text": text, "store": store})

    def test_first_it_says_what_would_change(self) -> None:
        text = "\tas set up\twith the large kit\npower limit (W)\t65\t65\nmemory speed\t\t5200\nfan profile\t-\t"
        told = self.paste(text).json()
        self.assertEqual(
            [(one["column"], one["setting"], one["before"], one["after"]) for one in told["changes"]],
            [
                ("as set up", "power limit", "not set", "65 W"),
                ("as set up", "fan profile", "2", "not set"),
                ("with the large kit", "power limit", "not set", "65 W"),
                ("with the large kit", "memory speed", "5600 MT/s", "5200 MT/s"),
            ],
        )
        self.other.refresh_from_db()
        self.assertEqual(self.other.settings, {"memory_mts": 5600})
        self.paste(text, store=True)
        self.other.refresh_from_db()
        self.assertEqual(self.other.settings["memory_mts"], 5200)

    def test_mistakes_name_their_line_and_change_nothing(self) -> None:
        for text, words in (
            ("\tas set up\nmemory speed\tfast", "Line 2, as set up"),
            ("\tsomewhere\nmemory speed\t5200", "'somewhere' is no configuration"),
            ("memory speed 5200", "Paste a table"),
            ("\tas set up\nmemory speed\t-5", "another unit"),
        ):
            with self.subTest(text=text):
                self.assertIn(words, self.problem(self.paste(text, store=True), 422)["detail"])
        self.base.refresh_from_db()
        self.assertEqual(self.base.settings, {"memory_mts": 4800, "fan_profile": 2})


class Rows(Planning):
    def setUp(self) -> None:
        super().setUp()
        self.scene.suite.settings = [
            {"key": "size", "label": "size", "values": ["small", "large"]},
            {"key": "threads", "label": "threads", "values": [1, 2, 4]},
        ]
        self.scene.suite.save()

    def add(self, **choices: Any) -> Any:
        return self.send("post", "/tests", {"workload": self.scene.suite.pk, "choices": choices})

    def test_several_are_added_at_once_and_doubles_are_left_out(self) -> None:
        self.assertEqual(len(self.add(size=["small", "large"], threads=["1", 4]).json()["tests"]), 5)
        again = self.add(size=["small"], threads=[1, 2]).json()["tests"]
        self.assertEqual(len(again), 6)
        self.assertEqual(again[-1]["settings"], {"size": "small", "threads": 2})
        self.problem(self.add(size=["small"], threads=[1]), 422)

    def test_a_value_outside_is_refused_with_those_allowed(self) -> None:
        problem = self.problem(self.add(size=["huge"]), 422)
        self.assertEqual(problem["field"], "size")
        self.assertIn("small, large", problem["detail"])
        self.assertEqual(self.problem(self.add(colour=["red"]), 422)["field"], "colour")

    def test_order_and_removal(self) -> None:
        tests = [test["id"] for test in self.add(size=["small", "large"]).json()["tests"]]
        turned = self.send("put", "/tests", {"order": tests[::-1]}).json()
        self.assertEqual([test["id"] for test in turned["tests"]], tests[::-1])
        self.problem(self.send("put", "/tests", {"order": tests[:1]}), 422)
        self.assertEqual(len(self.send("delete", f"/tests/{tests[0]}").json()["tests"]), 2)

    def test_what_passes_ran_with_stays(self) -> None:
        self.fill(0, [60.0])
        test, column = self.scene.tests[0].pk, self.scene.columns[0].pk
        path = f"/api/reviews/{self.scene.review.pk}"
        editor = Browser("editor")
        self.problem(editor.send("delete", f"{path}/tests/{test}"), 409)
        self.problem(editor.send("delete", f"{path}/columns/{column}"), 409)
        other = {"configuration": self.base.pk}
        self.problem(editor.send("patch", f"{path}/columns/{column}", other, **{"If-Match": "*"}), 409)
        answer = editor.send("patch", f"{path}/tests/{test}", {"isolates": "graphics"}, **{"If-Match": "*"})
        self.assertEqual(answer.status_code, 200)

    def test_two_who_edit_one_configuration_are_told_apart(self) -> None:
        path, editor = f"/api/reviews/{self.scene.review.pk}", Browser("editor")
        column = editor.json(path)["columns"][0]
        address, tag = f"{path}/columns/{column['id']}", {"If-Match": f'"{column["tag"]}"'}
        self.problem(editor.send("patch", address, {"label": "mine"}), 428)
        self.assertEqual(editor.send("patch", address, {"label": "theirs"}, **tag).status_code, 200)
        told = self.problem(editor.send("patch", address, {"label": "mine"}, **tag), 412)
        self.assertEqual(told["current"]["label"], "theirs")
        fresh = {"If-Match": f'"{told["current"]["tag"]}"'}
        changed = editor.send("patch", address, {"label": "mine"}, **fresh).json()
        self.assertEqual(changed["columns"][0]["label"], "mine")

    def test_two_who_edit_one_test_are_told_apart(self) -> None:
        path, editor = f"/api/reviews/{self.scene.review.pk}", Browser("editor")
        test = editor.json(path)["tests"][0]
        address, tag = f"{path}/tests/{test['id']}", {"If-Match": f'"{test["tag"]}"'}
        self.problem(editor.send("patch", address, {"skip_s": 1}), 428)
        self.assertEqual(editor.send("patch", address, {"skip_s": 2}, **tag).status_code, 200)
        told = self.problem(editor.send("patch", address, {"isolates": "graphics"}, **tag), 412)
        self.assertEqual((told["current"]["skip_s"], told["current"]["isolates"]), (2.0, test["isolates"]))
        fresh = {"If-Match": f'"{told["current"]["tag"]}"'}
        changed = editor.send("patch", address, {"isolates": "graphics"}, **fresh).json()["tests"][0]
        self.assertEqual((changed["skip_s"], changed["isolates"]), (2.0, "graphics"))

    def test_two_who_set_all_factors_are_told_apart(self) -> None:
        path, editor = f"/api/reviews/{self.scene.review.pk}", Browser("editor")
        before = editor.json(path)
        columns = [column["id"] for column in before["columns"]]
        tag = {"If-Match": f'"{before["factors_tag"]}"'}

        def naming(*names: str) -> dict[str, object]:
            factors = [{"key": name, "name": name, "aspects": [], "levels": ["in", "out"]} for name in names]
            levels = {str(pk): dict.fromkeys(names, ("in", "out")[at % 2]) for at, pk in enumerate(columns)}
            return {"factors": factors, "levels": levels}

        self.problem(editor.send("put", f"{path}/factors", naming("hall")), 428)
        saved = editor.send("put", f"{path}/factors", naming("hall"), **tag).json()
        told = self.problem(editor.send("put", f"{path}/factors", naming("day"), **tag), 412)
        self.assertEqual([one["name"] for one in told["current"]["factors"]], ["hall"])
        fresh = {"If-Match": f'"{saved["factors_tag"]}"'}
        both = editor.send("put", f"{path}/factors", naming("hall", "day"), **fresh).json()
        self.assertEqual([one["name"] for one in both["factors"]], ["hall", "day"])

    def test_columns_are_ordered_and_the_baseline_passes_on(self) -> None:
        columns = [column["id"] for column in self.review["columns"]]
        turned = self.send("put", "/columns", {"order": columns[::-1]}).json()["columns"]
        self.assertEqual([(one["id"], one["position"]) for one in turned], [(columns[1], 0), (columns[0], 1)])
        left = self.send("delete", f"/columns/{columns[0]}").json()["columns"]
        self.assertEqual([one["is_baseline"] for one in left], [True])
        self.problem(self.send("post", "/columns", {"configuration": self.other.pk}), 422)


class PlanCheck(Planning):
    def test_a_plan_is_always_checked_as_it_stands(self) -> None:
        self.assertEqual(set(self.codes()), {"undeclared", "factor", "expectation", "return"})
        self.send("post", "/factors", {"aspects": ["memory.kit", "memory_mts"], "name": "kit"})
        edit = {"expectation": "yes", "returns_to_baseline": True}
        self.patch(self.plan_path, edit, self.review["version"], "editor")
        self.assertEqual(self.codes(), [])

    def test_factors_that_change_together_stop_the_plan(self) -> None:
        self.send("post", "/factors", {"aspects": ["memory.kit"]})
        self.send("post", "/factors", {"aspects": ["memory_mts"]})
        point = self.plan()["points"][0]
        self.assertEqual((point["code"], point["severity"]), ("confounded", "stops"))
        add = {"name": "large, slow", "base": self.other.pk, "settings": {"memory_mts": 4800}}
        made = Browser("tester").send("post", f"/api/systems/{self.heron.pk}/configurations", add).json()
        self.send("post", "/columns", {"configuration": made["id"]})
        self.assertNotIn("confounded", self.codes())

    def test_noise_on_record_says_how_many_passes_are_needed(self) -> None:
        self.fill(0, [60.0, 66.0, 54.0, 61.0])
        self.fill(1, [60.0, 55.0, 65.0, 60.0])
        point = next(point for point in self.plan()["points"] if point["code"] == "passes")
        self.assertGreater(point["about"]["passes"], 3)
        self.assertIn("vary by", point["words"])

    def test_a_price_is_asked_for_until_every_part_has_one(self) -> None:
        self.patch(self.plan_path, {"asks_price": True}, self.review["version"], "editor")
        self.assertEqual(self.codes().count("price"), 2)
        fields: dict[str, Any] = {"amount": 40, "currency": "EUR", "on": "2026-02-01", "basis": "paid"}
        from datetime import date
        from decimal import Decimal

        add_price(None, self.small, **{**fields, "amount": Decimal(40), "on": date(2026, 2, 1)})
        self.assertEqual(self.codes().count("price"), 1)

    def test_wrong_slots_and_blocked_configurations_are_told(self) -> None:
        wrong = add_configuration(
            None,
            self.heron,
            name="one channel",
            base=self.base,
            fitted={"slot B2": None, "slot A1": {"part": self.small.pk, "module": 2}},
        )
        blocked = add_configuration(None, self.heron, name="long card", base=self.base, blocked="it does not fit")
        for configuration in (wrong, blocked):
            self.send("post", "/columns", {"configuration": configuration.pk})
        points = {point["code"]: point["words"] for point in self.plan()["points"]}
        self.assertIn("only 1 channel of 2", points["slots"])
        self.assertIn("it does not fit", points["blocked"])

    def test_a_requirement_is_held_against_each_configuration(self) -> None:
        self.scene.scene.requirements = [
            {"aspect": "memory.capacity_gb", "label": "main memory", "least": 24, "unit": "GB"}
        ]
        self.scene.scene.save()
        points = [point["words"] for point in self.plan()["points"] if point["code"] == "requirement"]
        self.assertEqual(len(points), 1)
        self.assertIn("as set up has 16", points[0])

    def test_the_cost_counts_what_is_still_to_run_and_to_change(self) -> None:
        cost = self.plan()["cost"]
        self.assertEqual((cost["passes"], cost["openings"], cost["firmware"]), (6, 1, 1))
        self.assertEqual(cost["running_s"], 6 * (120 + 20))
        review = Review.objects.get(pk=self.review["id"])
        self.scene.scene.duration_s = 60
        self.scene.scene.save()
        self.assertEqual(self.plan()["cost"]["running_s"], 6 * 80)
        # The kit's two modules, the slots they sit in and the memory speed: three things beside one opening.
        self.assertEqual(cost["changing_s"], 15 * 60 + 4 * 60 + 3 * 60)
        self.assertEqual(review.passes_per_test, 3)
