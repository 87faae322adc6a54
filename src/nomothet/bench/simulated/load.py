"""A load search on a simulated system: attempts, soak and rest, and heat that goes from one to the next."""

from dataclasses import replace
from typing import Any

import numpy as np

from nomothet.bench.job import Control, Job
from nomothet.bench.searching import Tried, search
from nomothet.bench.simulated.conditions import Conditions
from nomothet.bench.simulated.model import Recording, Simulation, State
from nomothet.bench.simulated.parameters import Demand, Event, Parameters
from nomothet.bench.simulated.player import Player
from nomothet.bench.simulated.work import Streams
from nomothet.core.load_search import Attempt, NextAttempt

# Between attempts the machine rests for so long; a soak's backlog may grow as it likes.
_REST_S = 60.0
_NO_LIMIT = 1_000_000_000
_LANES = (
    "t_s", "clock_mhz", "power_w", "graphics_w", "die_c", "processor_pct", "busiest_pct", "graphics_pct", "memory_gb",
    "graphics_memory_gb", "swap_gb", "faults_hz",
)  # fmt: skip


class LoadRun:
    """The attempts of one pass on one simulated system."""

    def __init__(
        self,
        parameters: Parameters,
        demand: Demand,
        conditions: Conditions,
        rng: np.random.Generator,
        player: Player,
        events: list[Event],
    ) -> None:
        self._events = [event for event in events if event.at_s is not None and event.outcome == "crashed"]
        self._parameters = parameters
        self._demand = demand
        self._conditions = conditions
        self._rng = rng
        self._player = player
        self._state = State(parameters.heat.start_c, parameters.heat.start_c - 4)
        self.recording = Recording()
        self._soak_s = 0.0
        self._last = Recording()
        self._last_s = 0.0

    def search(self, job: Job, control: Control) -> list[dict[str, Any]]:
        """All attempts of the pass."""
        self._soak_s = float(job.settings.get("soak_s") or 0)
        return search(job.settings, job.attempts, self._try, control)

    def _try(self, proposed: NextAttempt) -> Tried | None:
        if proposed.hot:
            soak = replace(self._demand, duration_s=self._soak_s)
            if not self._run(soak, self._luckless(), proposed.load, "soaking")[1]:
                return None
        elif (
            self.recording.t_s
            and not self._run(replace(self._demand, duration_s=_REST_S), self._luckless(), 0, "resting")[1]
        ):
            return None
        luck = np.exp(self._rng.normal(0, self._demand.attempt_sd))
        conditions = replace(self._conditions, slowness=self._conditions.slowness * float(luck))
        work, whole = self._run(self._demand, conditions, proposed.load, f"trying {proposed.load}")
        if not whole:
            return None
        broke = work.broke_at_s
        reason = "" if broke is None else "pictures came late: the buffer was full"
        begun = self.recording.length_s - self._last_s
        crash = next((one for one in self._events if begun <= (one.at_s or 0) < self.recording.length_s), None)
        if crash is not None:
            broke, reason = (crash.at_s or 0) - begun, crash.note or "the program crashed"
        attempt = Attempt(
            proposed.load, broke is None, proposed.hot, None if broke is None else round(broke, 1), reason
        )
        return Tried(attempt, self._use())

    def _luckless(self) -> Conditions:
        return replace(self._conditions, buffer_frames=_NO_LIMIT)

    def _run(self, demand: Demand, conditions: Conditions, load: int, phase: str) -> tuple[Streams, bool]:
        chip, heat = self._parameters.chip, self._parameters.heat
        work = Streams(chip, demand, conditions, max(load, 0), self._rng)
        simulation = Simulation(chip, heat, demand, conditions, work, self._state)
        recording = simulation.run()
        self._last = recording
        whole = self._player.play(recording, phase=phase)
        offset, self._last_s = self.recording.length_s, recording.length_s
        recording.t_s = [offset + t for t in recording.t_s]
        for lane in _LANES:
            getattr(self.recording, lane).extend(getattr(recording, lane))
        return work, whole

    def _use(self) -> dict[str, Any]:
        """Mean use over the second half of the attempt, when it has settled."""
        half = len(self._last.t_s) // 2
        chip = self._parameters.chip
        lanes: dict[str, tuple[list[float], float | None]] = {
            "processor use": (self._last.processor_pct, 100),
            "memory used": (self._last.memory_gb, self._conditions.memory_gb),
            "temperature": (self._last.die_c, self._parameters.heat.limit_c),
            "clock": (self._last.clock_mhz, chip.max_clock_mhz),
        }
        return {
            name: {"mean": round(float(np.mean(values[half:])), 2), "capacity": capacity}
            for name, (values, capacity) in lanes.items()
            if values[half:]
        }
