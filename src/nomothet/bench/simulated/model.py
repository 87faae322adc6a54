"""The physical model of a simulated system.

A frame lasts as long as the slower of its processor part and its graphics part. Either part follows the clock but for a
share that waits for memory. Power follows use and clock; a governor lowers the clock to keep the package's power under
its limit; heat flows from the die through the sink to the air, and the governor lowers the clock further when the die
is too hot. While it does so, frames hitch more often.
"""

import math
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from nomothet.bench.simulated.parameters import Chip, Demand, Heat, Noise

Floats = NDArray[np.float64]

STEP_S = 0.1
_THERMAL_GAIN = 0.02
_THERMAL_RECOVERY = 0.004
_HITCH_FACTOR = (2.4, 4.0)


@dataclass
class State:
    """The system between two steps."""

    die_c: float
    sink_c: float
    clock: float = 1.0
    heat_ceiling: float = 1.0
    power_w: float = 0.0
    processor_use: float = 0.0
    graphics_use: float = 0.0
    hot: bool = False


@dataclass
class Recording:
    """What a run leaves: frames, and one entry per step of everything that sensors see."""

    frame_ms: list[float] = field(default_factory=list)
    t_s: list[float] = field(default_factory=list)
    clock_mhz: list[float] = field(default_factory=list)
    power_w: list[float] = field(default_factory=list)
    die_c: list[float] = field(default_factory=list)
    processor_pct: list[float] = field(default_factory=list)
    busiest_pct: list[float] = field(default_factory=list)
    graphics_pct: list[float] = field(default_factory=list)
    memory_gb: list[float] = field(default_factory=list)
    work_done: float = 0.0


class Simulation:
    """One run of a workload on a system under a power limit.

    Parameters
    ----------
    limit_w : float
        The power limit that the firmware really took.
    megapixels : float
        Pixels of a frame, in millions.
    slowness : float
        Factor on all work: run-to-run noise, and odd passes.
    rng : numpy.random.Generator
        Source of all randomness of this run.
    """

    def __init__(
        self,
        chip: Chip,
        heat: Heat,
        noise: Noise,
        demand: Demand,
        *,
        limit_w: float,
        megapixels: float,
        slowness: float,
        rng: np.random.Generator,
    ) -> None:
        self._chip = chip
        self._heat = heat
        self._noise = noise
        self._demand = demand
        self._limit_w = limit_w
        self._rng = rng
        self._processor_ms = demand.processor_ms * slowness
        self._graphics_ms = (demand.graphics_ms + demand.graphics_ms_per_mpx * megapixels) * slowness
        self._work_s = demand.work_s * slowness
        self.state = State(heat.start_c, heat.start_c - 4)
        self.recording = Recording()
        self._carry_ms = 0.0

    def run(self) -> Recording:
        """The whole run: for its duration, or until the task's work is done."""
        t = 0.0
        while not self._is_over(t):
            if self._demand.kind == "task":
                self._task_step()
            else:
                self._frame_step(t)
            self._settle(t)
            t += STEP_S
        return self.recording

    def _is_over(self, t: float) -> bool:
        if self._demand.kind == "task":
            return self.recording.work_done >= self._work_s
        return t >= self._demand.duration_s - 1e-9

    def _pace(self) -> float:
        """Speed at the present clock against full clock, with the share that waits for memory."""
        waits = self._demand.memory_share
        return 1 / ((1 - waits) / self.state.clock + waits)

    def _task_step(self) -> None:
        self.recording.work_done += self._pace() * STEP_S
        self.state.processor_use = min(1.0, self._demand.threads / self._chip.cores)
        self.state.graphics_use = self._demand.graphics_load

    def _frame_step(self, t: float) -> None:
        """Frames that begin in this step; what reaches beyond it is carried over."""
        swing = 1 + self._demand.scene_swing * math.sin(2 * math.pi * t / 17.0) * math.cos(2 * math.pi * t / 41.0)
        pace = self._pace()
        processor, graphics = self._processor_ms * swing / pace, self._graphics_ms * swing / pace
        mean = max(processor, graphics)
        room = STEP_S * 1000 - self._carry_ms
        if room > 0:
            count = max(1, math.ceil(room / mean) + 2)
            frames = mean * np.exp(self._rng.normal(0, self._noise.frame_sd, count))
            rate = self._demand.hitches_per_min + (self._demand.hot_hitches_per_min if self.state.hot else 0)
            hitched = self._rng.random(count) < rate * frames / 60_000
            frames[hitched] *= self._rng.uniform(*_HITCH_FACTOR, int(hitched.sum()))
            kept = int(np.searchsorted(np.cumsum(frames), room, side="left")) + 1
            self.recording.frame_ms.extend(frames[:kept].tolist())
            self._carry_ms += float(frames[:kept].sum())
        self._carry_ms -= STEP_S * 1000
        self.state.graphics_use = graphics / mean
        self.state.processor_use = min(1.0, processor / mean * self._demand.threads / self._chip.cores)

    def _settle(self, t: float) -> None:
        """Power, heat and the governor's next clock."""
        chip, heat, state = self._chip, self._heat, self.state
        at_full = chip.processor_w * state.processor_use + chip.graphics_w * state.graphics_use
        state.power_w = chip.base_w + at_full * state.clock**chip.exponent
        flow = (state.die_c - state.sink_c) / heat.die_to_sink
        out = (state.sink_c - heat.ambient_c) / heat.sink_to_air
        state.die_c += STEP_S * (state.power_w - flow) / heat.die_capacity
        state.sink_c += STEP_S * (flow - out) / heat.sink_capacity
        if state.die_c > heat.limit_c:
            state.heat_ceiling -= _THERMAL_GAIN * (state.die_c - heat.limit_c)
            state.hot = True
        elif state.heat_ceiling < 1:
            state.heat_ceiling += _THERMAL_RECOVERY
            state.hot = state.heat_ceiling < 0.995
        state.heat_ceiling = min(1.0, max(chip.floor_clock, state.heat_ceiling))
        allowed = max(0.0, self._limit_w - chip.base_w)
        by_power = (allowed / at_full) ** (1 / chip.exponent) if at_full > 0 else 1.0
        state.clock = min(1.0, state.heat_ceiling, max(chip.floor_clock, by_power))
        self._note(t)

    def _note(self, t: float) -> None:
        recording, state = self.recording, self.state
        recording.t_s.append(t)
        recording.clock_mhz.append(state.clock * self._chip.max_clock_mhz)
        recording.power_w.append(state.power_w)
        recording.die_c.append(state.die_c)
        recording.processor_pct.append(100 * state.processor_use)
        share = state.processor_use * self._chip.cores / max(1.0, self._demand.threads)
        recording.busiest_pct.append(100 * min(1.0, share))
        recording.graphics_pct.append(100 * state.graphics_use)
        filled = self._demand.memory_gb * (1 - math.exp(-t / 6.0))
        recording.memory_gb.append(self._chip.idle_memory_gb + filled)
