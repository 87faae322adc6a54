"""The docket of a system: order, change steps, ticks, what stops it and the ways on."""

from typing import Any

from nomothet.server.docket.commands import ask_for_passes
from nomothet.server.docket.models import Changeover, Entry
from nomothet.server.reviews.models import Review
from nomothet.server.systems.configurations import add_configuration
from nomothet.server.systems.models import System
from tests.server.base import BenchClient, Browser
from tests.server.setting_up import SettingUp


class Work(SettingUp):
    def setUp(self) -> None:
        super().setUp()
        from nomothet.server.systems.commands import issue_demo_token

        self.heron_bench = BenchClient(issue_demo_token(self.heron))
        made = Browser("editor").send("post", "/api/reviews", {"question": "Is the large kit worth it?"}).json()
        self.plan_path = f"/api/reviews/{made['id']}"
        self.plan = Review.objects.get(pk=made["id"])
        for configuration in (self.base, self.other):
            Browser("editor").send("post", f"{self.plan_path}/columns", {"configuration": configuration.pk})
        body = {"workload": self.scene.scene.pk, "choices": {}}
        Browser("editor").send("post", f"{self.plan_path}/tests", body)

    def owe(self, count: int = 2) -> None:
        tests = list(self.plan.tests.values_list("pk", flat=True))
        columns = list(self.plan.columns.values_list("pk", flat=True))
        ask_for_passes(self.scene.people["tester"], self.plan, tests, columns, count)

    def docket(self) -> dict[str, Any]:
        found: dict[str, Any] = Browser("reader").json(f"/api/systems/{self.heron.pk}/docket")
        return found

    def send(self, method: str, path: str, body: object = None, who: str = "tester") -> Any:
        return Browser(who).send(method, path, body)

    def begin(self) -> dict[str, Any]:
        visit: dict[str, Any] = self.send("post", f"/api/systems/{self.heron.pk}/changeovers").json()["visits"][0]
        return visit

    def tick(self, changeover: int, key: str, observed: object = None) -> Any:
        return self.send("put", f"/api/changeovers/{changeover}/ticks", {"key": key, "observed": observed})

    def tick_all(self) -> None:
        visit = self.begin()
        for step in visit["steps"]:
            self.assertEqual(self.tick(visit["changeover"], step["key"]).status_code, 200)


class Order(Work):
    def test_the_baseline_is_first_and_again_at_the_end_where_that_is_wanted(self) -> None:
        Review.objects.filter(pk=self.plan.pk).update(returns_to_baseline=True)
        self.owe(3)
        shape = self.docket()
        self.assertEqual(
            [visit["title"] for visit in shape["visits"]], ["as set up", "with the large kit", "as set up"]
        )
        counts = [sum(len(group["entries"]) for group in visit["groups"]) for visit in shape["visits"]]
        self.assertEqual(counts, [2, 3, 1])
        self.assertEqual((shape["openings"], shape["fewest_openings"], shape["exact"]), (2, 2, True))

    def test_the_order_is_chosen_and_moved_by_hand(self) -> None:
        self.owe(2)
        path = f"/api/systems/{self.heron.pk}/docket"
        balanced = self.send("put", path, {"mode": "balanced"}).json()
        self.assertEqual(
            [visit["title"] for visit in balanced["visits"]], ["as set up", "with the large kit", "as set up"]
        )
        by_hand = self.send("put", path, {"mode": "by hand", "by_hand": [self.other.pk, self.base.pk]}).json()
        self.assertEqual([visit["title"] for visit in by_hand["visits"]], ["with the large kit", "as set up"])
        shuffles = [self.send("put", path, {"mode": "shuffled", "seed": seed}).json()["visits"] for seed in (4, 4)]
        self.assertEqual(*[[visit["title"] for visit in one] for one in shuffles])
        self.problem(self.send("put", path, {"mode": "backwards"}), 400)
        self.assertEqual(sum(len(g["entries"]) for v in self.docket()["visits"] for g in v["groups"]), 4)

    def test_steps_name_slots_and_put_the_memory_profile_back(self) -> None:
        System.objects.filter(pk=self.heron.pk).update(present=self.base)
        same_speed = add_configuration(
            None,
            self.heron,
            name="large, same speed",
            base=self.base,
            fitted={"slot A2": {"part": self.large.pk, "module": 1}, "slot B2": {"part": self.large.pk, "module": 2}},
        )
        Browser("editor").send("post", f"{self.plan_path}/columns", {"configuration": same_speed.pk})
        column = self.plan.columns.get(configuration=same_speed)
        ask_for_passes(self.scene.people["tester"], self.plan, [self.plan.tests.get().pk], [column.pk], 1)
        (visit,) = self.docket()["visits"]
        words = [step["words"] for step in visit["steps"]]
        self.assertIn("Take module 1 of 2, two of 8 out of slot A2.", words)
        self.assertIn("Put module 2 of 2, two of 16 into slot B2.", words)
        self.assertIn("Put memory speed back to 4800 MT/s: the exchange has reset it.", words)
        self.assertTrue(visit["opens"])
        self.assertIn("safety", [step["kind"] for step in visit["steps"]])

    def test_passes_of_a_blocked_configuration_wait_apart_and_no_more_are_owed(self) -> None:
        self.owe(1)
        self.other.blocked = "the kit is not recognised"
        self.other.save()
        shape = self.docket()
        self.assertEqual([visit["title"] for visit in shape["visits"]], ["as set up"])
        self.assertEqual([group["label"] for group in shape["blocked"]], ["with the large kit"])
        body = {
            "tests": list(self.plan.tests.values_list("pk", flat=True)),
            "columns": list(self.plan.columns.values_list("pk", flat=True)),
            "passes": 1,
        }
        problem = self.problem(self.send("post", f"{self.plan_path}/docket", body), 422)
        self.assertIn("not recognised", problem["detail"])


class Changing(Work):
    def test_nothing_runs_until_the_steps_are_ticked(self) -> None:
        self.owe(1)
        self.assertEqual(self.heron_bench.take()[1], {})
        visit = self.begin()
        self.assertEqual(visit["title"], "as set up")
        for step in visit["steps"][:-1]:
            self.tick(visit["changeover"], step["key"])
        self.assertEqual(self.heron_bench.take()[1], {})
        last = self.tick(visit["changeover"], visit["steps"][-1]["key"]).json()
        self.assertEqual(last["present"], "as set up")
        job = self.heron_bench.take()[1]
        self.assertEqual(
            job["configuration"], {"name": "as set up", "settings": {"memory_mts": 4800, "fan_profile": 2}}
        )

    def test_a_tick_has_its_time_and_person_and_is_taken_back(self) -> None:
        self.owe(1)
        visit = self.begin()
        key = visit["steps"][0]["key"]
        ticked = self.tick(visit["changeover"], key).json()["visits"][0]["steps"][0]["tick"]
        self.assertEqual((ticked["by"], ticked["agrees"]), ("Tester", True))
        back = self.send("delete", f"/api/changeovers/{visit['changeover']}/ticks/{key}").json()
        self.assertIsNone(back["visits"][0]["steps"][0]["tick"])
        self.problem(self.tick(visit["changeover"], "no such step"), 422)

    def test_beginning_twice_goes_on_with_the_same_change(self) -> None:
        self.owe(1)
        self.assertEqual(self.begin()["changeover"], self.begin()["changeover"])
        self.assertEqual(Changeover.objects.count(), 1)

    def test_nothing_owed_or_nothing_to_change_is_said(self) -> None:
        path = f"/api/systems/{self.heron.pk}/changeovers"
        self.assertIn("Nothing is owed", self.problem(self.send("post", path), 409)["detail"])
        self.owe(1)
        self.tick_all()
        self.assertIn("already", self.problem(self.send("post", path), 409)["detail"])

    def test_what_is_read_off_holds_the_change_up_until_it_agrees(self) -> None:
        self.owe(1)
        visit = self.begin()
        step = next(step for step in visit["steps"] if step["asks"] == "memory_mts")
        told = self.tick(visit["changeover"], step["key"], "4000").json()
        tick = next(one for one in told["visits"][0]["steps"] if one["key"] == step["key"])["tick"]
        self.assertEqual((tick["observed"], tick["agrees"]), (4000, False))
        for other in visit["steps"]:
            if other["key"] != step["key"]:
                self.tick(visit["changeover"], other["key"])
        self.assertEqual(self.docket()["present"], "")
        # The tool shows the clock of double data rate: half of what is set.
        self.tick(visit["changeover"], step["key"], "2400")
        self.assertEqual(self.docket()["present"], "as set up")

    def test_a_change_is_broken_off_and_the_machine_is_then_unknown(self) -> None:
        System.objects.filter(pk=self.heron.pk).update(present=self.other)
        Entry.objects.all().delete()
        column = self.plan.columns.get(configuration=self.base)
        ask_for_passes(self.scene.people["tester"], self.plan, [self.plan.tests.get().pk], [column.pk], 1)
        visit = self.begin()
        self.tick(visit["changeover"], visit["steps"][0]["key"])
        self.send("delete", f"/api/changeovers/{visit['changeover']}")
        shape = self.docket()
        self.assertEqual((shape["present"], shape["visits"][0]["changeover"]), ("", None))
        self.assertEqual({step["kind"] for step in shape["visits"][0]["steps"]}, {"check", "firmware"})

    def test_the_bench_ticks_the_checks_that_it_can_answer(self) -> None:
        self.heron.checks = [
            {"key": "cool", "words": "It is cool.", "reading": "temperature", "at_most": 45, "unit": "°C"},
            {"key": "door", "words": "The door is open."},
        ]
        self.heron.save()
        self.owe(1)
        visit = self.begin()
        hot = self.problem(self.tick(visit["changeover"], "check:cool", "61"), 409)
        self.assertIn("45 °C at most", hot["detail"])
        pass_id = "0" * 8 + "-0000-4000-8000-" + "0" * 12
        self.heron_bench.send("post", "/next", {"pass_id": pass_id, "readings": {"temperature": 51.0}})
        cool = {one["key"]: one for one in self.docket()["visits"][0]["steps"]}["check:cool"]
        self.assertEqual((cool["tick"], cool["told"]), (None, 51.0))
        self.heron_bench.send("post", "/next", {"pass_id": pass_id, "readings": {"temperature": 41.0}})
        ticks = {one["key"]: one["tick"] for one in self.docket()["visits"][0]["steps"]}
        self.assertEqual((ticks["check:cool"]["by"], ticks["check:door"]), ("the bench", None))

    def test_a_bench_that_changes_its_machine_itself_waits_for_nobody(self) -> None:
        System.objects.filter(pk=self.heron.pk).update(changes_by="bench")
        self.owe(1)
        self.assertEqual(self.heron_bench.take()[1]["configuration"]["name"], "as set up")
        self.heron.refresh_from_db()
        self.assertEqual(self.heron.present_id, self.base.pk)


class Stopped(Work):
    def setUp(self) -> None:
        super().setUp()
        System.objects.filter(pk=self.heron.pk).update(present=self.base)
        self.owe(1)
        self.observed = f"/api/configurations/{self.base.pk}/observations"
        self.send("post", self.observed, {"key": "memory_mts", "value": 4000})

    def test_a_mismatch_stops_the_docket_with_its_reason_and_ways_on(self) -> None:
        hold = self.docket()["hold"]
        self.assertEqual((hold["key"], hold["wanted"], hold["observed"]), ("memory_mts", 4800, 4000))
        self.assertIn("4000 MT/s was observed", hold["words"])
        self.assertEqual(len(hold["ways"]), 3)
        self.assertEqual(self.heron_bench.take()[1], {})

    def test_reading_it_again_lets_it_go_on(self) -> None:
        self.send("post", self.observed, {"key": "memory_mts", "value": 4800})
        self.assertIsNone(self.docket()["hold"])
        self.assertEqual(self.heron_bench.take()[1]["configuration"]["name"], "as set up")

    def test_going_on_with_a_reason_holds_for_this_value_only(self) -> None:
        path = f"/api/systems/{self.heron.pk}/releases"
        body = {"configuration": self.base.pk, "key": "memory_mts", "observed": 4000, "words": "as fast as it gets"}
        self.problem(self.send("post", path, {**body, "words": " "}), 400)
        self.assertIsNone(self.send("post", path, body).json()["hold"])
        self.send("post", self.observed, {"key": "memory_mts", "value": 3200})
        self.assertEqual(self.docket()["hold"]["observed"], 3200)

    def test_a_system_that_only_flags_goes_on(self) -> None:
        System.objects.filter(pk=self.heron.pk).update(on_mismatch="flag")
        self.assertIsNone(self.docket()["hold"])
        self.assertNotEqual(self.heron_bench.take()[1], {})
