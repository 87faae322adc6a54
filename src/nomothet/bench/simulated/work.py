"""What is done in a step of the model, by kind of workload: frames, a task, a suite, streams, a soak."""

import math
from dataclasses import dataclass, replace
from typing import Any, Protocol

import numpy as np

from nomothet.bench.simulated.conditions import Conditions, wanted_graphics_gb
from nomothet.bench.simulated.parameters import Chip, Demand, Noise

STEP_S = 0.1
_HITCH_FACTOR = (2.4, 4.0)
# What a shortage of main or graphics memory, as a share of what is wanted, costs in time and in hitches a minute.
_PAGING, _PAGING_HITCHES = 4.0, 40.0
_SPILL, _SPILL_HITCHES = 6.0, 60.0
# Programs take their memory by and by.
_FILLING_S = 6.0
# A soak's parts: idle until the first, a burst of this many seconds, and recovery from the last.
_SOAK_IDLE, _SOAK_BURST, _SOAK_RECOVERY = 0.05, 0.15, 0.95


@dataclass(frozen=True)
class Clocks:
    """Speed of processor and graphics against their full clocks, and whether heat holds them down."""

    processor: float
    graphics: float
    hot: bool


@dataclass(frozen=True)
class Use:
    """How busy the machine was, from 0 to 1, and the truth of what it was busy with.

    `processor_ms`, `graphics_ms` and `cap_ms` are what a frame would take by each alone; the longest limits it. The
    shortages are the shares of main and graphics memory that are wanted and not there.
    """

    processor: float
    busiest: float
    graphics: float
    processor_ms: float = 0.0
    graphics_ms: float = 0.0
    cap_ms: float = 0.0
    main_shortage: float = 0.0
    graphics_shortage: float = 0.0


class Work(Protocol):
    """One run of a workload, stepped by the model."""

    frame_ms: list[float]

    def step(self, t: float, clocks: Clocks) -> Use: ...

    def is_over(self, t: float) -> bool: ...


def effective_threads(chip: Chip, threads: int) -> float:
    """Full cores, and the second thread of a core for what it adds."""
    return min(threads, chip.cores) + chip.second_thread_gain * max(0, min(threads, chip.logical) - chip.cores)


def speed_up(chip: Chip, threads: int, parallel_share: float) -> float:
    """Against one thread (Amdahl 1967)."""
    return 1 / ((1 - parallel_share) + parallel_share / effective_threads(chip, threads))


def pace(clock: float, waits: float, bandwidth: float = 1.0) -> float:
    """Speed at a clock against full clock, with the share that waits for memory."""
    return 1 / ((1 - waits) / clock + waits / bandwidth)


def filled(t: float) -> float:
    """How much of its memory a program has taken after t seconds."""
    return 1 - math.exp(-t / _FILLING_S)


def shortage(wanted: float, offered: float) -> float:
    """The share of what is wanted that is not there."""
    return max(0.0, wanted - offered) / wanted if wanted > 0 else 0.0


class Scene:
    """Frames: each lasts as long as the slower of its processor part and its graphics part, or as the cap asks."""

    def __init__(
        self, chip: Chip, noise: Noise, demand: Demand, conditions: Conditions, rng: np.random.Generator
    ) -> None:
        self.frame_ms: list[float] = []
        self._chip, self._noise, self._demand, self._conditions, self._rng = chip, noise, demand, conditions, rng
        scale = conditions.slowness * conditions.work
        offered = effective_threads(chip, conditions.threads)
        self._processor_ms = demand.processor_ms / chip.core_speed * scale * max(1.0, demand.threads / offered)
        per_frame = demand.graphics_ms + demand.graphics_ms_per_mpx * conditions.megapixels
        self._graphics_ms = per_frame / max(chip.graphics_speed, 1e-9) * scale
        self._carry_ms = 0.0

    def is_over(self, t: float) -> bool:
        return t >= self._demand.duration_s - 1e-9

    def step(self, t: float, clocks: Clocks) -> Use:
        """Frames that begin in this step; what reaches beyond it is carried over."""
        demand, conditions = self._demand, self._conditions
        swing = 1 + demand.scene_swing * math.sin(2 * math.pi * t / 17.0) * math.cos(2 * math.pi * t / 41.0)
        # Borrowed graphics memory is main memory; a card has its own.
        borrowed = conditions.bandwidth if self._chip.graphics_memory_gb is None else 1.0
        processor = self._processor_ms * swing / pace(clocks.processor, demand.memory_share, conditions.bandwidth)
        graphics = self._graphics_ms * swing / pace(clocks.graphics, demand.memory_share, borrowed)
        main_short, graphics_short = self._shortages(t)
        # While memory is fetched from elsewhere, neither side works.
        with_waits = processor * (1 + _PAGING * main_short), graphics * (1 + _SPILL * graphics_short)
        free = max(with_waits)
        cap = 1000 / conditions.cap_fps if conditions.cap_fps else 0.0
        mean = max(free, cap)
        room = STEP_S * 1000 - self._carry_ms
        if room > 0:
            extra = _PAGING_HITCHES * main_short + _SPILL_HITCHES * graphics_short
            self._draw(mean, free, room, extra + (demand.hot_hitches_per_min if clocks.hot else 0))
        self._carry_ms -= STEP_S * 1000
        threads = min(demand.threads, conditions.threads)
        busy = min(1.0, processor / mean)
        return Use(
            min(1.0, busy * threads / self._chip.logical),
            busy,
            min(1.0, graphics / mean),
            *with_waits,
            cap,
            main_short,
            graphics_short,
        )

    def _shortages(self, t: float) -> tuple[float, float]:
        """Of main and of graphics memory, as shares of what is wanted by then."""
        demand, conditions = self._demand, self._conditions
        part = filled(t)
        main = self._chip.idle_memory_gb + demand.memory_gb * part
        graphics = wanted_graphics_gb(demand, conditions.megapixels) * part
        return shortage(main, conditions.memory_gb), shortage(graphics, conditions.graphics_memory_gb)

    def _draw(self, mean: float, free: float, room: float, more_hitches: float) -> None:
        count = max(1, math.ceil(room / mean) + 2)
        # A frame that waits for the cap takes up most of its own noise while it waits.
        noise = self._noise.frame_sd * (1 if free >= mean else 0.2)
        frames = mean * np.exp(self._rng.normal(0, noise, count))
        rate = self._demand.hitches_per_min + more_hitches
        hitched = self._rng.random(count) < rate * frames / 60_000
        frames[hitched] *= self._rng.uniform(*_HITCH_FACTOR, int(hitched.sum()))
        kept = int(np.searchsorted(np.cumsum(frames), room, side="left")) + 1
        self.frame_ms.extend(frames[:kept].tolist())
        self._carry_ms += float(frames[:kept].sum())


class Task:
    """Work that is done when it is done; on the graphics it is handed over first."""

    def __init__(self, chip: Chip, demand: Demand, conditions: Conditions) -> None:
        self.frame_ms: list[float] = []
        self._chip, self._demand, self._conditions = chip, demand, conditions
        self._left_s = demand.work_s * conditions.work * conditions.slowness
        self._first_at_s = self._left_s * (1 - demand.first_share)
        # When the first picture was there; None before it is.
        self.first_s: float | None = None

    def is_over(self, t: float) -> bool:
        return self._left_s <= 0

    def step(self, t: float, clocks: Clocks) -> Use:
        use = self._work(t, clocks)
        if self._demand.first_share and self.first_s is None and self._left_s <= self._first_at_s:
            self.first_s = t + STEP_S
        return use

    def _work(self, t: float, clocks: Clocks) -> Use:
        chip, demand, conditions = self._chip, self._demand, self._conditions
        if conditions.on_graphics:
            if t < demand.hand_over_s:
                return Use(1 / chip.logical, 1.0, 0.1)
            self._left_s -= demand.graphics_gain * chip.graphics_speed * clocks.graphics * STEP_S
            return Use(1 / chip.logical, 0.6, 1.0)
        rate = chip.core_speed * pace(clocks.processor, demand.memory_share, conditions.bandwidth)
        self._left_s -= rate * speed_up(chip, conditions.threads, demand.parallel_share) * STEP_S
        return Use(conditions.threads / chip.logical, 1.0, demand.graphics_load)


class Suite:
    """Two scores: one thread for the first half, all threads for the second."""

    def __init__(self, chip: Chip, demand: Demand, conditions: Conditions) -> None:
        self.frame_ms: list[float] = []
        self._chip, self._demand, self._conditions = chip, demand, conditions
        self._paces: tuple[list[float], list[float]] = ([], [])

    def is_over(self, t: float) -> bool:
        return t >= self._demand.duration_s - 1e-9

    def step(self, t: float, clocks: Clocks) -> Use:
        chip, conditions = self._chip, self._conditions
        many = t >= self._demand.duration_s / 2
        self._paces[many].append(pace(clocks.processor, self._demand.memory_share, conditions.bandwidth))
        threads = conditions.threads if many else 1
        return Use(threads / chip.logical, 1.0, 0.0)

    def scores(self) -> dict[str, float]:
        """Points by metric: what one core does at the pace held, and all of them."""
        chip, demand, conditions = self._chip, self._demand, self._conditions
        one, all_ = (float(np.mean(paces)) if paces else 0.0 for paces in self._paces)
        points = demand.points * chip.core_speed / conditions.slowness
        gain = speed_up(chip, conditions.threads, demand.parallel_share)
        return {"one_thread": points * one, "all_threads": points * all_ * gain}


class Streams:
    """So many streams of pictures; what is not done in time waits, and the load breaks when the buffer is full."""

    def __init__(self, chip: Chip, demand: Demand, conditions: Conditions, load: int, rng: np.random.Generator) -> None:
        self.frame_ms: list[float] = []
        self._chip, self._demand, self._conditions, self._rng = chip, demand, conditions, rng
        self._picture_s = demand.processor_ms / 1000 * conditions.slowness
        self._load = load
        self._waiting_s = 0.0
        self.broke_at_s: float | None = None

    def is_over(self, t: float) -> bool:
        return self.broke_at_s is not None or t >= self._demand.duration_s - 1e-9

    def step(self, t: float, clocks: Clocks) -> Use:
        chip, demand, conditions = self._chip, self._demand, self._conditions
        speed = chip.core_speed * pace(clocks.processor, demand.memory_share, conditions.bandwidth)
        capable = speed * effective_threads(chip, conditions.threads) * STEP_S
        coming = self._load * demand.pictures_hz * STEP_S * self._picture_s
        coming *= math.exp(self._rng.normal(0, demand.burst_sd))
        wanted = self._waiting_s + coming
        self._waiting_s = max(0.0, wanted - capable)
        waiting_pictures = self._waiting_s / (max(1, self._load) * self._picture_s)
        if waiting_pictures > conditions.buffer_frames:
            self.broke_at_s = t
        busy = min(1.0, wanted / capable)
        return Use(busy * conditions.threads / chip.logical, busy, 0.0)


class Soak(Scene):
    """Frames for as long as the soak lasts, with an idle part before and a recovery after."""

    def phases(self, length_s: float) -> list[dict[str, Any]]:
        """Idle, burst, sustained and recovery on the clock of the pass, as far as it came."""
        edges = [share * self._demand.duration_s for share in (0.0, _SOAK_IDLE, _SOAK_BURST, _SOAK_RECOVERY, 1.0)]
        spans = zip(("idle", "burst", "sustained", "recovery"), edges, edges[1:], strict=False)
        return [
            {"label": label, "start_s": round(start, 3), "end_s": round(min(end, length_s), 3)}
            for label, start, end in spans
            if start < length_s
        ]

    def step(self, t: float, clocks: Clocks) -> Use:
        share = t / self._demand.duration_s
        if share < _SOAK_IDLE or share >= _SOAK_RECOVERY:
            return Use(0.02, 0.05, 0.02)
        return replace(super().step(t, clocks), processor=1.0, busiest=1.0)
