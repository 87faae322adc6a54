"""A simulated machine behind the bench's protocol: the model's run, seen through sensors, played at a chosen speed."""

import hashlib
import json
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import numpy as np

from nomothet.bench.errors import BenchError
from nomothet.bench.job import Control, Job, PassResult, Reported
from nomothet.bench.simulated.conditions import Conditions, DoesNotStart, conditions_of, observed_settings
from nomothet.bench.simulated.lanes import captures_of, cut
from nomothet.bench.simulated.load import LoadRun
from nomothet.bench.simulated.model import Recording, Simulation
from nomothet.bench.simulated.parameters import Demand, Event, Parameters
from nomothet.bench.simulated.player import Player
from nomothet.bench.simulated.work import Scene, Soak, Suite, Task, Work


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
        events = self._parameters.events_for(job.workload, job.configuration, job.number)
        environment = self._environment(job, events)
        early = next((event for event in events if event.outcome != "completed" and not _comes_later(event)), None)
        if early is not None:
            return PassResult(early.outcome, started_at, 0.0, early.note, environment)
        try:
            demand = self._demand(job)
            rng = simulation_rng(self._parameters.seed, job, "run")
            conditions = self._conditions(job, demand, events, rng)
            if demand.kind == "streams":
                result = self._search(job, demand, conditions, rng, control, started_at, events)
            else:
                result = self._single(job, demand, conditions, rng, control, started_at, events)
        except DoesNotStart as error:
            return PassResult("did_not_start", started_at, 0.0, str(error), environment)
        except BenchError as error:
            return PassResult("refused", started_at, 0.0, str(error), environment)
        return replace(result, environment=environment)

    def recover(self, job: Job, folder: Path) -> PassResult:
        """A simulated pass keeps nothing while it plays but the attempts of a search."""
        began = datetime.fromtimestamp((folder / "job.json").stat().st_mtime, UTC)
        words = "the bench was killed during the pass"
        return PassResult("crashed", began, 0.0, words, {}, owe_again=True, attempts=job.attempts)

    def _single(
        self,
        job: Job,
        demand: Demand,
        conditions: Conditions,
        rng: np.random.Generator,
        control: Control,
        started_at: datetime,
        events: list[Event],
    ) -> PassResult:
        """A workload that runs once from its start to its end."""
        work = self._work(demand, conditions, rng)
        recording = Simulation(self._parameters.chip, self._parameters.heat, demand, conditions, work).run()
        stuck = next((event.stuck for event in events if event.stuck), "")
        seen = simulation_rng(self._parameters.seed, job, "sensors")
        captures = captures_of(recording, conditions, self._rate_hz, seen, stuck)
        if job.recorder == "off":
            captures = [one for one in captures if one.kind == "frames"]
        ends, outcome, note = _ending(recording, events)
        player = Player(control, self._speed)
        if not player.play(recording, ends):
            outcome, ends = "stopped", player.played_s
            note = "the bench was ended" if control.interrupted.is_set() else "stopped by the tester"
        if ends is not None:
            captures = [cut(captured, ends) for captured in captures]
        return PassResult(
            outcome,
            started_at,
            recording.length_s if ends is None else ends,
            note,
            figures=_reported(job, demand, work, recording.length_s) if outcome == "completed" else [],
            captures=captures,
            owe_again=control.interrupted.is_set(),
            phases=work.phases(recording.length_s if ends is None else ends) if isinstance(work, Soak) else [],
        )

    def _search(
        self,
        job: Job,
        demand: Demand,
        conditions: Conditions,
        rng: np.random.Generator,
        control: Control,
        started_at: datetime,
        events: list[Event],
    ) -> PassResult:
        """A search for the load that holds."""
        player = Player(control, self._speed)
        run = LoadRun(self._parameters, demand, conditions, rng, player, events)
        attempts = run.search(job, control)
        over = control.over
        seen = simulation_rng(self._parameters.seed, job, "sensors")
        note = "the bench was ended" if control.interrupted.is_set() else "stopped by the tester"
        return PassResult(
            "stopped" if over else "completed",
            started_at,
            player.played_s,
            note if over else "",
            captures=captures_of(run.recording, conditions, self._rate_hz, seen) if run.recording.t_s else [],
            owe_again=control.interrupted.is_set(),
            attempts=attempts,
        )

    def _work(self, demand: Demand, conditions: Conditions, rng: np.random.Generator) -> Work:
        chip = self._parameters.chip
        if demand.kind == "task":
            return Task(chip, demand, conditions)
        if demand.kind == "suite":
            return Suite(chip, demand, conditions)
        kind = Soak if demand.kind == "soak" else Scene
        return kind(chip, self._parameters.noise, demand, conditions, rng)

    def _demand(self, job: Job) -> Demand:
        for name in (f"{job.workload} {job.version}", job.workload):
            if name in self._parameters.demands:
                return self._parameters.demands[name]
        raise BenchError(f"{self._parameters.name} cannot run {job.workload}")

    def _conditions(self, job: Job, demand: Demand, events: list[Event], rng: np.random.Generator) -> Conditions:
        return conditions_of(
            self._parameters,
            demand,
            configuration=job.configuration,
            configured=job.configured,
            settings=job.settings,
            number=job.number,
            events=events,
            rng=rng,
            recording=job.recorder != "off",
        )

    def _environment(self, job: Job, events: list[Event]) -> dict[str, Any]:
        observed = observed_settings(self._parameters, job.configured, events)
        return {**self.inventory(), "settings": job.configured, "observed": observed}


def simulation_rng(seed: int, job: Job, purpose: str) -> np.random.Generator:
    """A source of randomness that is the same for the same pass of the same cell, whatever ran before it."""
    settings = json.dumps([job.settings, job.configured], sort_keys=True)
    text = f"{seed}|{job.workload}|{job.configuration}|{settings}|{job.number}|{purpose}"
    return np.random.default_rng(int.from_bytes(hashlib.sha256(text.encode()).digest()[:8], "big"))


def _comes_later(event: Event) -> bool:
    return event.at_s is not None or event.over_c is not None


def _ending(recording: Recording, events: list[Event]) -> tuple[float | None, str, str]:
    """When and how a run ends before its time, or that it does not; with the notes of what happened."""
    note = next((event.note for event in events if event.note), "")
    for event in events:
        if event.over_c is not None:
            at = next((t for t, c in zip(recording.t_s, recording.die_c, strict=True) if c >= event.over_c), None)
            if at is not None:
                words = f"from {event.over_c:g} °C, first after {at:.0f} s"
                return None, event.outcome, f"{event.note} ({words})" if event.note else words
        elif event.at_s is not None and event.outcome != "completed" and event.at_s < recording.length_s:
            return event.at_s, event.outcome, event.note or f"after {event.at_s:g} s"
    return None, "completed", note if not any(_comes_later(event) for event in events) else ""


def _reported(job: Job, demand: Demand, work: Work, length_s: float) -> list[Reported]:
    """What the workload itself says at its end: a timed task its time, a suite its scores, a soak its errors."""
    said: dict[str, float] = {}
    if demand.kind == "task":
        first = work.first_s if isinstance(work, Task) else None
        said = {
            metric["key"]: at
            for metric in job.metrics
            if metric["unit"] == "s" and (at := first if metric.get("role") == "first" else length_s) is not None
        }
    elif isinstance(work, Suite):
        said = work.scores()
    elif isinstance(work, Soak):
        said = {"errors": 0.0}
    return [
        Reported(metric["key"], round(said[metric["key"]], 1), metric["unit"], metric["direction"], metric["scale"])
        for metric in job.metrics
        if metric["key"] in said
    ]
