"""The physical model of a simulated system.

A frame lasts as long as the slower of its processor part and its graphics part. Either part follows the clock but for a
share that waits for memory. Power follows use and clock; a governor lowers the clock to keep the package's power under
its limit; heat flows from the die through the sink to the air, and the governor lowers the clock further when the die
is too hot. While it does so, frames hitch more often. Memory that is not there costs time and hitches.
"""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from nomothet.bench.simulated.conditions import Conditions, wanted_graphics_gb
from nomothet.bench.simulated.parameters import Chip, Demand, Heat
from nomothet.bench.simulated.work import STEP_S, Clocks, Use, Work, filled

Floats = NDArray[np.float64]

_THERMAL_GAIN = 0.02
_THERMAL_RECOVERY = 0.004
# Major page faults a second by the share of main memory that is wanted and not there.
_FAULTS_HZ = 6000.0


@dataclass
class State:
    """The system between two steps."""

    die_c: float
    sink_c: float
    clock: float = 1.0
    graphics_clock: float = 1.0
    heat_ceiling: float = 1.0
    hot: bool = False
    # What holds the clock down: nothing, "heat" or "power".
    held_by: str = ""


@dataclass
class Recording:
    """What a run leaves: frames, and one entry per step of everything that sensors see."""

    frame_ms: list[float] = field(default_factory=list)
    t_s: list[float] = field(default_factory=list)
    clock_mhz: list[float] = field(default_factory=list)
    power_w: list[float] = field(default_factory=list)
    graphics_w: list[float] = field(default_factory=list)
    die_c: list[float] = field(default_factory=list)
    processor_pct: list[float] = field(default_factory=list)
    busiest_pct: list[float] = field(default_factory=list)
    graphics_pct: list[float] = field(default_factory=list)
    memory_gb: list[float] = field(default_factory=list)
    graphics_memory_gb: list[float] = field(default_factory=list)
    swap_gb: list[float] = field(default_factory=list)
    faults_hz: list[float] = field(default_factory=list)
    # The truth that no sensor shows: what each step was busy with, and what held the clock.
    uses: list[Use] = field(default_factory=list)
    held_by: list[str] = field(default_factory=list)

    @property
    def length_s(self) -> float:
        return self.t_s[-1] + STEP_S if self.t_s else 0.0


class Simulation:
    """One run of a workload on a system.

    Parameters
    ----------
    state : State, optional
        How the system is at the start; cold without it.
    """

    def __init__(
        self, chip: Chip, heat: Heat, demand: Demand, conditions: Conditions, work: Work, state: State | None = None
    ) -> None:
        self._chip = chip
        self._heat = heat
        self._demand = demand
        self._conditions = conditions
        self._work = work
        self.state = state or State(heat.start_c, heat.start_c - 4)
        self.recording = Recording()

    def run(self) -> Recording:
        """The whole run, to the end of its work."""
        t = 0.0
        while not self._work.is_over(t):
            state = self.state
            use = self._work.step(t, Clocks(state.clock, state.graphics_clock, state.hot))
            self._note(t, use, *self._settle(t, use))
            t += STEP_S
        self.recording.frame_ms = self._work.frame_ms
        return self.recording

    def _settle(self, t: float, use: Use) -> tuple[float, float]:
        """Power of package and graphics card in this step; moves heat and the governor's next clocks along."""
        chip, heat, state, conditions = self._chip, self._heat, self.state, self._conditions
        processor, graphics = chip.processor_w * use.processor, chip.graphics_w * use.graphics
        at_full = processor + graphics if chip.shared_limit else processor
        package = chip.base_w + at_full * state.clock**chip.exponent
        apart = 0.0 if chip.shared_limit else graphics * state.graphics_clock**chip.exponent
        flow = (state.die_c - state.sink_c) / heat.die_to_sink
        out = (state.sink_c - conditions.ambient_c) / (heat.sink_to_air * conditions.sink_to_air)
        state.die_c += STEP_S * (package - flow) / heat.die_capacity
        state.sink_c += STEP_S * (flow + apart * chip.graphics_heat_share - out) / heat.sink_capacity
        if state.die_c > heat.limit_c:
            state.heat_ceiling -= _THERMAL_GAIN * (state.die_c - heat.limit_c)
            state.hot = True
        elif state.heat_ceiling < 1:
            state.heat_ceiling += _THERMAL_RECOVERY
            state.hot = state.heat_ceiling < 0.995
        state.heat_ceiling = min(1.0, max(chip.floor_clock, state.heat_ceiling))
        limit_w = conditions.boost_w if t < conditions.boost_s else conditions.limit_w
        allowed = max(0.0, limit_w - chip.base_w)
        by_power = (allowed / at_full) ** (1 / chip.exponent) if at_full > 0 else 1.0
        state.clock = min(1.0, state.heat_ceiling, max(chip.floor_clock, by_power))
        state.held_by = "" if state.clock > 0.995 else "heat" if state.heat_ceiling <= by_power else "power"
        state.graphics_clock = state.clock if chip.shared_limit else state.heat_ceiling
        return float(package), float(apart)

    def _note(self, t: float, use: Use, power_w: float, graphics_w: float) -> None:
        recording, state, conditions = self.recording, self.state, self._conditions
        recording.t_s.append(t)
        recording.clock_mhz.append(state.clock * self._chip.max_clock_mhz)
        recording.power_w.append(power_w)
        recording.graphics_w.append(graphics_w)
        recording.die_c.append(state.die_c)
        recording.processor_pct.append(100 * use.processor)
        recording.busiest_pct.append(100 * use.busiest)
        recording.graphics_pct.append(100 * use.graphics)
        recording.uses.append(use)
        recording.held_by.append(state.held_by)
        wanted = self._chip.idle_memory_gb + self._demand.memory_gb * filled(t)
        recording.memory_gb.append(min(wanted, conditions.memory_gb))
        recording.swap_gb.append(max(0.0, wanted - conditions.memory_gb))
        recording.faults_hz.append(_FAULTS_HZ * use.main_shortage)
        graphics = wanted_graphics_gb(self._demand, conditions.megapixels) * filled(t)
        recording.graphics_memory_gb.append(min(graphics, conditions.graphics_memory_gb))
