"""Kinds of workloads to begin with: what each reports and how its passes are told, to be changed afterwards."""

from dataclasses import dataclass
from typing import Any

from nomothet.server.workloads.models import Kind


@dataclass(frozen=True)
class WorkloadTemplate:
    """A workload but for its name and version. `example` is a name that such a workload could have."""

    key: str
    label: str
    example: str
    # What is read off a pass, in words.
    reads: str
    kind: Kind
    fields: dict[str, Any]


def _metric(key: str, label: str, unit: str, direction: str, scale: str = "ratio", **more: str) -> dict[str, str]:
    return {"key": key, "label": label, "unit": unit, "direction": direction, "scale": scale, **more}


def _step(kind: str, words: str, seconds: int | None = None) -> dict[str, Any]:
    return {"kind": kind, "words": words, **({} if seconds is None else {"seconds": seconds})}


TEMPLATES: dict[str, WorkloadTemplate] = {
    one.key: one
    for one in (
        WorkloadTemplate(
            "game",
            "a game or a moving scene",
            "Harbour Run",
            "average frame rate and its low, from frame times or as the game tells them",
            Kind.SCENE,
            {
                "procedure": "The same route or tour each time, from the same start to the same end.",
                "duration_s": 60,
                "warm_up_s": 30,
                "settings": [
                    {"key": "resolution", "label": "resolution", "optional": True},
                    {"key": "preset", "label": "preset", "optional": True},
                ],
                "steps": [
                    _step("scene", "Load the scene; frame cap off."),
                    _step("warm-up", "Let it settle.", 30),
                    _step("duration", "The route, once.", 60),
                ],
            },
        ),
        WorkloadTemplate(
            "suite",
            "a suite with a score",
            "Ledger Suite",
            "the score that it tells at its end",
            Kind.SUITE,
            {
                "procedure": "The whole suite once, with nothing else running.",
                "metrics": [_metric("score", "score", "points", "higher", role="score")],
            },
        ),
        WorkloadTemplate(
            "render",
            "a render or another task with phases",
            "Lantern Picture",
            "the time to the first result and to the last",
            Kind.TASK,
            {
                "procedure": "From the command to the finished file.",
                "metrics": [
                    _metric("finished_s", "finished", "s", "lower", role="finished"),
                    _metric("first_result_s", "first result", "s", "lower", role="first result"),
                ],
            },
        ),
        WorkloadTemplate(
            "load-search",
            "a search for the most it can carry",
            "Lane Counter",
            "the most streams, tracks or users at which nothing came late",
            Kind.LOAD_SEARCH,
            {
                "procedure": "Raise the load step by step until it breaks; what held last is the figure.",
                "settings": [
                    {"key": "start", "label": "start", "unit": "streams", "optional": True},
                    {"key": "resolution", "label": "step", "unit": "streams", "optional": True},
                ],
                "metrics": [_metric("held", "load held", "streams", "higher", role="load")],
            },
        ),
        WorkloadTemplate(
            "soak",
            "a soak: hours of work, watched for errors and heat",
            "Night Shift",
            "errors found and the highest temperature",
            Kind.SOAK,
            {
                "procedure": "All threads at work for the whole time, every result checked.",
                "duration_s": 3600,
                "metrics": [
                    _metric("errors", "errors found", "", "lower", "difference"),
                    _metric("peak_c", "highest temperature", "°C", "lower", "difference"),
                ],
            },
        ),
        WorkloadTemplate(
            "idle",
            "nothing at all: what it draws at rest",
            "At Rest",
            "the power that it draws",
            Kind.IDLE,
            {
                "procedure": "Ten minutes after its start, nothing open, the screen on.",
                "duration_s": 300,
                "metrics": [_metric("power_w", "power", "W", "lower")],
            },
        ),
    )
}
