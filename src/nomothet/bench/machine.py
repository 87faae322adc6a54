"""The machine at hand: runs workloads as child processes and samples the system meanwhile."""

import math
import time
from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import numpy as np

from nomothet.bench.command_plan import COMMAND_RUNNER, CommandPlan, plan_of
from nomothet.bench.errors import BenchError
from nomothet.bench.execution import OUTPUT, Execution, working_folder
from nomothet.bench.inventory import inventory, observed
from nomothet.bench.job import Captured, Control, Job, PassResult
from nomothet.bench.outputs import kept_texts, read_figures
from nomothet.bench.platforms import usable_processors
from nomothet.bench.process_sensors import ProcessSensors
from nomothet.bench.programs import program_digest
from nomothet.bench.sampling import Sampler, SensorSource, read_samples
from nomothet.bench.searching import Tried, search
from nomothet.bench.staging import Interrupted, clean_up, prepare
from nomothet.bench.system_sensors import SystemSensors
from nomothet.bench.tally import Tally
from nomothet.core.load_search import Attempt, NextAttempt

_SILENT_S = 60.0
_SAMPLES = "samples.jsonl"
# Where a program may leave its lines in its working directory.
FRAMES_FILE = "frames.log"
_CHANGED = "the program behind this command is not the one that was approved: an admin has to approve it again"


class RealMachine:
    """Runs passes on this machine.

    Parameters
    ----------
    rate_hz : float
        Samples a second.
    silent_s : float
        A workload that neither says nor does anything for so long counts as hung.
    sources : sequence of SensorSource
        Sensors besides the operating system's own.
    commands_allowed : bool
        Whether approved commands may run, besides the shipped workloads.
    """

    def __init__(
        self,
        rate_hz: float = 4.0,
        silent_s: float = _SILENT_S,
        *,
        sources: Sequence[SensorSource] = (),
        commands_allowed: bool = False,
    ) -> None:
        self._rate_hz = rate_hz
        self._silent_s = silent_s
        self._sources = sources
        self._commands_allowed = commands_allowed
        self._inventory = inventory()
        self._idle = SystemSensors()

    def inventory(self) -> dict[str, Any]:
        return {**self._inventory, "not readable": SystemSensors().missing}

    def readings(self) -> dict[str, float]:
        read = zip(self._idle.sensors, self._idle.read(), strict=True)
        values = {sensor.name: value for sensor, value in read if math.isfinite(value)}
        hottest = [value for name, value in values.items() if name.startswith("temperature ")]
        told = {name: round(value, 2) for name, value in values.items() if not name.startswith("core ")}
        return told | ({"temperature": max(hottest)} if hottest else {})

    def run(self, job: Job, folder: Path, control: Control) -> PassResult:
        """Run a workload and record it; a load search runs it once for each attempt."""
        started_at = datetime.now(UTC)
        try:
            processors = _processors(job.configured.get("threads", "all"))
            # A search starts its workload with a load; any will do to see whether it can be started.
            plan = self._plan(job if job.kind != "load_search" else _with_load(job, 1))
        except BenchError as error:
            return PassResult("refused", started_at, 0.0, str(error), attempts=job.attempts)
        program = program_digest(plan) if job.runner == COMMAND_RUNNER else ""
        if job.program and program != job.program:
            return PassResult("refused", started_at, 0.0, _CHANGED, attempts=job.attempts)
        origin = time.monotonic()
        try:
            prepare(plan, processors, folder, control, origin)
        except Interrupted:
            words = "the bench was ended" if control.interrupted.is_set() else "stopped by the tester"
            clean_up(plan, folder, control, origin)
            return PassResult("stopped", started_at, 0.0, words, owe_again=control.interrupted.is_set())
        except (BenchError, OSError) as error:
            clean_up(plan, folder, control, origin)
            return PassResult("did_not_start", started_at, 0.0, str(error))
        origin = time.monotonic()
        run = self._search if job.kind == "load_search" else self._single
        result = run(job, plan, processors, folder, control, origin)
        wrong = clean_up(plan, folder, control, origin)
        note = " ".join(filter(None, [result.note, *wrong]))
        return replace(
            result,
            started_at=started_at,
            note=note,
            environment={
                **self._environment(job, processors),
                **({"workload": {"program": program}} if program else {}),
                **result.environment,
            },
        )

    def recover(self, job: Job, folder: Path) -> PassResult:
        """What was recorded until the bench was killed."""
        tally = Tally()
        output = folder / OUTPUT
        for line in output.read_text(errors="replace").splitlines() if output.exists() else []:
            tally.take(line)
        samples = read_samples(folder / _SAMPLES)
        duration = float(samples[0].columns["t_s"][-1]) if samples else 0.0
        began = datetime.fromtimestamp((folder / "job.json").stat().st_mtime, UTC)
        return PassResult(
            "crashed",
            began,
            duration,
            "the bench was killed or the machine went down during the pass",
            environment={**self._inventory, "settings": job.configured},
            captures=[*_frames(tally, 0.0), *samples, *kept_texts(folder, folder, [])],
            owe_again=True,
            attempts=job.attempts,
        )

    def _plan(self, job: Job) -> CommandPlan:
        return plan_of(job, commands_allowed=self._commands_allowed, silent_s=self._silent_s)

    def _single(
        self, job: Job, plan: CommandPlan, processors: list[int], folder: Path, control: Control, origin: float
    ) -> PassResult:
        run, outcome, note, recorder = self._recorded(
            plan, processors, folder, control, origin, folder / _SAMPLES, sampled=job.recorder != "off"
        )
        tally = run.tally if run else Tally()
        directory = plan.directory or working_folder(folder)
        _take_file(directory / FRAMES_FILE, tally)
        figures, missed = read_figures(job, folder, tally.figures, directory, plan.files)
        if outcome == "completed" and missed:
            note = f"{note} Not read: {'; '.join(missed)}.".strip()[:2000]
        return PassResult(
            outcome=outcome,
            started_at=datetime.now(UTC),
            duration_s=time.monotonic() - origin,
            note=note,
            environment={"recorder": recorder},
            figures=figures,
            captures=[
                *_frames(tally, run.first_frame_s if run else 0.0),
                *read_samples(folder / _SAMPLES),
                *kept_texts(folder, directory, plan.files),
            ],
            owe_again=control.interrupted.is_set(),
            phases=_phases(run.phases, time.monotonic() - origin) if run and job.kind == "soak" else [],
        )

    def _search(
        self, job: Job, plan: CommandPlan, processors: list[int], folder: Path, control: Control, origin: float
    ) -> PassResult:
        captures: dict[str, Captured] = {}

        def try_load(proposed: NextAttempt) -> Tried | None:
            one = self._plan(_with_load(job, proposed.load))
            path = folder / f"attempt-{len(list(folder.glob('attempt-*')))}.jsonl"
            soak_s = float(job.settings.get("soak_s") or 0)
            if proposed.hot and not self._soak(one, processors, folder, control, origin, soak_s):
                return None
            run, outcome, note, _ = self._recorded(one, processors, folder, control, origin, path)
            for captured in read_samples(path):
                captures[captured.name] = _joined(captures.get(captured.name), captured)
            if outcome == "stopped":
                return None
            return Tried(_attempt(proposed, run.tally if run else Tally(), outcome, note), _use(read_samples(path)))

        try:
            attempts = search(job.settings, job.attempts, try_load, control)
        except BenchError as error:
            return PassResult("refused", datetime.now(UTC), 0.0, str(error), attempts=job.attempts)
        words = "the bench was ended" if control.interrupted.is_set() else "stopped by the tester"
        return PassResult(
            outcome="stopped" if control.over else "completed",
            started_at=datetime.now(UTC),
            duration_s=time.monotonic() - origin,
            note=words if control.over else "",
            captures=[*captures.values(), *kept_texts(folder, folder, [])],
            owe_again=control.interrupted.is_set(),
            attempts=attempts,
        )

    def _soak(
        self, plan: CommandPlan, processors: list[int], folder: Path, control: Control, origin: float, soak_s: float
    ) -> bool:
        """Keep the load up, whether it holds or not; returns whether it came to its end."""
        until = time.monotonic() + soak_s
        while time.monotonic() < until and not control.over:
            Execution(plan, processors, folder, origin).watch(control)
        return not control.over

    def _recorded(
        self,
        plan: CommandPlan,
        processors: list[int],
        folder: Path,
        control: Control,
        origin: float,
        samples: Path,
        sampled: bool = True,
    ) -> tuple[Execution | None, str, str, dict[str, Any]]:
        """One execution under the sampler, or without it; returns it with outcome, note and what recording cost."""
        began = time.monotonic()
        try:
            run = Execution(plan, processors, folder, origin)
        except OSError as error:
            return None, "did_not_start", f"{plan.argv[0]}: {error.strerror or error}", {}
        if not sampled:
            return run, *run.watch(control), {"samples": 0}
        sources: list[SensorSource] = [SystemSensors(), ProcessSensors(run.pid), *self._sources]
        sampler = Sampler(sources, samples, origin, self._rate_hz)
        sampler.start()
        try:
            outcome, note = run.watch(control, sampler)
        finally:
            sampler.stop()
        recorder = {
            "samples": sampler.samples,
            "rate_hz": self._rate_hz,
            "processor_s": round(sampler.cost_s, 4),
            "core_share_pct": round(100 * sampler.cost_s / max(time.monotonic() - began, 1e-9), 3),
        }
        return run, outcome, note, recorder

    def _environment(self, job: Job, processors: list[int]) -> dict[str, Any]:
        seen = dict(observed(self._inventory))
        if isinstance(job.configured.get("threads"), int):
            seen["threads"] = len(processors)
        return {**self._inventory, "settings": job.configured, "observed": seen}


def _processors(threads: object) -> list[int]:
    """The logical processors that a pass may use."""
    usable = usable_processors()
    if threads == "all":
        return usable
    if isinstance(threads, bool) or not isinstance(threads, int) or not 1 <= threads <= len(usable):
        raise BenchError(f"{threads!r} threads cannot be had here: this machine offers {len(usable)}")
    return usable[:threads]


def _with_load(job: Job, load: int) -> Job:
    buffer = job.configured.get("buffer_frames")
    return replace(job, settings={**({"buffer_frames": buffer} if buffer else {}), **job.settings, "load": load})


def _attempt(proposed: NextAttempt, tally: Tally, outcome: str, note: str) -> Attempt:
    """Whether the load held, by what the program says; one that ends badly did not."""
    if tally.load is not None and outcome == "completed":
        return Attempt(proposed.load, tally.load.holds, proposed.hot, tally.load.after_s, tally.load.reason)
    holds = outcome == "completed"
    return Attempt(proposed.load, holds, proposed.hot, None, "" if holds else (note or outcome)[:300])


def _use(samples: list[Captured]) -> dict[str, Any]:
    """Mean use over the second half of an attempt, of what tells how near the limit it is and was read in that half."""
    wanted = ("processor use", "busiest core", "memory used", "clock")
    use = {}
    for one in samples:
        values = one.columns["value"].astype(float)
        late = values[len(values) // 2 :]
        read = late[np.isfinite(late)]
        if one.name in wanted and len(read):
            use[one.name] = {"mean": round(float(np.mean(read)), 2), "capacity": one.capacity}
    return use


def _take_file(path: Path, tally: Tally) -> None:
    """Lines of a program that writes a file; one that used a door as well is not counted twice."""
    if tally.frame_ms or not path.is_file():
        return
    with path.open(errors="replace") as file:
        for line in file:
            tally.take(line)


def _phases(begun: list[tuple[float, str]], end_s: float) -> list[dict[str, Any]]:
    """Phases as spans: each ends where the next begins."""
    ends = [at for at, _ in begun[1:]] + [end_s]
    return [
        {"label": label, "start_s": round(at, 3), "end_s": round(end, 3)}
        for (at, label), end in zip(begun, ends, strict=True)
        if end > at
    ]


def _joined(before: Captured | None, more: Captured) -> Captured:
    if before is None:
        return more
    columns = {name: np.concatenate([before.columns[name], more.columns[name]]) for name in more.columns}
    return replace(more, columns=columns)


def _frames(tally: Tally, starts_at_s: float) -> list[Captured]:
    if not tally.frame_ms:
        return []
    return [
        Captured(
            "frames",
            "frames",
            {"frame_ms": np.array(tally.frame_ms)},
            unit="ms",
            source="lines of the workload",
            starts_at_s=round(max(0.0, starts_at_s), 4),
        )
    ]
