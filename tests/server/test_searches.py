"""Load searches: by a bench, by hand, stopped and gone on with."""

import json
from typing import Any

from nomothet.server.docket.commands import ask_for_passes
from nomothet.server.docket.models import Entry
from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Test
from nomothet.server.workloads.models import Workload
from tests.server.base import BenchClient, Browser, SceneTest, manifest

LOAD = {"key": "cameras", "label": "cameras held", "unit": "cameras", "direction": "higher", "scale": "ratio"}


def attempts(*outcomes: tuple[int, bool]) -> list[dict[str, Any]]:
    use = {"processor use": {"mean": 40.0, "capacity": 100}}
    return [
        {"load": load, "holds": holds, "use": {**use, "processor use": {"mean": 10.0 * load, "capacity": 100}}}
        for load, holds in outcomes
    ]


class SearchTest(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        workload = Workload.objects.create(
            key="visitor-lens", name="Visitor Lens", version="1", kind="load_search", runner="simulated",
            metrics=[{**LOAD, "role": "load"}, {**LOAD, "key": "cameras_hot", "role": "load hot"}],
        )  # fmt: skip
        self.test = Test.objects.create(
            review=self.scene.review, position=2, workload=workload, detail="cold", shown=["cameras"],
            settings={"start": 4, "resolution": 1, "confirm": 2},
        )  # fmt: skip
        self.tester = Browser("tester")
        (self.entry,) = self.owe()
        self.path = f"/api/docket/{self.entry.pk}/search"

    def owe(self) -> list[Entry]:
        return ask_for_passes(
            self.scene.people["tester"], self.scene.review, [self.test.pk], [self.scene.columns[0].pk], 1
        )

    def answer(self, load: int, holds: bool, position: int | None = None, **more: Any) -> Any:
        at = len(self.tester.json(self.path)["attempts"]) if position is None else position
        return self.tester.send("post", f"{self.path}/attempts", {"position": at, "load": load, "holds": holds, **more})


class ByHand(SearchTest):
    def begin(self) -> dict[str, Any]:
        answer = self.tester.send("post", self.path)
        self.assertEqual(answer.status_code, 201, answer.content)
        return dict(json.loads(answer.content))

    def test_the_server_proposes_and_the_last_answer_makes_the_pass(self) -> None:
        search = self.begin()
        limit = 7
        while search["next"]:
            load = search["next"]["load"]
            search = json.loads(self.answer(load, load <= limit, reason="" if load <= limit else "late").content)
        owner = Pass.objects.get()
        self.assertEqual((owner.outcome, owner.figures.get(metric="cameras").value), ("completed", 7.0))
        self.assertEqual([one["load"] for one in owner.attempts], [4, 6, 9, 7, 8, 7])
        self.assertEqual(Entry.objects.get().state, "done")
        shown = self.tester.json(f"/api/passes/{owner.pk}/search")
        self.assertEqual(shown["cold"], {"held": 7, "broken": 8, "words": "7 cameras held, 8 broke"})
        self.assertTrue(shown["done"])

    def test_no_bench_takes_what_a_tester_has_begun(self) -> None:
        self.begin()
        self.assertEqual(self.bench.send("post", "/next", {"pass_id": str(self.entry.pk).zfill(32)}).status_code, 204)
        self.problem(self.tester.send("post", self.path), 409)

    def test_the_docket_does_not_stop_what_is_run_by_hand(self) -> None:
        self.begin()
        self.problem(self.tester.send("delete", f"/api/docket/{self.entry.pk}"), 409)
        self.assertFalse(Entry.objects.get().stop_wanted)

    def test_two_testers_answers_are_not_mixed_up(self) -> None:
        self.begin()
        self.assertEqual(self.answer(4, True, 0).status_code, 200)
        problem = self.problem(self.answer(4, False, 0), 409)
        self.assertEqual(problem["attempts"], 1)
        self.assertEqual(len(Entry.objects.get().attempts), 1)

    def test_the_last_answer_can_be_taken_back(self) -> None:
        self.begin()
        self.answer(4, True)
        self.answer(6, False)
        answer = self.tester.send("delete", f"{self.path}/attempts/1")
        self.assertEqual([one["load"] for one in json.loads(answer.content)["attempts"]], [4])
        self.problem(self.tester.send("delete", f"{self.path}/attempts/5"), 409)

    def test_a_stopped_search_is_kept_and_gone_on_with(self) -> None:
        self.begin()
        self.answer(4, True)
        self.assertEqual(self.tester.send("post", f"{self.path}/end").status_code, 204)
        stopped = Pass.objects.get()
        self.assertEqual((stopped.outcome, len(stopped.attempts), stopped.figures.count()), ("stopped", 1, 0))
        again = f"/api/passes/{stopped.pk}/search"
        self.assertEqual(self.tester.send("post", again).status_code, 204)
        self.problem(self.tester.send("post", again), 409)
        entry = Entry.objects.get(state="owed")
        self.assertEqual(self.tester.json(f"/api/docket/{entry.pk}/search")["next"]["load"], 6)

    def test_a_second_person_goes_on_with_it_on_another_owed_search(self) -> None:
        (second,) = self.owe()
        self.begin()
        self.answer(4, True)
        self.tester.send("post", f"{self.path}/end")
        other = Browser("editor")
        path = f"/api/docket/{second.pk}/search"
        found = json.loads(other.send("post", path).content)
        self.assertEqual([one["load"] for one in found["attempts"]], [4])
        self.assertEqual(found["next"]["load"], 6)

    def test_one_that_is_gone_on_with_already_is_not_taken_twice(self) -> None:
        (second,) = self.owe()
        self.begin()
        self.answer(4, True)
        self.tester.send("post", f"{self.path}/end")
        self.tester.send("post", f"/api/passes/{Pass.objects.get().pk}/search")
        found = json.loads(Browser("editor").send("post", f"/api/docket/{second.pk}/search").content)
        self.assertEqual(found["attempts"], [])

    def test_one_that_was_begun_and_never_answered_is_owed_as_before(self) -> None:
        self.begin()
        self.tester.send("post", f"{self.path}/end")
        self.assertEqual((Pass.objects.count(), Entry.objects.get().state), (0, "owed"))

    def test_own_loads_are_taken_and_said_to_be_own(self) -> None:
        self.begin()
        search = json.loads(self.answer(20, False, time_to_failure_s=3.5, reason="late").content)
        self.assertEqual((search["attempts"][0]["phase"], search["attempts"][0]["time_to_failure_s"]), ("own", 3.5))

    def test_readers_may_look_only(self) -> None:
        self.assertEqual(Browser("reader").get(self.path).status_code, 200)
        self.problem(Browser("reader").send("post", self.path), 403)

    def test_three_people_bring_one_search_through_its_hot_check(self) -> None:
        self.test.settings = {"start": 4, "resolution": 1, "confirm": 1, "soak_s": 60}
        self.test.save()
        search = self.begin()
        people = [self.tester, Browser("editor"), Browser("admin")]
        self.assertFalse(search["next"]["hot"])
        seen_hot = []
        for turn in range(40):
            if not search["next"]:
                break
            upcoming = search["next"]
            seen_hot.append(upcoming["hot"])
            self.tester = people[turn % 3]
            holds = upcoming["load"] <= (6 if upcoming["hot"] else 7)
            answer = self.answer(upcoming["load"], holds, hot=upcoming["hot"])
            self.assertEqual(answer.status_code, 200, answer.content)
            search = json.loads(answer.content)
        self.assertIsNone(search["next"])
        self.assertTrue(seen_hot[-1])
        owner = Pass.objects.get()
        figures = dict(owner.figures.values_list("metric", "value"))
        self.assertEqual((figures["cameras"], figures["cameras_hot"]), (7.0, 6.0))

    def test_other_tests_have_no_search(self) -> None:
        (other,) = self.scene.owe()
        self.problem(self.tester.get(f"/api/docket/{other.pk}/search"), 422)


class Compared(SearchTest):
    """Single searches are known by their brackets; several of one cell can contradict each other."""

    def search(self, entry: Entry, limit: int, start: int | None = None) -> None:
        path = f"/api/docket/{entry.pk}/search"
        found = json.loads(self.tester.send("post", path).content)
        while found["next"]:
            load = found["next"]["load"]
            body = {"position": len(found["attempts"]), "load": load, "holds": load <= limit, "reason": "late"}
            found = json.loads(self.tester.send("post", f"{path}/attempts", body).content)

    def owe_on(self, column: int) -> Entry:
        people = self.scene.people["tester"]
        (entry,) = ask_for_passes(people, self.scene.review, [self.test.pk], [self.scene.columns[column].pk], 1)
        return entry

    def matrix(self) -> dict[str, Any]:
        return dict(Browser("reader").json(f"{self.review_path}/matrix"))

    def test_two_single_searches_are_told_by_their_brackets_without_a_verdict(self) -> None:
        self.search(self.entry, 4)
        self.search(self.owe_on(1), 8)
        row = next(one for one in self.matrix()["rows"] if one["metric"] == "cameras")
        cell = row["cells"][str(self.scene.columns[1].pk)]
        self.assertEqual(cell["why_not_code"], "brackets")
        self.assertIn("8 to 9 against 4 to 5", cell["why_not"])
        self.assertIn("the brackets do not meet", cell["why_not"])
        self.assertIsNone(cell["comparison"])

    def test_searches_of_one_cell_that_cannot_both_be_true_are_flagged(self) -> None:
        self.search(self.entry, 4)
        self.search(self.owe_on(0), 8)
        found = next(one for one in self.matrix()["flags"] if one["test"] == self.test.pk)
        flags = found["cells"][str(self.scene.columns[0].pk)]
        self.assertIn("searches_contradict", [one["code"] for one in flags])


class ByBench(SearchTest):
    def deliver(self, **changes: Any) -> Pass:
        bench = BenchClient(self.scene.token)
        pass_id, job = bench.take()
        self.job = job
        body = manifest(job["entry"], {}, **changes)
        self.assertEqual(bench.send("put", f"/passes/{pass_id}", body).status_code, 200)
        self.assertEqual(bench.send("post", f"/passes/{pass_id}/finish").status_code, 200)
        return Pass.objects.get(pk=pass_id)

    def test_what_a_bench_found_becomes_a_figure(self) -> None:
        owner = self.deliver(attempts=attempts((4, True), (6, False), (5, True), (5, True)))
        self.assertEqual(self.job["workload"]["kind"], "load_search")
        self.assertEqual(owner.figures.get().value, 5.0)
        shown = self.tester.json(f"/api/passes/{owner.pk}/search")
        self.assertEqual(shown["fits"][0]["name"], "processor use")
        self.assertAlmostEqual(shown["fits"][0]["runs_out_at"], 10.0)

    def test_attempts_are_told_as_they_come(self) -> None:
        bench = BenchClient(self.scene.token)
        _, job = bench.take()
        progress = {"phase": "trying 6", "elapsed_s": 12, "left_s": 50, "attempts": attempts((4, True))}
        bench.send("post", f"/docket/{job['entry']}/progress", progress)
        shown = self.tester.json(self.path)
        self.assertEqual((len(shown["attempts"]), shown["next"]["load"], shown["state"]), (1, 6, "running"))

    def test_an_interrupted_search_is_owed_with_its_attempts(self) -> None:
        tried = attempts((4, True), (6, False))
        self.deliver(outcome="crashed", owe_again=True, attempts=tried)
        again = Entry.objects.get(state="owed")
        self.deliver(attempts=[*tried, *attempts((5, True), (5, True))])
        self.assertEqual([one["load"] for one in self.job["attempts"]], [4, 6])
        self.assertEqual(again.number, 2)

    def test_settings_that_make_no_search_are_refused_in_words(self) -> None:
        Test.objects.filter(pk=self.test.pk).update(settings={"start": "many"})
        self.problem(self.tester.get(self.path), 422)
