"""Whether workloads are fit as tests, by their kept passes on record."""

from dataclasses import dataclass

from django.db.models import Sum

from nomothet.core.notes import Note, note
from nomothet.server.passes.tallies import tallies
from nomothet.server.workloads.models import Kind, Workload
from nomothet.words import says

# A run under this gives a 1 % low too few frames and a machine too little time.
_SHORT_S = 20.0
# So many frames per second say that the machine is hardly asked.
_LIGHT_FPS = 400.0
_FRAMES_FOR_A_LOW = 1000


@dataclass(frozen=True)
class FitnessShape:
    """What the kept passes of a workload amount to, and what speaks against it as a test."""

    workload: int
    passes: int
    duration_s: float | None
    average_fps: float | None
    remarks: list[str]


@dataclass(frozen=True)
class _Runs:
    """How many kept passes, their mean length and mean frame rate."""

    passes: int = 0
    duration_s: float | None = None
    rate_fps: float | None = None


def fitness() -> list[FitnessShape]:
    """All workloads; three queries whatever their number and that of their passes."""
    runs = {
        row["workload"]: _Runs(
            row["kept"], _mean(row["timed_s"], row["timed"]), _mean(row["rate_sum_fps"], row["rated"])
        )
        for row in tallies()
        .values("workload")
        .annotate(
            kept=Sum("kept"),
            timed=Sum("timed"),
            timed_s=Sum("timed_s"),
            rated=Sum("rated"),
            rate_sum_fps=Sum("rate_sum_fps"),
        )
    }
    return [_judge(one, runs.get(one.pk, _Runs())) for one in Workload.objects.order_by("pk")]


def _mean(total: float, count: int) -> float | None:
    return total / count if count else None


def _judge(workload: Workload, runs: _Runs) -> FitnessShape:
    remarks = says(_remarks(workload, runs))
    if workload.judgement and runs.duration_s is not None:
        remarks.append(workload.judgement)
    if not remarks:
        remarks = says([note("workload_fit")])
    return FitnessShape(workload.pk, runs.passes, runs.duration_s, runs.rate_fps if runs.passes else None, remarks)


def _remarks(workload: Workload, runs: _Runs) -> list[Note]:
    duration, rate = runs.duration_s, runs.rate_fps
    if not runs.passes:
        return [note("workload_not_run")]
    if duration is None:
        return [note("workload_length_unknown")]
    found = []
    if workload.kind in (Kind.SCENE, Kind.TASK, Kind.SUITE) and duration < _SHORT_S:
        found.append(note("workload_short", lasts_s=duration))
    if workload.warm_up_s and duration <= 2 * workload.warm_up_s:
        found.append(note("workload_mostly_warm_up", warm_up_s=workload.warm_up_s, lasts_s=duration))
    if rate and rate * duration < _FRAMES_FOR_A_LOW:
        found.append(note("workload_few_frames", frames=rate * duration, needed=_FRAMES_FOR_A_LOW))
    if rate and rate > _LIGHT_FPS:
        found.append(note("workload_light", fps=rate))
    return found
