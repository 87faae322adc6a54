"""Systems and configurations: the same as another but, slots, revisions, observations."""

from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as HypothesisTestCase

from nomothet.server.systems.configurations import add_configuration, change_settings, observe
from nomothet.server.systems.models import Configuration, System
from nomothet.server.systems.states import state_of
from tests.server.base import Browser, steady
from tests.server.setting_up import SLOTS, SettingUp


class SameAs(SettingUp):
    def test_only_the_difference_is_stored_and_told(self) -> None:
        self.assertEqual(self.other.settings, {"memory_mts": 5600})
        shape = self.configuration(self.other.pk)
        self.assertEqual(shape["settings"], {"memory_mts": 5600, "fan_profile": 2})
        told = {change["key"]: (change["before"], change["after"]) for change in shape["changes"]}
        self.assertEqual(told["memory_mts"], ("4800 MT/s", "5600 MT/s"))
        self.assertEqual(set(told), {"memory_mts", "slot A2", "slot B2"})

    def test_a_change_of_the_base_reaches_what_builds_on_it(self) -> None:
        path = f"/api/configurations/{self.base.pk}"
        body = {"settings": {"memory_mts": 4800, "fan_profile": 3}}
        self.assertEqual(self.patch(path, body, 1).status_code, 200)
        self.assertEqual(self.configuration(self.other.pk)["settings"]["fan_profile"], 3)

    def test_a_circle_is_refused(self) -> None:
        path = f"/api/configurations/{self.base.pk}"
        problem = self.problem(self.patch(path, {"base": self.other.pk}, 1), 422)
        self.assertEqual(problem["field"], "base")
        self.assertIn("circle", problem["detail"])

    def test_a_base_of_another_system_is_refused(self) -> None:
        body = {"name": "x", "base": self.scene.configurations[0].pk}
        path = f"/api/systems/{self.heron.pk}/configurations"
        self.assertEqual(self.problem(Browser("tester").send("post", path, body), 422)["field"], "base")

    def test_setting_single_values_stores_what_differs_from_the_base(self) -> None:
        user = self.scene.people["tester"]
        change_settings(user, self.other, {"fan_profile": 3, "power_limit_w": "65 W"})
        self.other.refresh_from_db()
        self.assertEqual(self.other.settings, {"memory_mts": 5600, "fan_profile": 3, "power_limit_w": 65})
        change_settings(user, self.other, {"fan_profile": 2, "memory_mts": None})
        self.other.refresh_from_db()
        self.assertEqual(self.other.settings, {"memory_mts": None, "power_limit_w": 65})

    def test_a_name_is_given_once(self) -> None:
        path = f"/api/systems/{self.heron.pk}/configurations"
        problem = self.problem(Browser("tester").send("post", path, {"name": "as set up"}), 422)
        self.assertEqual(problem["field"], "name")

    def test_a_duplicate_differs_in_nothing(self) -> None:
        made = Browser("tester").send("post", f"/api/configurations/{self.other.pk}/copy").json()
        self.assertEqual((made["name"], made["changes"], made["base"]), ("with the large kit (2)", [], self.other.pk))


class Slots(SettingUp):
    def populate(self, fitted: dict[str, Any], **settings: Any) -> Any:
        body = {"fitted": fitted, "settings": settings}
        return Browser("reader").send("post", f"/api/systems/{self.heron.pk}/populate", body)

    def module(self, number: int = 1) -> dict[str, int]:
        return {"part": self.large.pk, "module": number}

    def test_channels_bandwidth_and_mistakes_are_told_before_anything_is_stored(self) -> None:
        right = self.populate({"slot A2": self.module(1), "slot B2": self.module(2)}, memory_mts=5600).json()
        self.assertEqual((right["channels"], right["peak_gbs"], right["mistakes"]), (2, 89.6, []))
        wrong = self.populate({"slot A1": self.module(1), "slot A2": self.module(2)}).json()
        self.assertEqual((wrong["channels"], wrong["mistakes"][0]["kind"]), (1, "wrong slots"))
        self.assertEqual(wrong["best_slots"], ["A2", "B2"])

    def test_impossible_slots_and_modules_are_refused(self) -> None:
        problem = self.problem(self.populate({"slot C1": self.module()}), 422)
        self.assertEqual((problem["field"], problem["slot"]), ("slots", "C1"))
        for fitted, words in (
            ({"slot A2": self.module(1), "slot B2": self.module(1)}, "at once"),
            ({"slot A2": self.module(3)}, "no module 3"),
            ({"slot A2": {"part": 99_999}}, "not on the shelf"),
            ({"graphics": {"part": self.small.pk}}, "cannot sit at graphics"),
        ):
            with self.subTest(fitted=fitted):
                self.assertIn(words, self.problem(self.populate(fitted), 422)["detail"])

    def test_a_slot_in_use_stays_on_the_map(self) -> None:
        fewer = {**SLOTS, "slots": SLOTS["slots"][:1]}
        problem = self.problem(self.patch(f"/api/systems/{self.heron.pk}", {"slot_map": fewer}, 1), 422)
        self.assertEqual(problem["field"], "slot_map")
        self.assertEqual(len(self.system()["slots"]), 4)

    def test_an_impossible_map_is_refused_with_its_slot(self) -> None:
        double = {**SLOTS, "slots": [*SLOTS["slots"], {"name": "A1", "channel": "A", "fill": 9}]}
        problem = self.problem(self.patch(f"/api/systems/{self.heron.pk}", {"slot_map": double}, 1), 422)
        self.assertEqual(problem["slot"], "A1")

    def test_the_map_grows_with_history(self) -> None:
        more = {**SLOTS, "slots": [*SLOTS["slots"], {"name": "C1", "channel": "C", "fill": 5}]}
        self.assertEqual(self.patch(f"/api/systems/{self.heron.pk}", {"slot_map": more}, 1).status_code, 200)
        event = Browser("reader").json(f"/api/history/system/{self.heron.pk}")[0]
        self.assertEqual((event["act"], event["by"]), ("edited", "Tester"))


class Frozen(SettingUp):
    def setUp(self) -> None:
        super().setUp()
        self.first = self.scene.configurations[0]
        self.path = f"/api/configurations/{self.first.pk}"
        self.fill(0, [60.0])

    def test_with_passes_a_change_makes_a_revision_and_both_stay_readable(self) -> None:
        answer = self.patch(self.path, {"settings": {"power_limit_w": 30, "fan_profile": 2}}, 1)
        made = answer.json()
        self.assertEqual((made["revision"], made["settings"]["power_limit_w"]), (2, 30))
        self.first.refresh_from_db()
        self.assertEqual(self.first.settings["power_limit_w"], 35)
        system = Browser("reader").json(f"/api/systems/{self.scene.system.pk}")
        titles = {one["id"]: (one["title"], one["replaced_by"]) for one in system["configurations"]}
        self.assertEqual(titles[self.first.pk], ("Wren at 35 W", made["id"]))
        self.assertEqual(titles[made["id"]][0], "Wren at 35 W, revision 2")

    def test_a_revised_one_is_changed_at_its_latest_revision(self) -> None:
        self.patch(self.path, {"settings": {"power_limit_w": 30}}, 1)
        problem = self.problem(self.patch(self.path, {"settings": {"power_limit_w": 31}}, 1), 409)
        self.assertIn("revision 2", problem["detail"])

    def test_words_of_a_frozen_one_can_be_changed(self) -> None:
        self.assertEqual(self.patch(self.path, {"note": "loud"}, 1).json()["revision"], 1)

    def test_a_base_is_frozen_by_what_builds_on_it(self) -> None:
        base = Configuration.objects.create(system=self.scene.system, name="root", settings={"fan_profile": 2})
        Configuration.objects.filter(pk=self.first.pk).update(base=base)
        made = self.patch(f"/api/configurations/{base.pk}", {"settings": {"fan_profile": 5}}, 1).json()
        self.assertEqual(made["revision"], 2)
        self.first.refresh_from_db()
        self.assertEqual(state_of(self.first).settings["fan_profile"], 2)

    def test_it_is_archived_and_not_deleted(self) -> None:
        self.problem(Browser("tester").send("delete", self.path), 409)
        self.assertEqual(Browser("tester").send("put", f"{self.path}/archived").status_code, 204)


class Observations(SettingUp):
    def row(self, key: str = "memory_mts") -> dict[str, Any]:
        return next(one for one in self.configuration(self.other.pk)["settings_table"] if one["key"] == key)

    def observe(self, value: object) -> None:
        path = f"/api/configurations/{self.other.pk}/observations"
        answer = Browser("tester").send("post", path, {"key": "memory_mts", "value": value})
        self.assertEqual(answer.status_code, 201, answer.content)

    def test_rated_set_and_observed_stand_beside_each_other(self) -> None:
        self.observe("4800 MT/s")
        row = self.row()
        self.assertEqual((row["rated"], row["value"], row["observed"]), (5600, 5600, 4800))
        self.assertEqual(row["flag"], "observed differs from what was set by more than 5 %")

    def test_half_the_rate_is_the_clock_of_double_data_rate_and_no_flag(self) -> None:
        self.observe(2800)
        self.assertEqual(self.row()["flag"], "")

    def test_set_under_the_rating_is_flagged_before_the_first_pass(self) -> None:
        change_settings(self.scene.people["tester"], self.other, {"memory_mts": 5200})
        self.assertEqual(self.row()["flag"], "set under the rating")

    def test_the_latest_word_counts_whether_a_pass_or_a_person_brings_it(self) -> None:
        self.scene.owe()
        self.bench.deliver(steady(60), environment={"observed": {"power_limit_w": 30.0}})
        system = f"/api/systems/{self.scene.system.pk}"

        def seen() -> Any:
            one = Browser("reader").json(system)["configurations"][0]
            return next(row["observed"] for row in one["settings_table"] if row["key"] == "power_limit_w")

        self.assertEqual(seen(), 30)
        observe(self.scene.people["tester"], self.scene.configurations[0], "power_limit_w", 35)
        self.assertEqual(seen(), 35)

    def test_a_wrong_unit_is_refused(self) -> None:
        path = f"/api/configurations/{self.other.pk}/observations"
        problem = self.problem(Browser("tester").send("post", path, {"key": "memory_mts", "value": "5600 W"}), 422)
        self.assertEqual(problem["field"], "memory_mts")


CHANGES = st.dictionaries(
    st.sampled_from(["power_limit_w", "fan_profile", "image", "background"]), st.integers(1, 4) | st.none(), max_size=4
)


class Chains(HypothesisTestCase):
    @settings(max_examples=25, suppress_health_check=[HealthCheck.too_slow])
    @given(st.lists(CHANGES, min_size=1, max_size=5))
    def test_a_chain_of_configurations_is_what_its_changes_say_in_order(
        self, chain: list[dict[str, int | None]]
    ) -> None:
        system = System.objects.create(key="chain", name="Chain")
        base, expected = None, dict[str, int]()
        for at, changes in enumerate(chain):
            base = add_configuration(None, system, name=f"link {at}", base=base, settings=changes)
            expected = {k: v for k, v in {**expected, **changes}.items() if v is not None}
            self.assertEqual(state_of(base).settings, expected)
