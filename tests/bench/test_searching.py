"""Load searches on a bench: the real machine, the simulated one, and what is left after a kill."""

import json
import tempfile
import unittest
import uuid
from dataclasses import replace
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np

from nomothet.bench.agent import Agent
from nomothet.bench.job import Captured, Control, Job, PassResult
from nomothet.bench.machine import RealMachine
from nomothet.bench.simulated.machine import SimulatedMachine
from nomothet.bench.simulated.parameters import Parameters, read_parameters
from nomothet.bench.spool import Spool
from nomothet.core.load_search import SearchResult, search_result
from nomothet.formats.searches import attempts_of, plan_of
from tests.bench.fake_server import FakeServer

DEMO = Path(__file__).resolve().parents[2] / "demo" / "simulated"
HERON = read_parameters(DEMO / "heron.toml")


def job(workload: str, settings: dict[str, Any], **more: Any) -> Job:
    fields: dict[str, Any] = {
        "entry": 1, "number": 1, "workload": workload, "version": "1", "runner": "stream-watch", "metrics": [],
        "settings": settings, "configuration": "here", "configured": {}, "kind": "load_search", **more,
    }  # fmt: skip
    return Job(**fields)


class SearchTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.told: list[int] = []
        self.control = Control(lambda *told: None, lambda attempts: self.told.append(len(attempts)))


class Real(SearchTest):
    def test_this_machine_holds_one_stream_and_not_a_thousand(self) -> None:
        settings = {"start": 1, "growth": 32, "ceiling": 1024, "resolution": 1023, "confirm": 1, "seconds": 3}
        # Two seconds of patience: a machine that stalls for one still holds a stream.
        one = job("stream-watch", {**settings, "buffer_frames": 50})
        result = RealMachine(10).run(one, self.folder, self.control)
        self.assertEqual(result.outcome, "completed", result.note)
        found = search_result(plan_of(settings), attempts_of(result.attempts))
        assert found.cold.held is not None
        assert found.cold.broken is not None
        self.assertTrue(1 <= found.cold.held < found.cold.broken <= 1024)
        broke = next(one for one in result.attempts if not one["holds"])
        self.assertIn("waited longer than the buffer", broke["reason"])
        self.assertIn("processor use", result.attempts[0]["use"])
        self.assertEqual(self.told, list(range(len(result.attempts) + 1)))
        self.assertTrue(any(captured.name == "processor use" for captured in result.captures))

    def test_a_sensor_that_failed_in_the_second_half_of_an_attempt_has_no_use_there(self) -> None:
        times, silent = np.arange(4.0), np.array([900.0, 900.0, np.nan, np.nan])
        samples = [
            Captured("clock", "sensor", {"t_s": times, "value": silent}, "MHz", "mean of cores", "test"),
            Captured("memory used", "sensor", {"t_s": times, "value": times}, "GiB", "main memory", "test", 8.0),
        ]
        settings = {"start": 1, "ceiling": 1, "confirm": 1, "seconds": 1}
        with mock.patch("nomothet.bench.machine.read_samples", return_value=samples):
            result = RealMachine(10).run(job("stream-watch", settings), self.folder, self.control)
        self.assertEqual(result.attempts[0]["use"], {"memory used": {"mean": 2.5, "capacity": 8.0}})
        # What goes to the server is JSON, which knows no NaN.
        json.dumps(result.attempts, allow_nan=False)

    def test_settings_that_make_no_search_are_refused(self) -> None:
        result = RealMachine(10).run(job("stream-watch", {"growth": 0.5}), self.folder, self.control)
        self.assertEqual(result.outcome, "refused")
        self.assertIn("growth" if "growth" in result.note else "grow", result.note)


class Simulated(SearchTest):
    """The model's truth is known: without luck a load breaks when its work does not fit into the cores."""

    def run_heron(self, parameters: Parameters, **more: Any) -> tuple[PassResult, SearchResult]:
        one = job("visitor-lens", {"start": 4, "resolution": 1, **more}, configured={"buffer_frames": 8})
        result = SimulatedMachine(parameters, speed=0).run(one, self.folder, self.control)
        return result, search_result(plan_of(one.settings), attempts_of(result.attempts))

    def calm(self, **chip: float) -> Parameters:
        demand = replace(HERON.demands["visitor-lens"], burst_sd=0.0, attempt_sd=0.0)
        return replace(
            HERON,
            chip=replace(HERON.chip, processor_w=1.0, **chip),  # type: ignore[arg-type]
            noise=replace(HERON.noise, run_sd=0.0, odd_share=0.0),
            demands={"visitor-lens": demand},
        )

    def test_the_bracket_holds_the_models_limit(self) -> None:
        parameters = self.calm()
        chip, demand = parameters.chip, parameters.demands["visitor-lens"]
        cores = chip.cores + chip.second_thread_gain * (chip.logical - chip.cores)
        limit = chip.core_speed * cores / (demand.pictures_hz * demand.processor_ms / 1000)
        _, found = self.run_heron(parameters)
        assert found.cold.held is not None
        assert found.cold.broken is not None
        self.assertLessEqual(found.cold.held, limit)
        self.assertGreater(found.cold.broken, limit)
        self.assertIsNone(found.unstable)

    def test_heat_lowers_the_limit_and_the_loss_is_told(self) -> None:
        parameters = self.calm()
        hot = replace(
            parameters,
            chip=replace(parameters.chip, processor_w=90.0),
            heat=replace(parameters.heat, sink_capacity=4000.0, sink_to_air=1.2),
        )
        _, found = self.run_heron(hot, soak_s=3600)
        assert found.loss_pct is not None
        self.assertGreater(found.loss_pct, 5)

    def test_noise_makes_an_unstable_zone_that_is_kept(self) -> None:
        results = [self.run_heron(replace(HERON, seed=seed, events=[]))[1] for seed in range(6)]
        self.assertTrue(any(found.unstable for found in results))

    def test_a_crash_on_purpose_is_an_attempt_that_broke_with_its_reason(self) -> None:
        event = next(one for one in HERON.events if one.outcome == "crashed")
        one = job("visitor-lens", {"start": 4, "resolution": 1}, configuration=event.configuration)
        result = SimulatedMachine(HERON, speed=0).run(one, self.folder, self.control)
        self.assertEqual([a["reason"] for a in result.attempts if a["reason"] == event.note], [event.note])


class AfterAKill(unittest.TestCase):
    def test_attempts_on_disk_are_not_tried_again(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            spool = Spool(Path(name))
            server = FakeServer()
            pass_id = uuid.uuid4()
            before = [{"load": 4, "holds": True}, {"load": 6, "holds": False, "reason": "late"}]
            spool.open(pass_id, job("visitor-lens", {"start": 4}))
            spool.keep_attempts(pass_id, before)
            machine = SimulatedMachine(HERON, speed=0)
            Agent(machine, spool, server.client(), until_idle=True).run()
            (manifest,) = server.manifests.values()
            self.assertEqual((manifest["outcome"], manifest["owe_again"]), ("crashed", True))
            self.assertEqual(manifest["attempts"], before)

    def test_a_search_goes_on_with_the_attempts_of_its_earlier_part(self) -> None:
        before = [{"load": 4, "holds": True}, {"load": 6, "holds": True}, {"load": 9, "holds": False}]
        with tempfile.TemporaryDirectory() as name:
            one = job("visitor-lens", {"start": 4, "resolution": 1}, attempts=before)
            result = SimulatedMachine(HERON, speed=0).run(one, Path(name), Control(lambda *told: None))
        self.assertEqual(result.attempts[:3], before)
        self.assertEqual(result.attempts[3]["load"], 7)
        self.assertEqual(json.loads(json.dumps(result.attempts)), result.attempts)
