"""The Limits lens, comparability, the return to the baseline, and what the pane says of a pass."""

from typing import Any

import numpy as np

from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Review, Test
from tests.server.base import Browser, SceneTest, steady
from tests.server.recordings import deliver_recorded

SECONDS = 40
GRAPHICS = {("graphics use", "%"): np.full(SECONDS, 99.0), ("processor use", "%"): np.full(SECONDS, 30.0)}
THREAD = {
    ("graphics use", "%"): np.full(SECONDS, 60.0),
    ("busiest core", "%"): np.full(SECONDS, 98.0),
    ("processor use", "%"): np.full(SECONDS, 30.0),
}


class Lens(SceneTest):
    def bring(self, column: int, sensors: dict[tuple[str, str], Any], fps: float = 66.0, **changes: Any) -> str:
        self.scene.owe(column=column)
        frames = steady(fps, int(fps * SECONDS), seed=column + 1)
        return deliver_recorded(self.bench, frames, sensors, **{"duration_s": float(SECONDS), **changes})

    def matrix(self) -> dict[str, Any]:
        return dict(Browser("reader").json(f"{self.review_path}/matrix"))

    def cell(self, column: int = 0) -> dict[str, Any]:
        return dict(self.matrix()["limits"][0]["cells"][str(self.scene.columns[column].pk)])

    def test_a_cell_is_called_by_the_mean_of_its_passes(self) -> None:
        self.bring(0, GRAPHICS)
        self.bring(0, GRAPHICS)
        self.bring(0, THREAD)
        cell = self.cell()
        self.assertEqual((cell["called"], cell["passes"]), ("graphics", 3))
        self.assertAlmostEqual(cell["shares"][0]["share"], 2 / 3, delta=0.01)
        self.assertIn("99 %", cell["shares"][0]["evidence"])

    def test_a_pass_set_aside_leaves_the_lens(self) -> None:
        self.bring(0, GRAPHICS)
        odd = self.bring(0, THREAD)
        Browser("tester").send("put", f"/api/passes/{odd}/set-aside", {"reason": "wrong scene"})
        self.assertEqual(self.cell()["shares"][0]["share"], 1.0)

    def test_what_is_not_recorded_is_said(self) -> None:
        self.bring(0, {})
        cell = self.cell()
        self.assertEqual(cell["called"], "nothing recorded")
        self.assertIn("graphics use", cell["missing"])

    def test_two_cells_at_the_graphics_hide_a_difference_and_the_way_out_is_named(self) -> None:
        test = self.scene.tests[0]
        test.settings = {"resolution": "4K"}
        test.save()
        self.bring(0, GRAPHICS)
        self.bring(1, GRAPHICS)
        masked = self.matrix()["limits"][0]["masked"]
        self.assertIn("a lower resolution than 4K", masked[str(self.scene.columns[1].pk)]["words"])

    def test_a_collapse_is_told_with_its_moment(self) -> None:
        used = np.minimum(4.0, np.linspace(1, 7.3, SECONDS))
        frames = np.concatenate([np.full(19 * 60, 1000 / 60), np.full(21 * 20, 50.0)])
        self.scene.owe()
        deliver_recorded(
            self.bench,
            frames,
            {("graphics memory used", "GB"): used, ("graphics use", "%"): used * 0 + 30},
            duration_s=40.0,
        )
        cell = self.cell()
        self.assertEqual(cell["called"], "graphics memory")
        self.assertAlmostEqual(cell["collapse"]["at_s"], 18, delta=1)
        self.assertAlmostEqual(cell["collapse"]["cost_pct"], 66.7, delta=1)
        self.assertEqual(cell["memory"][0]["headroom_pct"], 0)

    def test_memory_is_told_in_gb_whatever_unit_its_sensor_has(self) -> None:
        share = np.minimum(1.0, np.linspace(0.25, 1.8, SECONDS))
        frames = np.concatenate([np.full(19 * 60, 1000 / 60), np.full(21 * 20, 50.0)])
        for unit, full, told in (
            ("GB", 4.0, (4.0, 4.0, "GB")),
            ("MB", 4096.0, (4.0, 4.0, "GB")),
            ("%", 100.0, (100.0, 100.0, "%")),
        ):
            with self.subTest(unit=unit):
                self.scene.owe()
                sensors = {("graphics memory used", unit): share * full, ("graphics use", "%"): share * 0 + 30}
                pass_id = deliver_recorded(self.bench, frames, sensors, duration_s=40.0)
                detail = Browser("reader").json(self.cell_path())["passes"]
                found = next(one for one in detail if one["id"] == pass_id)["analysis"]
                collapse = found["collapse"]
                self.assertEqual((collapse["used"], collapse["capacity"], collapse["unit"]), told)
                peaks = {name: use["peak"] for name, use in found["uses"].items()}
                self.assertEqual(peaks, {} if unit == "%" else {"graphics memory used": 4.0})

    def test_a_clock_in_ghz_keeps_its_rating(self) -> None:
        self.bring(0, {("clock", "GHz"): np.full(SECONDS, 4.6)})
        detail = Browser("reader").json(self.cell_path())["passes"][0]
        self.assertEqual(detail["analysis"]["sustained"]["sustained_clock_mhz"], 4600)

    def test_bands_stand_in_the_trace(self) -> None:
        pass_id = self.bring(0, THREAD)
        trace = Browser("reader").json(f"/api/passes/{pass_id}/trace")
        self.assertEqual([band["kind"] for band in trace["bands"]], ["one thread"])

    def test_lanes_are_cut_to_the_stretch_in_sight(self) -> None:
        pass_id = self.bring(0, THREAD)
        trace = Browser("reader").json(f"/api/passes/{pass_id}/trace?from=10&to=20")
        for lane in trace["lanes"]:
            self.assertGreaterEqual(min(lane["t_s"]), 9)
            self.assertLessEqual(max(lane["t_s"]), 21)

    def test_what_is_declared_is_the_height_of_a_lane(self) -> None:
        watts = {**THREAD, ("power", "W"): np.full(SECONDS, 20.0)}
        pass_id = self.bring(0, watts, environment={"observed": {"power_limit_w": 35}})
        lanes = Browser("reader").json(f"/api/passes/{pass_id}/trace")["lanes"]
        self.assertEqual({lane["name"]: lane["limit"] for lane in lanes}["power"], 35)

    def test_two_passes_are_laid_where_they_match_and_their_runs_are_compared(self) -> None:
        first = self.bring(0, THREAD, environment={"graphics driver": "31.2", "operating system": "image 41"})
        second = self.bring(1, THREAD, environment={"graphics driver": "31.4", "operating system": "image 41"})
        found = Browser("reader").json(f"/api/passes/{first}/match/{first}")
        self.assertEqual(found["shift_s"], 0)
        (unlike,) = Browser("reader").json(f"/api/passes/{first}/unlike/{second}")
        self.assertEqual((unlike["key"], unlike["severity"]), ("graphics driver", "warns"))
        against = self.matrix()["alike"][0]["against"][str(self.scene.columns[1].pk)]
        self.assertEqual([one["key"] for one in against], ["graphics driver"])

    def test_the_factor_is_no_difference(self) -> None:
        self.bring(0, THREAD, environment={"settings": {"power_limit_w": 35}})
        self.bring(1, THREAD, environment={"settings": {"power_limit_w": 20}})
        self.assertEqual(self.matrix()["alike"], [])

    def test_a_driver_that_changed_within_a_cell_is_told(self) -> None:
        self.bring(0, THREAD, environment={"firmware": "1.2"})
        self.bring(0, THREAD, environment={"firmware": "1.3"})
        (flag,) = self.matrix()["flags"][0]["cells"][str(self.scene.columns[0].pk)]
        self.assertEqual((flag["code"], flag["severity"], flag["passes"]), ("unlike_within", "warns", [2]))
        self.assertIn("was 1.3 in pass 2, 1.2 in the others", flag["words"])

    def test_a_power_limit_that_is_drawn_holds_from_the_first_second(self) -> None:
        watts = {**THREAD, ("power", "W"): np.full(SECONDS, 34.8)}
        self.bring(0, watts, environment={"observed": {"power_limit_w": 35}})
        self.assertEqual(self.cell()["called"], "power")


class Return(SceneTest):
    def bring(self, column: int, rates: list[float], at: str) -> None:
        for number, fps in enumerate(rates):
            self.scene.owe(column=column)
            self.bench.deliver(steady(fps, 3000, seed=number + 1), started_at=f"2026-05-04T{at}:00+00:00")

    def returned(self) -> list[dict[str, Any]]:
        Review.objects.filter(pk=self.scene.review.pk).update(returns_to_baseline=True)
        return list(Browser("reader").json(f"{self.review_path}/matrix")["returned"])

    def test_a_shift_is_drift_of_the_session(self) -> None:
        self.bring(0, [60.0, 60.1, 59.9], "10:00")
        self.bring(1, [50.0, 50.1, 49.9], "11:00")
        self.bring(0, [55.0, 55.1], "12:00")
        (found,) = self.returned()
        self.assertEqual((found["verdict"], found["n"], found["n_first"]), ("behind", 2, 3))
        self.assertAlmostEqual(found["change"], 100 * (55.05 / 60 - 1), delta=0.1)
        self.assertIn("the session drifted", found["words"])

    def test_level_is_said_and_without_a_second_look_nothing(self) -> None:
        self.bring(0, [60.0, 60.1, 59.9], "10:00")
        self.bring(1, [50.0, 50.1, 49.9], "11:00")
        self.assertEqual(self.returned(), [])
        self.bring(0, [60.0, 60.05], "12:00")
        self.assertEqual(self.returned()[0]["verdict"], "level")


class Soak(SceneTest):
    def test_idle_and_recovery_are_no_part_of_what_a_soak_holds(self) -> None:
        test = self.scene.tests[0]
        test.workload.kind = "soak"
        test.workload.save()
        self.scene.owe()
        frames = np.concatenate([np.full(200, 50.0), np.full(3000, 10.0), np.full(200, 50.0)])
        phases = [
            {"label": "idle", "start_s": 0.0, "end_s": 10.0},
            {"label": "sustained", "start_s": 10.0, "end_s": 40.0},
            {"label": "recovery", "start_s": 40.0, "end_s": 50.0},
        ]
        pass_id = self.bench.deliver(frames, duration_s=50.0, phases=phases)
        analysis = Pass.objects.get(pk=pass_id).analysis.content
        self.assertEqual((analysis["from_s"], analysis["to_s"]), (10, 40))
        self.assertAlmostEqual(analysis["sustained"]["burst"], 100, delta=1)
        self.assertEqual(Test.objects.get(pk=test.pk).workload.kind, "soak")
