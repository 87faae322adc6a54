"""Simulated runs whose truth is known, drawn by a seed, and what the analysis makes of them."""

from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from nomothet.bench.simulated.conditions import Conditions, conditions_of
from nomothet.bench.simulated.lanes import captures_of
from nomothet.bench.simulated.model import Recording, Simulation
from nomothet.bench.simulated.parameters import Demand, Noise, Parameters, read_parameters
from nomothet.bench.simulated.work import Scene
from nomothet.core.frames import Floats, frame_figures
from nomothet.core.limits import LimitReport, limits_of
from nomothet.core.per_second import Lane, Run, quantity_of, run_by_seconds
from nomothet.core.sustained import Limits, Sustained, sustained

SYSTEMS = Path(__file__).parents[2] / "demo" / "simulated"


@dataclass(frozen=True)
class Case:
    """One run: its truth, and what the sensors gave."""

    parameters: Parameters
    conditions: Conditions
    recording: Recording
    frames: Floats
    run: Run

    @property
    def declared(self) -> Limits:
        limit = self.conditions.limit_w
        return Limits(self.parameters.heat.limit_c, limit if np.isfinite(limit) else None)

    def sustained(self) -> Sustained:
        found = sustained(self.run, declared=self.declared)
        assert found is not None
        return found

    def limits(self) -> LimitReport:
        figures = frame_figures(self.frames, median_graphics_use=float(np.nanmedian(self.run.sensors["graphics use"])))
        return limits_of(
            self.run,
            held_fps=figures.held_fps,
            declared_cap_fps=self.conditions.cap_fps or None,
            burst_clock_mhz=self.sustained().burst_clock_mhz,
            declared=self.declared,
        )


def play(parameters: Parameters, demand: Demand, conditions: Conditions, seed: int) -> Case:
    """Run the model and look at it through its sensors."""
    rng = np.random.default_rng(seed)
    work = Scene(parameters.chip, parameters.noise, demand, conditions, rng)
    recording = Simulation(parameters.chip, parameters.heat, demand, conditions, work).run()
    captures = captures_of(recording, conditions, 4.0, rng)
    frames = next(one.columns["frame_ms"].astype(float) for one in captures if one.kind == "frames")
    lanes = [
        Lane(quantity, one.columns["t_s"].astype(float), one.columns["value"].astype(float), one.capacity)
        for one in captures
        if one.kind == "sensor" and (quantity := quantity_of(one.name, one.unit))
    ]
    return Case(parameters, conditions, recording, frames, run_by_seconds(frames, 0.0, lanes, recording.length_s))


def any_case(seed: int) -> Case:
    """A scene on any of the systems with graphics, limited by whatever the draw brings."""
    rng = np.random.default_rng([seed, 1])
    parameters = read_parameters(SYSTEMS / f"{rng.choice(['wren', 'heron', 'cormorant'])}.toml")
    demand = parameters.demands[str(rng.choice(["reef-walk", "dome-atlas", "tidal-rally"]))]
    demand = replace(demand, duration_s=60, threads=float(rng.choice([demand.threads, parameters.chip.logical])))
    resolution = float(rng.choice([0.92, 2.07, 3.69, 8.29]))
    wanted = demand.graphics_memory_gb + demand.graphics_memory_gb_per_mpx * resolution
    conditions = Conditions(
        limit_w=float(rng.choice([np.inf, np.inf, rng.uniform(15, 40)])),
        megapixels=resolution,
        threads=parameters.chip.logical,
        memory_gb=float(
            rng.choice([16, 16, parameters.chip.idle_memory_gb + demand.memory_gb * rng.uniform(0.7, 0.9)])
        ),
        graphics_memory_gb=float(rng.choice([8, 8, wanted * rng.uniform(0.6, 0.9)])),
        ambient_c=float(rng.uniform(18, 40)),
        cap_fps=float(rng.choice([0, 0, 30, 60])),
    )
    return play(parameters, demand, conditions, seed)


def hot_case(seed: int) -> Case:
    """A small machine in warm air, so that heat holds its clock down at some moment or not."""
    rng = np.random.default_rng([seed, 2])
    parameters = read_parameters(SYSTEMS / "wren.toml")
    conditions = Conditions(megapixels=8.29, threads=8, graphics_memory_gb=4, ambient_c=float(rng.uniform(24, 44)))
    return play(parameters, parameters.demands["dome-atlas"], conditions, seed)


def boosted_case(seed: int) -> Case:
    """A machine that may draw what it likes for some seconds, and is held to a power limit after that."""
    rng = np.random.default_rng([seed, 3])
    parameters = read_parameters(SYSTEMS / "wren.toml")
    conditions = Conditions(
        limit_w=float(rng.uniform(18, 28)),
        boost_s=float(rng.uniform(10, 35)),
        megapixels=8.29,
        threads=8,
        graphics_memory_gb=4,
        ambient_c=8.0,
    )
    return play(parameters, parameters.demands["dome-atlas"], conditions, seed)


def steady_case(seed: int) -> Case:
    """Cool air and no limit: nothing ever holds the clock down."""
    rng = np.random.default_rng([seed, 4])
    parameters = read_parameters(SYSTEMS / f"{rng.choice(['wren', 'heron'])}.toml")
    demand = parameters.demands[str(rng.choice(["reef-walk", "dome-atlas", "tidal-rally"]))]
    conditions = Conditions(
        megapixels=float(rng.choice([0.92, 2.07, 3.69])),
        threads=parameters.chip.logical,
        ambient_c=float(rng.uniform(2, 8)),
    )
    return play(parameters, demand, conditions, seed)


def short_case(seed: int) -> Case:
    """Graphics memory runs out some seconds into the run."""
    rng = np.random.default_rng([seed, 5])
    parameters = read_parameters(SYSTEMS / "wren.toml")
    demand = parameters.demands["dome-atlas"]
    wanted = demand.graphics_memory_gb + demand.graphics_memory_gb_per_mpx * 8.29
    conditions = Conditions(
        megapixels=8.29, threads=8, graphics_memory_gb=float(wanted * rng.uniform(0.6, 0.92)), ambient_c=8.0
    )
    return play(parameters, demand, conditions, seed)


def noisy_rate(parameters: Parameters, noise: Noise, number: int, recording: bool) -> float:
    """The average rate of a short pass with its run-to-run noise, with the recorder or without it."""
    own = replace(parameters, noise=noise)
    rng = np.random.default_rng([number, recording, 6])
    demand = replace(own.demands["tidal-rally"], duration_s=20)
    conditions = conditions_of(
        own,
        demand,
        configuration="bench",
        configured={},
        settings={"resolution": "1080p"},
        number=number,
        events=[],
        rng=rng,
        recording=recording,
    )
    return frame_figures(play(own, demand, conditions, number).frames).average_fps
