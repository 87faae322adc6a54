"""Workloads as the screens show them."""

from collections import defaultdict
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db.models import Avg, Count

from nomothet.server.passes.models import Figure, Pass
from nomothet.server.workloads.approvals import command_digest
from nomothet.server.workloads.models import Kind, Workload

# A run under this gives a 1 % low too few frames and a machine too little time.
_SHORT_S = 20.0
# So many frames per second say that the machine is hardly asked.
_LIGHT_FPS = 400.0


@dataclass(frozen=True)
class FitnessShape:
    """Whether a workload is fit as a test, from its passes on record."""

    passes: int
    duration_s: float | None
    average_fps: float | None
    remarks: list[str]


@dataclass(frozen=True)
class OtherEdition:
    id: int
    version: str
    comparable: bool
    why: str


@dataclass(frozen=True)
class ApprovalShape:
    """A system on which the command may run; `current` is false once the command was changed afterwards.

    `program` begins the fingerprint of the program that the approval holds for; empty before its first pass.
    """

    system: int
    name: str
    by: str
    at: datetime
    current: bool
    program: str


@dataclass(frozen=True)
class WorkloadShape:
    """A workload in one version; `edit` is what If-Match wants."""

    id: int
    key: str
    name: str
    version: str
    kind: str
    kind_label: str
    description: str
    procedure: str
    steps: list[dict[str, Any]]
    runner: str
    command: dict[str, Any]
    approvals: list[ApprovalShape]
    settings: list[dict[str, Any]]
    metrics: list[dict[str, Any]]
    requirements: list[dict[str, Any]]
    files: str
    duration_s: float | None
    warm_up_s: float | None
    rules: list[dict[str, Any]]
    judgement: str
    comparable: list[dict[str, Any]]
    checks: list[dict[str, Any]]
    archived_at: datetime | None
    edit: int
    fixed: bool
    fitness: FitnessShape
    editions: list[OtherEdition]
    used_in: list[str]


def workloads(archived: bool = False) -> list[WorkloadShape]:
    """All workloads; seven queries whatever their number."""
    found = list(Workload.objects.prefetch_related("test_set__review", "approvals__system", "approvals__by"))
    fitness = _fitness()
    editions: dict[str, list[Workload]] = defaultdict(list)
    for one in found:
        editions[one.key].append(one)
    shapes = [_shape(one, editions[one.key], fitness.get(one.pk, _Runs())) for one in found]
    return shapes if archived else [one for one in shapes if one.archived_at is None]


def workload_shape(workload: Workload) -> WorkloadShape:
    return next(one for one in workloads(archived=True) if one.id == workload.pk)


@dataclass(frozen=True)
class _Runs:
    """What the kept passes of a workload amount to: how many, their mean length and mean frame rate."""

    passes: int = 0
    duration_s: float | None = None
    rate_fps: float | None = None


def _fitness() -> dict[int, _Runs]:
    """The kept passes by workload; two queries that add up in the database."""
    lengths = Pass.objects.kept().values("test__workload").annotate(n=Count("pk"), mean=Avg("duration_s"))
    rates = dict(
        Figure.objects.kept()
        .filter(metric="average_fps")
        .values("owner__test__workload")
        .annotate(mean=Avg("value"))
        .values_list("owner__test__workload", "mean")
    )
    return {
        row["test__workload"]: _Runs(row["n"], row["mean"], rates.get(row["test__workload"]))
        for row in lengths.order_by()
    }


def _judge(workload: Workload, runs: _Runs) -> FitnessShape:
    duration, rate = runs.duration_s, runs.rate_fps
    if not runs.passes:
        return FitnessShape(0, None, None, ["No pass is on record yet, so nothing can be said."])
    if duration is None:
        return FitnessShape(runs.passes, None, rate, ["How long its passes last is not on record."])
    remarks = []
    if workload.kind in (Kind.SCENE, Kind.TASK, Kind.SUITE) and duration < _SHORT_S:
        remarks.append(f"Too short: its passes last about {duration:.3g} s, and end before a machine is warm.")
    if workload.warm_up_s and duration <= 2 * workload.warm_up_s:
        remarks.append(f"Too short: {workload.warm_up_s:.3g} s of about {duration:.3g} s are warm-up.")
    if rate and rate * duration < 1000:
        remarks.append(f"Too short for a 1 % low: a pass has about {rate * duration:.0f} frames, and 1,000 are needed.")
    if rate and rate > _LIGHT_FPS:
        remarks.append(f"Too light: {rate:.0f} frames per second say that the machine is hardly asked.")
    if workload.judgement:
        remarks.append(workload.judgement)
    return FitnessShape(runs.passes, duration, rate, remarks or ["Nothing on record speaks against it."])


def _shape(workload: Workload, family: list[Workload], runs: _Runs) -> WorkloadShape:
    why = {one["version"]: one["why"] for one in workload.comparable}
    return WorkloadShape(
        id=workload.pk,
        key=workload.key,
        name=workload.name,
        version=workload.version,
        kind=workload.kind,
        kind_label=Kind(workload.kind).label,
        description=workload.description,
        procedure=workload.procedure,
        steps=workload.steps,
        runner=workload.runner,
        command=workload.command,
        approvals=[
            ApprovalShape(
                one.system_id,
                one.system.name,
                one.by.display_name if one.by else "",
                one.at,
                one.digest == command_digest(workload.command),
                one.program[:12],
            )
            for one in workload.approvals.all()
        ],
        settings=workload.settings,
        metrics=workload.metrics,
        requirements=workload.requirements,
        files=workload.files,
        duration_s=workload.duration_s,
        warm_up_s=workload.warm_up_s,
        rules=workload.rules,
        judgement=workload.judgement,
        comparable=workload.comparable,
        checks=workload.checks,
        archived_at=workload.archived_at,
        edit=workload.edit,
        fixed=bool(runs),
        fitness=_judge(workload, runs),
        editions=[
            OtherEdition(other.pk, other.version, other.version in why, why.get(other.version, ""))
            for other in family
            if other.pk != workload.pk
        ],
        used_in=sorted({test.review.question for test in workload.test_set.all()}),
    )
