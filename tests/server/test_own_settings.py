"""Settings of a team's own, bundles of settings, several parts of a kind, and the configuration that a plan lacks."""

from typing import Any
from urllib.parse import quote

from django.utils import timezone

from nomothet.server.shelf.commands import add_part
from nomothet.server.shelf.models import Part, Price
from nomothet.server.systems.configurations import add_configuration
from nomothet.server.systems.models import Configuration
from nomothet.server.systems.states import state_of
from tests.server.base import Browser
from tests.server.setting_up import SettingUp
from tests.server.test_plan import Planning

GAME_MODE = {"label": "Game mode", "kind": "choice", "touches": "graphics", "made_in": "restart"}


class Defining(SettingUp):
    def define(self, who: str = "tester", **more: Any) -> Any:
        body = {**GAME_MODE, "choices": ["off", "on"], "verify": "the menu says so", **more}
        return Browser(who).send("post", "/api/settings", body)

    def known(self, label: str) -> dict[str, Any]:
        return next(one for one in Browser("reader").json("/api/settings") if one["label"] == label)

    def configure(self, settings: dict[str, object], name: str = "tried") -> Any:
        path = f"/api/systems/{self.heron.pk}/configurations"
        return Browser("tester").send("post", path, {"name": name, "base": self.base.pk, "settings": settings})

    def test_it_is_known_from_then_on_with_all_that_was_said(self) -> None:
        self.assertEqual(self.define().status_code, 201)
        known = self.known("Game mode")
        told = {key: known[key] for key in ("choices", "touches", "restart", "where", "verify", "own")}
        self.assertEqual(
            told,
            {
                "choices": ["off", "on"],
                "touches": "graphics",
                "restart": True,
                "where": "system",
                "verify": "the menu says so",
                "own": True,
            },
        )

    def test_its_values_are_held_to_their_kind(self) -> None:
        key = self.define().json()["key"]
        problem = self.problem(self.configure({key: "sometimes"}), 422)
        self.assertIn("off, on", problem["detail"])
        self.assertEqual(self.configure({key: "on"}).json()["settings"][key], "on")
        refresh = self.define(label="refresh", kind="whole", touches="memory", made_in="firmware", unit="cycles").json()
        self.assertEqual(self.problem(self.configure({refresh["key"]: "1.5"}, "half"), 422)["field"], refresh["key"])
        made = self.configure({refresh["key"]: "48 cycles"}, "steady").json()
        self.assertEqual(made["settings"][refresh["key"]], 48)

    def test_a_label_is_given_once_also_to_the_catalogue(self) -> None:
        self.define()
        for label in ("game mode", "Memory speed"):
            with self.subTest(label=label):
                self.assertEqual(self.problem(self.define(label=label), 422)["field"], "label")
        self.problem(self.define(label="mode_of"), 400)
        self.assertEqual(self.problem(self.define(label="mode", choices=["on"]), 422)["field"], "choices")

    def test_a_reader_defines_nothing(self) -> None:
        self.problem(self.define("reader"), 403)

    def test_the_steps_tell_the_restart_and_how_it_is_seen(self) -> None:
        key = self.define().json()["key"]
        made = Configuration.objects.get(pk=self.configure({key: "on"}).json()["id"])
        self.heron.present = self.base
        self.heron.save()
        review = Browser("editor").send("post", "/api/reviews", {"question": "Does it help?"}).json()["id"]
        path = f"/api/reviews/{review}"
        Browser("editor").send("post", f"{path}/columns", {"configuration": made.pk})
        Browser("editor").send("post", f"{path}/tests", {"workload": self.scene.scene.pk, "choices": {}})
        shape = Browser("reader").json(path)
        asked = {"tests": [shape["tests"][0]["id"]], "columns": [shape["columns"][0]["id"]], "passes": 1}
        Browser("tester").send("post", f"{path}/docket", asked)
        visit = Browser("tester").json(f"/api/systems/{self.heron.pk}/docket")["visits"][0]
        words = [step["words"] for step in visit["steps"]]
        self.assertIn("Set Game mode to on. To be seen: the menu says so.", words)
        self.assertIn("Restart, so that Game mode takes effect.", words)

    def test_values_that_the_team_used_are_offered_the_most_frequent_first(self) -> None:
        for name, speed in (("a", 5200), ("b", 6000), ("c", 6000)):
            self.configure({"memory_mts": speed}, name)
        self.assertEqual(self.known("memory speed")["used"][0], 6000)

    def test_a_definition_in_use_stays(self) -> None:
        key = self.define().json()["key"]
        made = self.configure({key: "on"}).json()
        problem = self.problem(Browser("tester").send("delete", f"/api/settings/{quote(key)}"), 409)
        self.assertIn("tried", problem["detail"])
        Browser("tester").send("delete", f"/api/configurations/{made['id']}")
        self.assertEqual(Browser("tester").send("delete", f"/api/settings/{quote(key)}").status_code, 204)


TUNING = {"memory_mts": 6000, "memory_cas": 30, "memory_voltage_v": 1.35}


class Bundles(Planning):
    def keep(self, **more: Any) -> Any:
        body = {"family": "memory tuning", "name": "tight", "settings": TUNING, **more}
        return Browser("tester").send("post", "/api/bundles", body)

    def test_a_bundle_is_read_like_settings_and_named_once(self) -> None:
        refused = self.keep(settings={**TUNING, "memory_mts": "6 W"})
        self.problem(refused, 422)
        self.assertEqual(self.keep().json()["settings"], TUNING)
        self.problem(self.keep(name="Tight"), 422)
        self.problem(self.keep(name="none", settings={}), 422)

    def test_settings_of_a_test_are_a_bundle_of_their_workload(self) -> None:
        made = self.keep(workload="reef-walk", family="picture", name="high", settings={"shadows": "low"}).json()
        self.assertEqual((made["workload"], made["settings"]), ("reef-walk", {"shadows": "low"}))

    def test_a_factor_of_several_settings_is_called_by_the_bundle(self) -> None:
        self.keep()
        tuned = add_configuration(None, self.heron, name="tuned", base=self.base, settings=TUNING)
        column = self.send("post", "/columns", {"configuration": tuned.pk}).json()["columns"][-1]
        aspects = list(TUNING)
        declared = self.send("post", "/factors", {"aspects": aspects, "name": "memory tuning"}).json()
        level = next(one for one in declared["columns"] if one["id"] == column["id"])["levels"]["memory_tuning"]
        self.assertEqual(level, "tight (6000 MT/s · 30 cycles · 1.35 V)")
        other = declared["columns"][0]["levels"]["memory_tuning"]
        self.assertEqual(other, "4800 MT/s · not set · not set")

    def test_forgetting_a_bundle_leaves_what_was_set(self) -> None:
        made = self.keep().json()
        tuned = add_configuration(None, self.heron, name="tuned", base=self.base, settings=TUNING)
        self.assertEqual(Browser("tester").send("delete", f"/api/bundles/{made['id']}").status_code, 204)
        self.assertEqual(state_of(tuned).settings["memory_cas"], 30)


class MissingConfiguration(Planning):
    """A chain of three steps: as set up, memory tuned, processor tuned on top of it."""

    def setUp(self) -> None:
        super().setUp()
        for column in self.review["columns"]:
            if column["configuration_id"] == self.other.pk:
                self.send("delete", f"/columns/{column['id']}")
        first = add_configuration(None, self.heron, name="memory", base=self.base, settings=TUNING)
        both = add_configuration(None, self.heron, name="both", base=first, settings={"processor_clock_mhz": 5200})
        for one in (first, both):
            self.send("post", "/columns", {"configuration": one.pk})
        self.send("post", "/factors", {"aspects": list(TUNING), "name": "memory tuning"})
        self.send("post", "/factors", {"aspects": ["processor_clock_mhz"], "name": "processor clock"})

    def point(self, code: str) -> dict[str, Any]:
        return next(point for point in self.plan()["points"] if point["code"] == code)

    def test_a_bundle_counts_as_one_thing(self) -> None:
        self.assertNotIn("confounded", self.codes())

    def test_the_step_that_was_never_made_alone_is_named_and_added_by_one_act(self) -> None:
        point = self.point("stacked")
        self.assertIn("processor clock 5200 MHz alone, all else as on as set up", point["words"])
        self.assertEqual(point["mend"], "combination")
        (missing,) = point["about"]["combinations"]
        answer = self.send("post", "/combination", missing).json()
        made = Configuration.objects.get(pk=answer["columns"][-1]["configuration_id"])
        self.assertEqual(made.settings, {"processor_clock_mhz": 5200})
        self.assertEqual(made.base_id, self.base.pk)
        self.assertNotIn("stacked", self.codes())

    def test_what_changes_only_together_names_what_would_part_it(self) -> None:
        column = self.review["columns"][1]
        self.send("delete", f"/columns/{column['id']}")
        point = self.point("confounded")
        self.assertIn("Missing: memory tuning", point["words"])
        for missing in point["about"]["combinations"][:1]:
            self.send("post", "/combination", missing)
        self.assertNotIn("confounded", self.codes())

    def test_another_machine_is_for_people_to_add(self) -> None:
        column = self.review["columns"][0]["id"]
        body = {"factor": "nobody", "like": column}
        self.problem(self.send("post", "/combination", body), 422)
        self.problem(self.send("post", "/combination", {"factor": "memory_tuning", "like": column}, who="tester"), 403)


class SeveralParts(SettingUp):
    def setUp(self) -> None:
        super().setUp()
        self.drives = [
            add_part(
                None,
                kind="storage",
                name=name,
                attributes=[{"key": "capacity_gb", "value": size, "source": "label"}],
            )
            for name, size in (("slab 500", 500), ("slab 2000", 2000))
        ]

    def build(self, fitted: dict[str, Part], name: str = "two drives") -> Any:
        given = {place: {"part": part.pk} for place, part in fitted.items()}
        path = f"/api/systems/{self.heron.pk}/configurations"
        return Browser("tester").send("post", path, {"name": name, "base": self.base.pk, "fitted": given})

    def test_a_second_drive_sits_at_a_place_of_its_own(self) -> None:
        made = self.build({"storage": self.drives[0], "storage 2": self.drives[1]}).json()
        labels = {fit["place"]: fit["label"] for fit in made["fitted"]}
        self.assertEqual(labels["storage 2"], "storage 2")
        self.assertEqual(
            {change["label"]: change["after"] for change in made["changes"]},
            {"storage": "slab 500", "storage 2": "slab 2000"},
        )

    def test_only_its_kind_sits_there_and_a_board_is_one(self) -> None:
        self.assertEqual(self.problem(self.build({"storage 2": self.small}), 422)["field"], "storage 2")
        board = add_part(None, kind="board", name="slate", attributes=[])
        made = self.build({"board 2": board}, "odd").json()
        self.assertEqual(made["fitted"][-1]["label"], "board 2")

    def test_the_second_is_a_difference_of_its_own(self) -> None:
        made = self.build({"storage": self.drives[0], "storage 2": self.drives[1]}).json()
        path = f"/api/reviews/{Browser('editor').send('post', '/api/reviews', {'question': 'Two?'}).json()['id']}"
        for pk in (self.base.pk, made["id"]):
            Browser("editor").send("post", f"{path}/columns", {"configuration": pk})
        rows = {row["key"]: row for row in Browser("reader").json(path)["differences"]["rows"]}
        self.assertEqual(rows["part.storage 2"]["label"], "storage 2")
        self.assertEqual(rows["part.storage 2.capacity_gb"]["parents"], ["part.storage 2", "system"])


class FittingInTheBrief(Planning):
    def fit(self, place: str, parts: dict[int, int | None], who: str = "editor") -> Any:
        return self.send("put", "/fitted", {"place": place, "parts": parts}, who=who)

    def columns(self) -> list[int]:
        return [column["id"] for column in self.review["columns"]]

    def test_a_part_is_fitted_on_all_or_emptied(self) -> None:
        slab = add_part(None, kind="storage", name="slab", attributes=[])
        first, second = self.columns()
        self.assertEqual(self.fit("storage", {first: slab.pk, second: slab.pk}).status_code, 200)
        self.assertNotIn("part.storage", self.rows())
        self.fit("storage", {second: None})
        row = self.rows()["part.storage"]
        self.assertEqual((row["values"][str(first)], row["values"][str(second)]), ("slab", None))

    def test_a_kit_goes_into_the_slots_that_are_filled_first(self) -> None:
        first, _ = self.columns()
        self.fit("memory_kit", {first: self.large.pk})
        slots = {slot: (fit.part.pk, fit.module) for slot, fit in state_of(self.base).slots.items()}
        self.assertEqual(slots, {"A2": (self.large.pk, 1), "B2": (self.large.pk, 2)})

    def test_what_cannot_be_is_refused_and_nothing_is_changed(self) -> None:
        first, second = self.columns()
        many = add_part(
            None, kind="memory_kit", name="eight", attributes=[{"key": "modules", "value": 8, "source": "label"}]
        )
        self.problem(self.fit("memory_kit", {first: self.large.pk, second: many.pk}), 422)
        self.assertEqual(state_of(self.base).slots["A2"].part, self.small)
        self.problem(self.fit("storage", {first: self.small.pk}), 422)
        self.problem(self.fit("storage", {first: 10**6}), 422)
        self.problem(self.fit("storage", {first: None}, who="tester"), 403)


class PastedParts(SettingUp):
    TABLE = "name\tcapacity (GB)\tcolour\nslab 500\t500\tgrey\nslab 2000\t2 TB\t\n"

    def paste(self, text: str, store: bool = False, who: str = "tester", kind: str = "storage") -> Any:
        body = {"kind": kind, "text": text, "source": "label", "store": store}
        return Browser(who).send("post", "/api/parts/pasted", body)

    def test_looking_stores_nothing_and_storing_all(self) -> None:
        looked = self.paste(self.TABLE).json()
        self.assertEqual([part["name"] for part in looked["parts"]], ["slab 500", "slab 2000"])
        self.assertIn("capacity 2048 GB", looked["parts"][1]["facts"])
        self.assertFalse(Part.objects.filter(kind="storage").exists())
        self.assertEqual(self.paste(self.TABLE, store=True).json()["stored"], 2)
        slab = Part.objects.get(kind="storage", name="slab 500")
        self.assertEqual((slab.value("capacity_gb"), slab.value("colour")), (500, "grey"))

    def test_what_is_there_stays_as_it_is(self) -> None:
        self.paste(self.TABLE, store=True)
        again = self.paste(self.TABLE.replace("grey", "blue") + "slab 4000\t4000\t", store=True).json()
        self.assertEqual((again["stored"], [part["there"] for part in again["parts"]]), (1, [True, True, False]))
        self.assertEqual(Part.objects.get(kind="storage", name="slab 500").value("colour"), "grey")

    def test_a_wrong_line_is_named_and_nothing_is_added(self) -> None:
        for line, words in (
            ("slab 1\t-4\t", "capacity"),
            ("\t500\t", "no name"),
            ("slab 500\t500\t", "there twice"),
            ("slab 9\t500 W\t", "capacity"),
        ):
            with self.subTest(line=line):
                text = self.TABLE + line
                self.assertIn(words, self.paste(text).json()["parts"][2]["problem"])
                problem = self.problem(self.paste(text, store=True), 422)
                self.assertIn("Line 4", problem["detail"])
                self.assertFalse(Part.objects.filter(kind="storage").exists())

    def test_prices_are_of_today_with_their_basis(self) -> None:
        text = "name\tprice (EUR)\tbasis\tcapacity\nslab 500\t38,50\tused\t500 GB\nslab 1000\t€ 61\t\t1000 GB"
        self.paste(text, store=True)
        prices = {one.part.name: (float(one.amount), one.basis, one.currency) for one in Price.objects.all()}
        self.assertEqual(prices, {"slab 500": (38.5, "used", "EUR"), "slab 1000": (61.0, "street", "EUR")})
        self.assertEqual(Price.objects.first().on, timezone.localdate())  # type: ignore[union-attr]
        for cells, words in (("slab 9\t40 CHF\t\t1", "no price"), ("slab 9\t40\tguessed\t1", "no basis")):
            self.assertIn(words, self.paste(f"{text}\n{cells}").json()["parts"][2]["problem"])

    def test_a_table_without_names_says_what_it_wants(self) -> None:
        self.assertIn("name", self.problem(self.paste("capacity\n500"), 422)["detail"])
        self.problem(self.paste("", who="tester"), 400)
        self.problem(self.paste(self.TABLE, who="reader"), 403)
