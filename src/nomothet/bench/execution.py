"""One process of a workload: started, watched, ended, and its outcome told by the evidence seen."""

import subprocess
import threading
import time
from pathlib import Path

import psutil

from nomothet.bench.clean_environment import clean_environment
from nomothet.bench.command_plan import CommandPlan
from nomothet.bench.frame_door import FrameDoor
from nomothet.bench.job import Control
from nomothet.bench.platforms import bind_started, bound, end_group, signal_name
from nomothet.bench.sampling import Sampler
from nomothet.bench.tally import Tally

OUTPUT, ERRORS = "output.log", "errors.log"
# Exit status for a service that is not there (EX_UNAVAILABLE of sysexits): a requirement is not met.
_UNAVAILABLE = 69
_LOOK_S = 0.05
_REPORT_S = 0.2
_KILL_S = 5.0


class Execution:
    """A workload's process; its output is written down as it comes and counted in a tally.

    Parameters
    ----------
    origin : float
        `time.monotonic()` at the start of the pass.
    """

    def __init__(self, plan: CommandPlan, processors: list[int], folder: Path, origin: float) -> None:
        self.tally = Tally()
        self.first_frame_s = 0.0
        # What the workload called its phases, and when each began on the clock of the pass.
        self.phases: list[tuple[float, str]] = []
        self._plan = plan
        self._origin = origin
        self._heard = time.monotonic()
        self._worked_s = 0.0
        self._errors = folder / ERRORS
        self._door = FrameDoor(folder, self._take)
        try:
            with self._errors.open("ab") as errors:
                self._process = subprocess.Popen(
                    plan.argv,
                    stdin=subprocess.DEVNULL,
                    stdout=subprocess.PIPE,
                    stderr=errors,
                    cwd=plan.directory or working_folder(folder),
                    env={**clean_environment(), **plan.environment, **self._door.environment},
                    start_new_session=True,
                    preexec_fn=bound(processors, plan.nice),
                )
            bind_started(self._process.pid, processors, plan.nice)
        except BaseException:
            self._door.close()
            raise
        self._reader = threading.Thread(target=self._read, args=(folder / OUTPUT,), daemon=True)
        self._reader.start()

    @property
    def pid(self) -> int:
        return self._process.pid

    def _read(self, path: Path) -> None:
        assert self._process.stdout is not None
        # A search runs the program several times in one pass.
        with path.open("ab", buffering=0) as file, self._process.stdout:
            for line in self._process.stdout:
                file.write(line)
                self._take(line.decode(errors="replace"))

    def _take(self, line: str) -> None:
        self._heard = time.monotonic()
        frames, phase = len(self.tally.frame_ms), self.tally.phase
        self.tally.take(line)
        if self.tally.phase != phase:
            self.phases.append((self._heard - self._origin, self.tally.phase))
        if frames == 0 and self.tally.frame_ms:
            self.first_frame_s = self._heard - self._origin - self.tally.frame_ms[0] / 1000

    def watch(self, control: Control, sampler: Sampler | None = None) -> tuple[str, str]:
        """Wait for the end; returns outcome and note by the evidence seen."""
        told = 0.0
        ended = ""
        began = time.monotonic()
        while self._process.poll() is None:
            now = time.monotonic()
            if control.over:
                ended = "stopped"
            elif now - self._heard > self._plan.silent_s and not self._works():
                ended = "hung"
            elif self._plan.time_limit_s is not None and now - began > self._plan.time_limit_s:
                ended = "over time"
            if ended:
                break
            if now - told >= _REPORT_S:
                told = now
                self._tell(control, sampler, now)
            time.sleep(_LOOK_S)
        if ended:
            self._kill()
        self._reader.join(timeout=_KILL_S)
        self._door.close()
        return self._outcome(ended, control)

    def _works(self) -> bool:
        """Whether the process has used processor time since it was last asked; a silent one may still be busy."""
        try:
            process = psutil.Process(self._process.pid)
            spent = sum(sum(one.cpu_times()[:2]) for one in [process, *process.children(recursive=True)])
        except psutil.Error:
            return False
        busy = spent > self._worked_s + 0.01
        self._worked_s = spent
        if busy:
            self._heard = time.monotonic()
        return busy

    def _tell(self, control: Control, sampler: Sampler | None, now: float) -> None:
        readings = dict(sampler.latest) if sampler else {}
        recent = self.tally.frame_ms[-60:]
        if recent:
            readings["frame rate"] = round(1000 * len(recent) / sum(recent), 1)
        control.report(self.tally.phase, round(now - self._origin, 2), self.tally.left_s, readings)

    def _kill(self) -> None:
        for kill in (False, True):
            try:
                end_group(self._process, kill=kill)
                self._process.wait(_KILL_S)
            except subprocess.TimeoutExpired:
                continue
            except ProcessLookupError:
                self._process.wait()
            return

    def _outcome(self, ended: str, control: Control) -> tuple[str, str]:
        if ended == "hung":
            return "hung", f"neither a line nor processor time for {self._plan.silent_s:g} s"
        if ended == "over time":
            return "hung", f"not over after its limit of {self._plan.time_limit_s:g} s"
        if ended == "stopped":
            return "stopped", "the bench was ended" if control.interrupted.is_set() else "stopped by the tester"
        if self.tally.outcome is not None:
            return self.tally.outcome
        code = self._process.returncode
        if code == 0:
            return "completed", ""
        words = self._errors.read_text(errors="replace").strip().splitlines()
        note = words[-1][:300] if words else ""
        if code < 0:
            return "crashed", f"ended by signal {signal_name(-code)}. {note}".strip()
        if code == _UNAVAILABLE:
            return "refused", note or "the program says that a requirement is not met"
        started = self.tally.lines > 0
        return ("crashed" if started else "did_not_start"), f"exit status {code}. {note}".strip()


def working_folder(folder: Path) -> Path:
    """Where a workload runs that has no directory of its own."""
    made = folder / "work"
    made.mkdir(exist_ok=True)
    return made
