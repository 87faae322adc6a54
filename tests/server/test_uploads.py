"""Passes from benches: idempotent, in chunks, checked, and given back when lost."""

import uuid

import numpy as np

from nomothet.core.frames import frame_figures
from nomothet.formats.series import pack
from nomothet.formats.words import METHOD_VERSION
from nomothet.server.docket.models import Entry, State
from nomothet.server.passes.models import Chunk, Pass, Series
from nomothet.server.systems.commands import issue_demo_token
from nomothet.server.systems.models import System
from tests.server.base import BenchClient, Browser, SceneTest, manifest, steady


class Taking(SceneTest):
    def test_asking_again_with_the_same_id_takes_one_pass(self) -> None:
        self.scene.owe(count=2)
        pass_id = str(uuid.uuid4())
        first = self.bench.send("post", "/next", {"pass_id": pass_id}).json()
        second = self.bench.send("post", "/next", {"pass_id": pass_id}).json()
        self.assertEqual(first, second)
        self.assertEqual(Entry.objects.filter(state=State.RUNNING).count(), 1)

    def test_the_configuration_at_hand_goes_first_once_the_baseline_was_begun(self) -> None:
        self.fill(0, [60.0])
        self.scene.owe(column=1)
        self.bench.take()
        self.scene.owe(column=0)
        self.scene.owe(column=1)
        _, job = self.bench.take()
        self.assertEqual(job["configuration"]["name"], "Wren at 20 W")

    def test_nothing_owed_is_no_content(self) -> None:
        self.assertEqual(self.bench.send("post", "/next", {"pass_id": str(uuid.uuid4())}).status_code, 204)

    def test_another_systems_bench_is_not_given_it(self) -> None:
        self.scene.owe()
        other = issue_demo_token(System.objects.create(key="heron", name="Heron"))
        self.assertEqual(BenchClient(other).take()[1], {})

    def test_what_a_bench_lost_goes_back_to_the_docket(self) -> None:
        self.scene.owe(count=2)
        held, _ = self.bench.take()
        self.bench.take()
        self.bench.send("post", "/hello", {"inventory": {}, "holding": [held]})
        self.assertEqual(Entry.objects.get(pass_id=held).state, State.RUNNING)
        self.assertEqual(Entry.objects.filter(state=State.OWED).count(), 1)

    def test_a_wish_to_stop_reaches_the_bench(self) -> None:
        (entry,) = self.scene.owe()
        self.bench.take()
        progress = {"phase": "running", "elapsed_s": 3.5, "left_s": None, "readings": {"clock": 4000}}
        path = f"/docket/{entry.pk}/progress"
        self.assertFalse(self.bench.send("post", path, progress).json()["stop"])
        Browser("tester").send("delete", f"/api/docket/{entry.pk}")
        self.assertTrue(self.bench.send("post", path, progress).json()["stop"])

    def test_withdrawing_a_pass_that_is_over_is_a_conflict(self) -> None:
        (entry,) = self.scene.owe()
        self.bench.deliver(steady(60))
        self.problem(Browser("tester").send("delete", f"/api/docket/{entry.pk}"), 409)

    def test_numbers_go_on_over_owed_and_arrived_passes(self) -> None:
        self.fill(0, [60.0, 61.0])
        numbers = [entry.number for entry in self.scene.owe(count=2)]
        self.assertEqual(numbers, [3, 4])


class Uploading(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        (self.entry,) = self.scene.owe()
        self.pass_id, _ = self.bench.take()
        self.frames = steady(60, 5000)
        self.blob = pack({"frame_ms": self.frames})
        self.body = manifest(self.entry.pk, {"frames": self.blob})

    def announce(self) -> dict[str, object]:
        answer = self.bench.send("put", f"/passes/{self.pass_id}", self.body)
        self.assertEqual(answer.status_code, 200, answer.content)
        return answer.json()

    def test_a_pass_in_pieces_is_stored_once_and_whole(self) -> None:
        self.assertEqual(self.announce(), {"whole": False, "received": {"frames": 0}})
        middle = len(self.blob) // 2
        self.bench.chunk(self.pass_id, "frames", 0, self.blob[:middle])
        self.assertEqual(self.announce()["received"], {"frames": middle})
        self.bench.chunk(self.pass_id, "frames", middle, self.blob[middle:])
        for _ in range(2):
            self.assertEqual(self.bench.send("post", f"/passes/{self.pass_id}/finish").status_code, 200)
        self.assertEqual(self.announce()["whole"], True)
        owner = Pass.objects.get()
        self.assertEqual(bytes(owner.series.get().blob), self.blob)
        self.assertEqual(Chunk.objects.count(), 0)
        self.assertEqual(Entry.objects.get().state, State.DONE)
        self.assertAlmostEqual(owner.figures.get(metric="average_fps").value, frame_figures(self.frames).average_fps)
        self.assertEqual(owner.figures.get(metric="average_fps").method_version, METHOD_VERSION)

    def test_a_repeated_chunk_does_no_harm(self) -> None:
        self.announce()
        for _ in range(3):
            answer = self.bench.chunk(self.pass_id, "frames", 0, self.blob[:500])
            self.assertEqual(answer.json(), {"received": 500})

    def test_a_gap_is_told_with_where_to_go_on(self) -> None:
        self.announce()
        self.bench.chunk(self.pass_id, "frames", 0, self.blob[:500])
        answer = self.bench.chunk(self.pass_id, "frames", 900, self.blob[900:])
        self.assertEqual(self.problem(answer, 409)["received"], 500)

    def test_a_pass_is_not_whole_before_all_bytes_are_in(self) -> None:
        self.announce()
        self.bench.chunk(self.pass_id, "frames", 0, self.blob[:-1])
        problem = self.problem(self.bench.send("post", f"/passes/{self.pass_id}/finish"), 409)
        self.assertEqual(problem["received"], {"frames": len(self.blob) - 1})
        self.assertEqual(Browser("reader").json(self.cell_path())["passes"], [])

    def test_damaged_bytes_are_thrown_away_and_asked_for_again(self) -> None:
        self.announce()
        self.bench.chunk(self.pass_id, "frames", 0, self.blob[:-1] + bytes([self.blob[-1] ^ 1]))
        problem = self.problem(self.bench.send("post", f"/passes/{self.pass_id}/finish"), 409)
        self.assertEqual(problem["received"], {"frames": 0})
        self.bench.chunk(self.pass_id, "frames", 0, self.blob)
        self.assertEqual(self.bench.send("post", f"/passes/{self.pass_id}/finish").status_code, 200)

    def test_more_bytes_than_announced_are_refused(self) -> None:
        self.announce()
        self.problem(self.bench.chunk(self.pass_id, "frames", 0, self.blob + b"x"), 422)

    def test_another_bench_cannot_touch_it(self) -> None:
        self.announce()
        other = BenchClient(issue_demo_token(System.objects.create(key="heron", name="Heron")))
        self.problem(other.send("put", f"/passes/{self.pass_id}", self.body), 422)
        self.problem(other.chunk(self.pass_id, "frames", 0, self.blob), 422)
        self.problem(other.send("post", f"/passes/{self.pass_id}/finish"), 422)

    def test_a_manifest_with_mistakes_names_the_field(self) -> None:
        cases = [
            ({"outcome": "splendid"}, "outcome"),
            ({"duration_s": -1}, "duration_s"),
            ({"series": [{"name": "x", "kind": "frames", "size": 5, "sha256": "short"}]}, "series"),
        ]
        for changes, field in cases:
            answer = self.bench.send("put", f"/passes/{self.pass_id}", {**self.body, **changes})
            self.assertIn(field, self.problem(answer, 400)["errors"])
        self.assertEqual(Pass.objects.count(), 0)


class Outcomes(SceneTest):
    def test_a_failed_pass_is_on_record_and_in_no_figure(self) -> None:
        self.scene.owe()
        self.bench.deliver(outcome="did_not_start", note="no display")
        row = Browser("reader").json(f"{self.review_path}/matrix")["progress"][0]
        (pip,) = row["cells"][str(self.scene.columns[0].pk)]["pips"]
        self.assertEqual((pip["state"], pip["words"]), ("failed", "did not start (no display)"))
        self.assertEqual(self.row()["cells"], {})

    def test_an_interrupted_pass_is_owed_again(self) -> None:
        self.scene.owe()
        self.bench.deliver(steady(60, 50), outcome="crashed", owe_again=True)
        entries = list(Entry.objects.order_by("number").values_list("number", "state"))
        self.assertEqual(entries, [(1, "done"), (2, "owed")])

    def test_a_stopped_pass_keeps_its_capture_but_has_no_figures(self) -> None:
        self.scene.owe()
        pass_id = self.bench.deliver(steady(60, 50), outcome="stopped")
        owner = Pass.objects.get(pk=pass_id)
        self.assertEqual((owner.series.count(), owner.figures.count()), (1, 0))

    def test_a_run_shorter_than_its_cuts_is_kept_without_figures_and_says_why(self) -> None:
        test = self.scene.tests[0]
        test.skip_s = 100
        test.save()
        self.scene.owe()
        owner = Pass.objects.get(pk=self.bench.deliver(steady(60, 100)))
        self.assertEqual(owner.figures.count(), 0)
        self.assertIn("leave no frame", owner.note)

    def test_cuts_are_applied_on_reading_and_the_capture_stays(self) -> None:
        test = self.scene.tests[0]
        test.skip_s, test.end_cut_s = 1.0, 1.0
        test.save()
        self.scene.owe()
        frames = np.concatenate([np.full(20, 50.0), np.full(600, 10.0), np.full(20, 50.0)])
        owner = Pass.objects.get(pk=self.bench.deliver(frames))
        self.assertAlmostEqual(owner.figures.get(metric="average_fps").value, 100.0)
        self.assertEqual(Series.objects.get(owner=owner).blob is not None, True)

    def test_scores_of_a_suite_become_figures(self) -> None:
        self.scene.owe(test=1)
        figure = {"metric": "one_thread", "unit": "points", "direction": "higher", "scale": "ratio", "value": 812.5}
        self.bench.deliver(figures=[figure])
        cell = self.row("one_thread")["cells"][str(self.scene.columns[0].pk)]
        self.assertAlmostEqual(cell["centre"], 812.5)
        self.assertEqual((cell["n"], cell["low"]), (1, None))
