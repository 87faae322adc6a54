"""What a pass finds on a simulated system: limits, memory, surroundings, settings of the test, and its own luck."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from nomothet.bench.errors import BenchError
from nomothet.bench.simulated.parameters import Demand, Event, Fitted, Parameters, Surrounding

_MEGAPIXELS = {"720p": 0.92, "1080p": 2.07, "1440p": 3.69, "4K": 8.29}
# A program that wants over so many times the memory that there is does not start.
_HOPELESS = 1.6


@dataclass(frozen=True)
class Conditions:
    """Everything that the model is told about one pass, besides chip, heat and demand.

    `slowness` is a factor on all work: run-to-run noise, and odd passes. `bandwidth` is that of the memory as a
    multiple of the one the demands are written for.
    """

    limit_w: float = math.inf
    # For the first seconds the package may draw more than its limit.
    boost_w: float = math.inf
    boost_s: float = 0.0
    megapixels: float = 2.07
    slowness: float = 1.0
    threads: int = 1
    memory_gb: float = 16.0
    graphics_memory_gb: float = 4.0
    bandwidth: float = 1.0
    ambient_c: float = 22.0
    sink_to_air: float = 1.0
    cap_fps: float = 0.0
    work: float = 1.0
    on_graphics: bool = False
    buffer_frames: int = 4


class DoesNotStart(BenchError):
    """The program ends before it has done anything; the message says why."""


def observed_settings(parameters: Parameters, configured: Mapping[str, Any], events: list[Event]) -> dict[str, Any]:
    """What the machine shows of the settings that it may take otherwise than they were made."""
    observed: dict[str, Any] = {}
    if "power_limit_w" in configured:
        kept = [event.limit_w for event in events if event.limit_w is not None]
        asked = max(float(configured["power_limit_w"]), parameters.chip.lowest_limit_w)
        observed["power_limit_w"] = kept[0] if kept else asked
    lost = [event.profile_mts for event in events if event.profile_mts is not None]
    if lost:
        observed["memory_mts"] = lost[0]
    return observed


def conditions_of(
    parameters: Parameters,
    demand: Demand,
    *,
    configuration: str,
    configured: Mapping[str, Any],
    settings: Mapping[str, Any],
    number: int,
    events: list[Event],
    rng: np.random.Generator,
    recording: bool = True,
) -> Conditions:
    """The conditions of one pass.

    Raises
    ------
    DoesNotStart
        When memory or graphics are not enough to begin with.
    BenchError
        When a setting is none that the machine has.
    """
    chip = parameters.chip
    seen = {**configured, **observed_settings(parameters, configured, events)}
    fitted = next((one for one in parameters.fitted if one.configuration == configuration), Fitted(configuration))
    memory = fitted.memory_gb or chip.memory_gb
    graphics_memory = chip.graphics_memory_gb
    if graphics_memory is None:
        graphics_memory = float(seen.get("graphics_memory_gb", 1))
        memory -= graphics_memory
    around = [one for one in parameters.surroundings if _holds(one, seen)]
    found = Conditions(
        limit_w=float(seen.get("power_limit_w", math.inf)),
        boost_w=chip.boost_w or math.inf,
        boost_s=chip.boost_s,
        megapixels=_MEGAPIXELS.get(str(settings.get("resolution", "1080p")), 2.07),
        slowness=_luck(parameters, number, events, rng) * (1 + parameters.noise.recorder_cost * recording),
        threads=_threads(seen.get("threads", "all"), chip.logical),
        memory_gb=memory,
        graphics_memory_gb=graphics_memory,
        bandwidth=float(seen.get("memory_mts", chip.memory_mts)) / chip.memory_mts
        * (fitted.channels or chip.channels) / chip.channels,
        ambient_c=parameters.heat.ambient_c + sum(one.ambient_c for one in around),
        sink_to_air=math.prod(one.sink_to_air for one in around),
        cap_fps=float(settings.get("frame_cap_fps") or 0),
        work=demand.scenes.get(str(settings.get("scene")), 1.0) * float(settings.get("size") or 1.0),
        on_graphics=seen.get("device") == "graphics",
        buffer_frames=int(seen.get("buffer_frames", 4)),
    )  # fmt: skip
    _must_start(parameters, demand, found)
    return found


def wanted_graphics_gb(demand: Demand, megapixels: float) -> float:
    return demand.graphics_memory_gb + demand.graphics_memory_gb_per_mpx * megapixels


def _holds(one: Surrounding, seen: Mapping[str, Any]) -> bool:
    return str(seen.get(one.setting)) == one.value


def _luck(parameters: Parameters, number: int, events: list[Event], rng: np.random.Generator) -> float:
    noise = parameters.noise
    slowness = math.exp(rng.normal(0, noise.run_sd))
    if rng.random() < noise.odd_share:
        slowness *= 1 + noise.odd_loss
    for event in events:
        slowness *= (1 + event.loss) * (1 + event.drift) ** (number - 1)
    return slowness


def _threads(wanted: object, logical: int) -> int:
    if wanted == "all":
        return logical
    if isinstance(wanted, bool) or not isinstance(wanted, int) or not 1 <= wanted <= logical:
        raise BenchError(f"{wanted!r} threads cannot be had here: this machine offers {logical}")
    return wanted


def _must_start(parameters: Parameters, demand: Demand, found: Conditions) -> None:
    needs_graphics = demand.graphics_ms + demand.graphics_ms_per_mpx > 0 or found.on_graphics
    if needs_graphics and parameters.chip.graphics_speed <= 0:
        raise DoesNotStart("the program found no graphics that it can use")
    wanted = parameters.chip.idle_memory_gb + demand.memory_gb
    if wanted > _HOPELESS * found.memory_gb:
        raise DoesNotStart(f"the program ended at once: it wants {wanted:.1f} GB of {found.memory_gb:g} GB")
