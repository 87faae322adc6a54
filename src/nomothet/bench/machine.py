"""The machine at hand: runs shipped workloads as child processes and samples the system meanwhile."""

import math
import os
import signal
import subprocess
import threading
import time
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import numpy as np

from nomothet.bench.errors import BenchError
from nomothet.bench.inventory import inventory, usable_processors
from nomothet.bench.job import Captured, Control, Job, PassResult, Reported
from nomothet.bench.runners import command_for
from nomothet.bench.sampling import Sampler, SystemSensors, read_samples
from nomothet.bench.tally import Tally

_LOOK_S = 0.1
_REPORT_S = 0.2
_SILENT_S = 60.0
_KILL_S = 5.0
_SAMPLES, _OUTPUT, _ERRORS = "samples.jsonl", "output.log", "errors.log"


class RealMachine:
    """Runs passes on this machine.

    Parameters
    ----------
    rate_hz : float
        Samples a second.
    silent_s : float
        A workload that says nothing for so long counts as hung.
    """

    def __init__(self, rate_hz: float = 4.0, silent_s: float = _SILENT_S) -> None:
        self._rate_hz = rate_hz
        self._silent_s = silent_s
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
        """Run a shipped workload as a child process and record it."""
        started_at = datetime.now(UTC)
        try:
            command = command_for(job.runner, job.settings)
            processors = _processors(job.configured.get("threads", "all"))
        except BenchError as error:
            return PassResult("refused", started_at, 0.0, str(error))
        origin = time.monotonic()
        sampler = Sampler(SystemSensors(), folder / _SAMPLES, origin, self._rate_hz)
        sampler.start()
        try:
            run = _Execution(command, processors, folder, origin)
            outcome, note = run.watch(control, sampler, self._silent_s)
        except OSError as error:
            outcome, note, run = "did_not_start", str(error), None
        finally:
            sampler.stop()
        duration = time.monotonic() - origin
        tally = run.tally if run else Tally()
        return PassResult(
            outcome=outcome,
            started_at=started_at,
            duration_s=duration,
            note=note,
            environment={
                **self._inventory,
                "settings": job.configured,
                "observed": {"threads": len(processors)} if isinstance(job.configured.get("threads"), int) else {},
                "recorder": {
                    "samples": sampler.samples,
                    "rate_hz": self._rate_hz,
                    "processor_s": round(sampler.cost_s, 4),
                    "core_share_pct": round(100 * sampler.cost_s / max(duration, 1e-9), 3),
                },
            },
            figures=_reported(job, tally),
            captures=[*_frames(tally, run.first_frame_s if run else 0.0), *read_samples(folder / _SAMPLES)],
            owe_again=control.interrupted.is_set(),
        )

    def recover(self, job: Job, folder: Path) -> PassResult:
        """What was recorded until the bench was killed."""
        tally = Tally()
        output = folder / _OUTPUT
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
            captures=[*_frames(tally, 0.0), *samples],
            owe_again=True,
        )


def _processors(threads: object) -> list[int]:
    """The logical processors that a pass may use."""
    usable = usable_processors()
    if threads == "all":
        return usable
    if isinstance(threads, bool) or not isinstance(threads, int) or not 1 <= threads <= len(usable):
        raise BenchError(f"{threads!r} threads cannot be had here: this machine offers {len(usable)}")
    return usable[:threads]


class _Execution:
    """A workload's process; its output is written down as it comes and counted in a tally."""

    def __init__(self, command: list[str], processors: list[int], folder: Path, origin: float) -> None:
        self.tally = Tally()
        self.first_frame_s = 0.0
        self._origin = origin
        self._heard = time.monotonic()
        self._errors = folder / _ERRORS
        with self._errors.open("wb") as errors:
            self._process = subprocess.Popen(
                command,
                stdin=subprocess.DEVNULL,
                stdout=subprocess.PIPE,
                stderr=errors,
                start_new_session=True,
                preexec_fn=_bind(processors),
            )
        self._reader = threading.Thread(target=self._read, args=(folder / _OUTPUT,), daemon=True)
        self._reader.start()

    def _read(self, path: Path) -> None:
        assert self._process.stdout is not None
        with path.open("wb", buffering=0) as file, self._process.stdout:
            for line in self._process.stdout:
                file.write(line)
                self._heard = time.monotonic()
                frames = len(self.tally.frame_ms)
                self.tally.take(line.decode(errors="replace"))
                if frames == 0 and self.tally.frame_ms:
                    self.first_frame_s = self._heard - self._origin - self.tally.frame_ms[0] / 1000

    def watch(self, control: Control, sampler: Sampler, silent_s: float) -> tuple[str, str]:
        """Wait for the end; returns outcome and note by the evidence seen."""
        told = 0.0
        ended = ""
        while self._process.poll() is None:
            now = time.monotonic()
            if control.over:
                ended = "stopped"
                break
            if now - self._heard > silent_s:
                ended = "hung"
                break
            if now - told >= _REPORT_S:
                told = now
                self._tell(control, sampler, now)
            time.sleep(_LOOK_S)
        if ended:
            self._kill()
        self._reader.join(timeout=_KILL_S)
        return self._outcome(ended, control, silent_s)

    def _tell(self, control: Control, sampler: Sampler, now: float) -> None:
        readings = dict(sampler.latest)
        recent = self.tally.frame_ms[-60:]
        if recent:
            readings["frame rate"] = round(1000 * len(recent) / sum(recent), 1)
        control.report(self.tally.phase, round(now - self._origin, 2), self.tally.left_s, readings)

    def _kill(self) -> None:
        for number in (signal.SIGTERM, signal.SIGKILL):
            try:
                os.killpg(self._process.pid, number)
                self._process.wait(_KILL_S)
            except subprocess.TimeoutExpired:
                continue
            except ProcessLookupError:
                self._process.wait()
            return

    def _outcome(self, ended: str, control: Control, silent_s: float) -> tuple[str, str]:
        if ended == "hung":
            return "hung", f"no line for {silent_s:g} s"
        if ended == "stopped":
            return "stopped", "the bench was ended" if control.interrupted.is_set() else "stopped by the tester"
        code = self._process.returncode
        if code == 0:
            return "completed", ""
        words = self._errors.read_text(errors="replace").strip().splitlines()
        note = words[-1][:300] if words else ""
        if code < 0:
            return "crashed", f"ended by signal {signal.Signals(-code).name}. {note}".strip()
        started = self.tally.lines > 0
        return ("crashed" if started else "did_not_start"), f"exit status {code}. {note}".strip()


def _bind(processors: list[int]) -> Callable[[], None]:
    return lambda: os.sched_setaffinity(0, processors)


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


def _reported(job: Job, tally: Tally) -> list[Reported]:
    return [
        Reported(metric["key"], tally.figures[metric["key"]], metric["unit"], metric["direction"], metric["scale"])
        for metric in job.metrics
        if metric["key"] in tally.figures
    ]
