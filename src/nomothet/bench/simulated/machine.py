"""A simulated machine behind the bench's protocol: the model's run, seen through sensors, played at a chosen speed."""

import hashlib
import json
import math
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import numpy as np

from nomothet.bench.errors import BenchError
from nomothet.bench.job import Captured, Control, Job, PassResult, Reported
from nomothet.bench.simulated.model import STEP_S, Floats, Recording, Simulation
from nomothet.bench.simulated.parameters import Demand, Event, Parameters

_REPORT_S = 0.25
_SOURCE = "simulated sensor"
_MEGAPIXELS = {"720p": 0.92, "1080p": 2.07, "1440p": 3.69, "4K": 8.29}


class SimulatedMachine:
    """Plays a system.

    Parameters
    ----------
    speed : float
        Seconds of the pass per second of waiting; 0 does not wait at all.
    """

    def __init__(self, parameters: Parameters, speed: float = 1.0, rate_hz: float = 4.0) -> None:
        self._parameters = parameters
        self._speed = speed
        self._rate_hz = rate_hz

    def inventory(self) -> dict[str, Any]:
        return {**self._parameters.inventory, "simulated": "yes"}

    def readings(self) -> dict[str, float]:
        heat = self._parameters.heat
        return {"processor use": 2.0, "temperature": heat.ambient_c + 12, "room temperature": heat.ambient_c}

    def run(self, job: Job, folder: Path, control: Control) -> PassResult:
        """Run the model to its end, then play it."""
        started_at = datetime.now(UTC)
        event = self._parameters.event_for(job.workload, job.configuration, job.number)
        try:
            demand = self._demand(job)
        except BenchError as error:
            return PassResult("refused", started_at, 0.0, str(error), self._environment(job))
        if event is not None and event.outcome != "completed":
            return PassResult(event.outcome, started_at, 0.0, event.note, self._environment(job))
        simulation = self._simulation(job, demand, event)
        recording = simulation.run()
        length = recording.t_s[-1] + STEP_S
        captures = self._captures(recording, simulation_rng(self._parameters.seed, job, "sensors"))
        played = self._play(recording, length, control)
        if played < length:
            words = "the bench was ended" if control.interrupted.is_set() else "stopped by the tester"
            return PassResult(
                "stopped",
                started_at,
                played,
                words,
                self._environment(job),
                captures=[_cut(captured, played) for captured in captures],
                owe_again=control.interrupted.is_set(),
            )
        return PassResult(
            "completed",
            started_at,
            length,
            event.note if event else "",
            self._environment(job),
            figures=_reported(job, demand, length),
            captures=captures,
        )

    def recover(self, job: Job, folder: Path) -> PassResult:
        """A simulated pass keeps nothing while it plays."""
        began = datetime.fromtimestamp((folder / "job.json").stat().st_mtime, UTC)
        return PassResult("crashed", began, 0.0, "the bench was killed during the pass", {}, owe_again=True)

    def _demand(self, job: Job) -> Demand:
        if job.workload not in self._parameters.demands:
            raise BenchError(f"{self._parameters.name} cannot run {job.workload}")
        return self._parameters.demands[job.workload]

    def _limit_w(self, job: Job) -> float:
        asked = float(job.configured.get("power_limit_w", math.inf))
        return max(asked, self._parameters.chip.lowest_limit_w)

    def _simulation(self, job: Job, demand: Demand, event: Event | None) -> Simulation:
        rng = simulation_rng(self._parameters.seed, job, "run")
        noise = self._parameters.noise
        slowness = math.exp(rng.normal(0, noise.run_sd))
        if rng.random() < noise.odd_share:
            slowness *= 1 + noise.odd_loss
        slowness *= 1 + (event.loss if event else 0.0)
        return Simulation(
            self._parameters.chip,
            self._parameters.heat,
            noise,
            demand,
            limit_w=self._limit_w(job),
            megapixels=_MEGAPIXELS.get(str(job.settings.get("resolution", "1080p")), 2.07),
            slowness=slowness,
            rng=rng,
        )

    def _environment(self, job: Job) -> dict[str, Any]:
        observed: dict[str, Any] = {}
        if "power_limit_w" in job.configured:
            observed["power_limit_w"] = self._limit_w(job)
        return {**self.inventory(), "settings": job.configured, "observed": observed}

    def _captures(self, recording: Recording, rng: np.random.Generator) -> list[Captured]:
        """The recording as sensors see it: at the sampling rate, with their noise and steps."""
        every = max(1, round(1 / (self._rate_hz * STEP_S)))
        t = np.array(recording.t_s)[::every]
        chip = self._parameters.chip

        def lane(
            name: str, values: list[float], unit: str, place: str, sd: float, step: float, capacity: float | None
        ) -> Captured:
            seen = np.array(values)[::every] + rng.normal(0, sd, len(t))
            seen = np.round(seen / step) * step
            if capacity is not None:
                seen = np.clip(seen, 0, capacity)
            columns = {"t_s": t, "value": _rounded(seen)}
            return Captured(name, "sensor", columns, unit, place, _SOURCE, capacity)

        lanes = [
            lane("graphics use", recording.graphics_pct, "%", "graphics", 0.8, 1, 100),
            lane("busiest core", recording.busiest_pct, "%", "busiest core", 1.5, 1, 100),
            lane("processor use", recording.processor_pct, "%", "all cores", 1.0, 1, 100),
            lane("memory used", recording.memory_gb, "GB", "main memory", 0.02, 0.1, chip.memory_gb),
            lane("temperature", recording.die_c, "°C", "package", 0.4, 1, None),
            lane("clock", recording.clock_mhz, "MHz", "mean of cores", 12, 25, None),
            lane("power", recording.power_w, "W", "package", 0.15, 0.1, None),
        ]
        frames = np.array(recording.frame_ms)
        if not len(frames):
            return lanes
        return [Captured("frames", "frames", {"frame_ms": frames}, "ms", "", "simulated frames"), *lanes]

    def _play(self, recording: Recording, length: float, control: Control) -> float:
        """Tell of the run as if it were happening; returns how far it got."""
        if self._speed <= 0:
            return 0.0 if control.over else length
        at = 0.0
        per_step = max(1, len(recording.frame_ms)) / max(1, len(recording.t_s))
        while at < length:
            step = min(len(recording.t_s) - 1, int(at / STEP_S))
            readings: dict[str, float | None] = {
                "temperature": round(recording.die_c[step], 0),
                "power": round(recording.power_w[step], 1),
                "clock": round(recording.clock_mhz[step], 0),
                "processor use": round(recording.processor_pct[step], 0),
            }
            if recording.frame_ms:
                upto = max(1, int(step * per_step))
                recent = recording.frame_ms[max(0, upto - 60) : upto]
                readings["frame rate"] = round(1000 * len(recent) / sum(recent), 1)
            control.report("running", round(at, 1), round(length - at, 1), readings)
            if control.stop_wanted.wait(_REPORT_S) or control.interrupted.is_set():
                return at
            at += _REPORT_S * self._speed
        return length


def simulation_rng(seed: int, job: Job, purpose: str) -> np.random.Generator:
    """A source of randomness that is the same for the same pass of the same cell, whatever ran before it."""
    settings = json.dumps([job.settings, job.configured], sort_keys=True)
    text = f"{seed}|{job.workload}|{job.configuration}|{settings}|{job.number}|{purpose}"
    return np.random.default_rng(int.from_bytes(hashlib.sha256(text.encode()).digest()[:8], "big"))


def _rounded(values: Floats) -> Floats:
    return np.round(values, 3)


def _cut(captured: Captured, played_s: float) -> Captured:
    """What was recorded up to a moment."""
    if captured.kind == "frames":
        frames = captured.columns["frame_ms"]
        kept = int(np.searchsorted(np.cumsum(frames.astype(float)) / 1000, played_s))
        columns = {"frame_ms": frames[: max(1, kept)]}
    else:
        kept = int(np.searchsorted(captured.columns["t_s"].astype(float), played_s))
        columns = {name: column[: max(1, kept)] for name, column in captured.columns.items()}
    return Captured(**{**vars(captured), "columns": columns})


def _reported(job: Job, demand: Demand, length: float) -> list[Reported]:
    """What the workload itself says at its end: a timed task its time, a suite its score."""
    if demand.kind != "task":
        return []
    return [
        Reported(metric["key"], round(length, 1), metric["unit"], metric["direction"], metric["scale"])
        for metric in job.metrics
        if metric["unit"] == "s"
    ]
