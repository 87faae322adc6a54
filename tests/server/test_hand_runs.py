"""A pass that somebody runs by hand on the docket, from the first look at the machine to its figures."""

import json
from datetime import timedelta
from typing import Any

from django.http import HttpResponse
from django.utils import timezone

from nomothet.server.docket.models import Changeover, Entry
from nomothet.server.passes.models import Figure, Pass
from nomothet.server.passes.told import told_of
from nomothet.server.systems.models import System
from nomothet.server.workloads.models import Workload
from tests.server.base import Browser, SceneTest

GLANCE = {"method": "glance at an overlay", "half_width": 1.0}


class HandRunTest(SceneTest):
    """One owed pass of a system without a bench."""

    def setUp(self) -> None:
        super().setUp()
        self.scene.bench.delete()
        System.objects.update(
            checks=[
                {"key": "cool", "words": "cooled down", "reading": "processor", "unit": "°C", "at_most": 45,
                 "each_pass": True},
                {"key": "closed", "words": "programs closed"},
            ]
        )  # fmt: skip
        Workload.objects.filter(pk=self.scene.scene.pk).update(
            steps=[
                {"kind": "end", "words": "at the gate"},
                {"kind": "scene", "words": "kelp tunnel, first save"},
            ],
            settings=[{"key": "preset", "label": "preset"}],
            duration_s=60,
        )
        self.scene.tests[0].settings = {"preset": "high"}
        self.scene.tests[0].save()
        self.entry = self.scene.owe()[0]
        self.path = f"/api/docket/{self.entry.pk}/hand"

    def send(self, method: str, more: str = "", body: object = None, who: str = "tester") -> HttpResponse:
        return Browser(who).send(method, f"{self.path}{more}", body)

    def sheet(self) -> dict[str, Any]:
        found: dict[str, Any] = Browser("tester").json(self.path)
        return found

    def begin(self) -> None:
        self.assertEqual(self.send("post").status_code, 201)

    def end(self, status: int = 201, **body: Any) -> Any:
        answer = self.send("post", "/end", {"outcome": "completed", **body})
        if status != 201:
            return self.problem(answer, status)
        self.assertEqual(answer.status_code, 201, answer.content)
        return json.loads(answer.content)


class Running(HandRunTest):
    def test_the_sheet_tells_what_to_do_in_the_order_in_which_it_is_done(self) -> None:
        sheet = self.sheet()
        steps = [(step["kind"], step["words"], step["seconds"]) for step in sheet["steps"]]
        expected = [
            ("check", "cooled down", None),
            ("setting", "preset: high", None),
            ("scene", "kelp tunnel, first save", None),
            ("duration", "Let it run", 60),
            ("end", "at the gate", None),
        ]
        self.assertEqual(steps, expected)
        fields = [(field["metric"], field["unit"], field["method"]) for field in sheet["fields"]]
        self.assertEqual(fields, [("average_fps", "fps", ""), ("low_1pct", "fps", "")])

    def test_a_look_that_is_for_each_pass_is_no_step_of_the_visit(self) -> None:
        docket = Browser("tester").json(f"/api/systems/{self.scene.system.pk}/docket")
        words = [step["words"] for step in docket["visits"][0]["steps"]]
        self.assertIn("programs closed", words)
        self.assertNotIn("cooled down", words)

    def test_what_was_read_off_is_one_pass_that_settles_what_was_owed(self) -> None:
        self.begin()
        self.end(
            readings=[
                {"metric": "average_fps", "text": "61", **GLANCE},
                {"metric": "low_1pct", "text": "48", **GLANCE},
            ]
        )
        owner = Pass.objects.get()
        self.assertEqual((owner.number, owner.outcome, owner.who_ran), (1, "completed", "Tester"))
        self.assertEqual(
            set(owner.figures.values_list("metric", "value")), {("average_fps", 61), ("low_1pct_told", 48)}
        )
        self.assertEqual(list(Entry.objects.values_list("state", flat=True)), ["done"])
        self.assertEqual(self.row()["cells"][str(self.scene.columns[0].pk)]["n"], 1)

    def test_ticks_readings_and_the_start_state_stay_with_the_pass(self) -> None:
        self.begin()
        self.assertEqual(self.send("put", "/ticks", {"key": "check:cool", "observed": "44"}).status_code, 200)
        self.send("put", "/ticks", {"key": "setting:preset"})
        self.send("put", "/ticks", {"key": "step:0"})
        self.send("delete", "/ticks/step:0")
        self.end()
        cell = Browser("reader").json(self.cell_path())["passes"][0]
        ticked = [(step["words"], step["observed"], step["by"]) for step in cell["steps"] if step["at"]]
        self.assertEqual(ticked, [("cooled down", 44, "Tester"), ("preset: high", None, "Tester")])
        self.assertEqual(cell["environment"]["start"], {"cooled down": "44 °C"})

    def test_a_start_that_is_too_warm_is_kept_and_told(self) -> None:
        self.begin()
        answer = json.loads(self.send("put", "/ticks", {"key": "check:cool", "observed": "51"}).content)
        tick = answer["steps"][0]["tick"]
        self.assertEqual((tick["observed"], tick["fits"]), (51, False))

    def test_a_reading_is_asked_for_where_a_step_has_one(self) -> None:
        self.begin()
        for observed in ("", "warm", "40 41"):
            with self.subTest(observed=observed):
                told = self.problem(self.send("put", "/ticks", {"key": "check:cool", "observed": observed}), 422)
                self.assertEqual(told["field"], "observed")

    def test_the_clock_times_the_pass(self) -> None:
        self.begin()
        self.assertEqual(self.send("put", "/clock", {"running": False}).status_code, 409)
        self.send("put", "/clock", {"running": True})
        began = timezone.now() - timedelta(seconds=75)
        entry = Entry.objects.get()
        entry.clock = {"started_at": began.isoformat()}
        entry.save()
        self.send("put", "/clock", {"running": False})
        self.end()
        owner = Pass.objects.get()
        self.assertAlmostEqual(owner.duration_s or 0, 75, delta=5)
        self.assertEqual(owner.started_at, began)

    def test_without_a_clock_the_pass_is_as_long_as_its_workload_says(self) -> None:
        self.begin()
        self.end()
        self.assertEqual(Pass.objects.get().duration_s, 60)

    def test_a_failure_keeps_why_what_was_done_and_what_ran_instead(self) -> None:
        self.begin()
        told = {"note": "driver reset", "action": "started again", "fallback": "low preset"}
        self.end(outcome="crashed", **told)
        log = Browser("reader").json(f"/api/systems/{self.scene.system.pk}/log")
        failure = log["failures"][0]
        self.assertEqual({key: failure[key] for key in told}, told)
        self.assertEqual((failure["outcome_words"], failure["by"]), ("crashed", "Tester"))

    def test_a_pass_that_failed_takes_no_figures_and_loses_nothing(self) -> None:
        self.begin()
        told = self.end(422, outcome="crashed", readings=[{"metric": "average_fps", "text": "61", **GLANCE}])
        self.assertEqual(told["field"], "outcome")
        self.assertEqual(self.sheet()["state"], "running")

    def test_one_wrong_figure_stores_nothing_and_is_named(self) -> None:
        self.begin()
        told = self.end(
            422,
            readings=[
                {"metric": "average_fps", "text": "61", **GLANCE},
                {"metric": "low_1pct", "text": "sixty", **GLANCE},
            ],
        )
        self.assertEqual((told["metric"], told["field"]), ("low_1pct", "text"))
        self.assertEqual((Pass.objects.count(), Figure.objects.count()), (0, 0))
        self.assertEqual(self.sheet()["state"], "running")

    def test_a_figure_without_a_method_asks_for_one(self) -> None:
        self.begin()
        told = self.end(422, readings=[{"metric": "average_fps", "text": "61"}])
        self.assertEqual((told["metric"], told["field"]), ("average_fps", "method"))

    def test_ending_twice_stores_it_once(self) -> None:
        self.begin()
        for _ in range(2):
            self.end(readings=[{"metric": "average_fps", "text": "61", **GLANCE}])
        self.assertEqual((Pass.objects.count(), Figure.objects.count()), (1, 1))

    def test_giving_up_owes_it_as_before(self) -> None:
        self.begin()
        self.send("put", "/ticks", {"key": "setting:preset"})
        self.assertEqual(self.send("delete").status_code, 204)
        entry = Entry.objects.get()
        self.assertEqual((entry.state, entry.by_hand, entry.ticks, entry.pass_id), ("owed", None, {}, None))
        self.problem(self.send("put", "/ticks", {"key": "setting:preset"}), 409)

    def test_two_people_cannot_run_one_pass(self) -> None:
        self.begin()
        self.problem(self.send("post", who="editor"), 409)
        self.begin()

    def test_who_ran_it_and_who_helped_stand_on_the_pass_and_in_the_table(self) -> None:
        self.begin()
        self.end(ran_by="Ines Barrow", helped_by="Tomas Quill, from afar")
        text = b"".join(Browser("reader").get(f"{self.review_path}/figures.csv")).decode()
        self.assertIn('Ines Barrow,"Tomas Quill, from afar",Tester', text)

    def test_a_reader_runs_nothing(self) -> None:
        self.problem(self.send("post", who="reader"), 403)
        self.begin()
        for method, more, body in (
            ("put", "/ticks", {"key": "setting:preset"}),
            ("delete", "/ticks/x", None),
            ("put", "/clock", {"running": True}),
            ("post", "/end", {"outcome": "completed"}),
            ("delete", "", None),
        ):
            with self.subTest(more=more):
                self.problem(self.send(method, more, body, who="reader"), 403)

    def test_a_load_search_is_sent_to_its_ladder(self) -> None:
        Workload.objects.filter(pk=self.scene.scene.pk).update(kind="load_search")
        self.assertIn("ladder", self.problem(self.send("post"), 422)["detail"])


class PastVisits(HandRunTest):
    def test_a_visit_that_is_over_can_be_read_with_its_ticks_and_passes(self) -> None:
        path = f"/api/systems/{self.scene.system.pk}"
        Browser("tester").send("post", f"{path}/changeovers")
        change = Changeover.objects.get()
        for step in change.steps:
            Browser("tester").send("put", f"/api/changeovers/{change.pk}/ticks", {"key": step["key"]})
        change.refresh_from_db()
        if change.done_at is None:
            Changeover.objects.update(done_at=timezone.now())
        self.begin()
        self.end(note="all quiet")
        visit = Browser("reader").json(f"{path}/log")["visits"][0]
        self.assertEqual(visit["configuration"], "Wren at 35 W")
        self.assertEqual([one["note"] for one in visit["passes"]], ["all quiet"])
        self.assertTrue(all(step["tick"]["by"] == "Tester" for step in visit["steps"]))


class FirstRuns(HandRunTest):
    """A workload whose first run after a start is a group of its own."""

    def setUp(self) -> None:
        super().setUp()
        Workload.objects.filter(pk=self.scene.scene.pk).update(first_run_apart=True)

    def test_the_first_pass_of_a_session_is_proposed_as_a_first_run_and_the_next_is_not(self) -> None:
        self.assertTrue(self.sheet()["first_run"])
        self.begin()
        self.end(readings=[{"metric": "average_fps", "text": "40", **GLANCE}], first_run=True)
        following = self.scene.owe()[0]
        self.assertFalse(Browser("tester").json(f"/api/docket/{following.pk}/hand")["first_run"])

    def test_after_a_change_or_a_long_pause_a_run_is_first_again(self) -> None:
        self.begin()
        self.end()
        following = self.scene.owe()[0]
        path = f"/api/docket/{following.pk}/hand"
        Pass.objects.update(started_at=timezone.now() - timedelta(hours=7))
        self.assertTrue(Browser("tester").json(path)["first_run"])
        Pass.objects.update(started_at=timezone.now() - timedelta(hours=1))
        self.assertFalse(Browser("tester").json(path)["first_run"])
        Changeover.objects.create(
            system=self.scene.system, configuration=self.scene.configurations[0], done_at=timezone.now()
        )
        self.assertTrue(Browser("tester").json(path)["first_run"])

    def test_first_runs_have_rows_of_their_own_and_leave_the_centre_alone(self) -> None:
        column = str(self.scene.columns[0].pk)
        self.begin()
        self.end(readings=[{"metric": "average_fps", "text": "40", **GLANCE}], first_run=True)
        for rate in ("60", "62"):
            self.path = f"/api/docket/{self.scene.owe()[0].pk}/hand"
            self.begin()
            self.end(readings=[{"metric": "average_fps", "text": rate, **GLANCE}])
        plain, first = self.row()["cells"][column], self.row("first:average_fps")["cells"][column]
        self.assertEqual((plain["n"], first["n"], first["centre"]), (2, 1, 40))
        self.assertAlmostEqual(plain["centre"], 61, delta=0.1)
        self.assertEqual(self.row("first:average_fps")["label"], "average, first run")

    def test_a_cold_first_pass_is_moved_there_by_one_act_and_back(self) -> None:
        self.begin()
        self.end(readings=[{"metric": "average_fps", "text": "40", **GLANCE}])
        owner = Pass.objects.get()
        column = str(self.scene.columns[0].pk)
        path = f"/api/passes/{owner.pk}/first-run"
        self.assertEqual(Browser("tester").send("put", path).status_code, 204)
        self.problem(Browser("tester").send("put", path), 409)
        self.assertNotIn(column, self.row()["cells"])
        self.assertIn(column, self.row("first:average_fps")["cells"])
        self.assertEqual(Browser("tester").send("delete", path).status_code, 204)
        self.assertIn(column, self.row()["cells"])
        self.assertEqual(owner.remarks.count(), 2)

    def test_moving_is_not_for_readers_and_not_for_failures(self) -> None:
        self.begin()
        self.end(outcome="crashed")
        path = f"/api/passes/{Pass.objects.get().pk}/first-run"
        self.problem(Browser("reader").send("put", path), 403)
        self.problem(Browser("tester").send("put", path), 422)


class Tellings(HandRunTest):
    def tell(self, body: object, who: str = "tester", tag: str = "") -> HttpResponse:
        owner = Pass.objects.get()
        read = {"If-Match": f'"{tag or told_of(owner).tag}"'}
        return Browser(who).send("patch", f"/api/passes/{owner.pk}/telling", body, **read)

    def test_what_came_of_a_failure_can_be_told_later_and_what_stood_there_stays(self) -> None:
        self.begin()
        self.end(outcome="did_not_start", note="no window")
        self.assertEqual(self.tell({"note": "needs a newer driver", "fallback": "another scene"}).status_code, 200)
        owner = Pass.objects.get()
        self.assertEqual((owner.note, owner.fallback), ("needs a newer driver", "another scene"))
        self.assertIn("note: no window; what ran instead: nothing", owner.remarks.get().reason)

    def test_who_tells_on_what_another_has_changed_is_shown_what_stands_there_now(self) -> None:
        self.begin()
        self.end(note="calm")
        owner = Pass.objects.get()
        read = told_of(owner).tag
        first = self.tell({"note": "calm until the end"}, tag=read)
        self.assertEqual(first.headers["ETag"].strip('"'), told_of(Pass.objects.get()).tag)
        late = self.problem(self.tell({"note": "not so calm"}, tag=read), 412)
        self.assertEqual(late["current"]["note"], "calm until the end")
        self.assertEqual(self.tell({"note": "both"}, tag=late["current"]["tag"]).status_code, 200)
        path = f"/api/passes/{owner.pk}/telling"
        self.problem(Browser("tester").send("patch", path, {"note": "blind"}), 428)
        self.assertEqual(Pass.objects.get().note, "both")

    def test_telling_the_same_again_changes_nothing(self) -> None:
        self.begin()
        self.end(note="calm")
        self.tell({"note": "calm "})
        self.assertEqual(Pass.objects.get().remarks.count(), 0)

    def test_nothing_was_done_about_a_pass_that_was_completed(self) -> None:
        self.begin()
        self.end()
        self.problem(self.tell({"action": "restarted"}), 422)
        self.problem(self.tell({"note": "x"}, who="reader"), 403)
