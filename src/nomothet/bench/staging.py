"""What stands around the run that counts: cooling down, preparation, warm-up, and cleaning up afterwards."""

import subprocess
import time
from pathlib import Path

from nomothet.bench.clean_environment import clean_environment
from nomothet.bench.command_plan import CommandPlan
from nomothet.bench.errors import BenchError
from nomothet.bench.execution import Execution, working_folder
from nomothet.bench.job import Control
from nomothet.bench.platforms import end_group
from nomothet.bench.system_sensors import SystemSensors, hottest

_LOOK_S = 0.5
_STEP_LIMIT_S = 600.0


class Interrupted(Exception):
    """The pass was stopped before the run that counts."""


def prepare(plan: CommandPlan, processors: list[int], folder: Path, control: Control, origin: float) -> None:
    """Cool down, run the preparation commands and the warm-ups.

    Raises
    ------
    BenchError
        When a preparation command fails; the message is its last line.
    Interrupted
        When the pass is stopped meanwhile.
    """
    _cool_down(plan, control, origin)
    for words in plan.prepare:
        _step(words, plan, folder, control, origin, "preparing")
    for number in range(1, plan.warm_ups + 1):
        control.report(f"warming up, {number} of {plan.warm_ups}", time.monotonic() - origin, None)
        outcome, note = Execution(plan, processors, folder, origin).watch(control)
        if control.over:
            raise Interrupted
        if outcome != "completed":
            raise BenchError(f"the warm-up {outcome.replace('_', ' ')}: {note}")


def clean_up(plan: CommandPlan, folder: Path, control: Control, origin: float) -> list[str]:
    """Run the clean-up commands, whatever came before; returns what went wrong."""
    wrong = []
    for words in plan.clean_up:
        try:
            _step(words, plan, folder, control, origin, "cleaning up", stoppable=False)
        except BenchError as error:
            wrong.append(str(error))
    return wrong


def _cool_down(plan: CommandPlan, control: Control, origin: float) -> None:
    if plan.cool_to_c is None and plan.cool_s <= 0:
        return
    sensors = SystemSensors()
    began = time.monotonic()
    longest = plan.cool_most_s if plan.cool_to_c is not None else plan.cool_s
    while time.monotonic() - began < longest:
        if control.over:
            raise Interrupted
        now_c = hottest(sensors)
        waited = time.monotonic() - began
        if plan.cool_to_c is not None and now_c is None:
            # Nothing to go by: the time that was asked for instead.
            longest = plan.cool_s
        elif plan.cool_to_c is not None and now_c is not None and now_c <= plan.cool_to_c and waited >= plan.cool_s:
            return
        words = "cooling down" if now_c is None else f"cooling down, {now_c:.0f} °C"
        control.report(words, time.monotonic() - origin, max(0.0, longest - waited), {"temperature": now_c})
        time.sleep(_LOOK_S)


def _step(
    words: list[str],
    plan: CommandPlan,
    folder: Path,
    control: Control,
    origin: float,
    phase: str,
    *,
    stoppable: bool = True,
) -> None:
    control.report(f"{phase}: {Path(words[0]).name}"[:60], time.monotonic() - origin, None)
    log = folder / "steps.log"
    try:
        with log.open("ab") as file:
            process = subprocess.Popen(
                words,
                stdin=subprocess.DEVNULL,
                stdout=file,
                stderr=subprocess.STDOUT,
                cwd=plan.directory or working_folder(folder),
                env={**clean_environment(), **plan.environment},
                start_new_session=True,
            )
    except OSError as error:
        raise BenchError(f"{phase}: {words[0]} cannot be started: {error.strerror}") from None
    began = time.monotonic()
    while process.poll() is None:
        over_time = time.monotonic() - began > _STEP_LIMIT_S
        if over_time or (stoppable and control.over):
            end_group(process, kill=True)
            process.wait()
            if not over_time:
                raise Interrupted
            raise BenchError(f"{phase}: {words[0]} was not over after {_STEP_LIMIT_S:g} s")
        time.sleep(0.05)
    if process.returncode != 0:
        lines = log.read_text(errors="replace").strip().splitlines()
        last = lines[-1][:200] if lines else ""
        raise BenchError(f"{phase}: {words[0]} ended with status {process.returncode}. {last}".strip())
