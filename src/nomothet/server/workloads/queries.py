"""Workloads as the screens show them."""

from collections import defaultdict
from collections.abc import Container
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db.models import Count

from nomothet.server.workloads.command_rules import approval_digest
from nomothet.server.workloads.models import Kind, Workload


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
    first_run_apart: bool
    archived_at: datetime | None
    edit: int
    # It has passes, so that what says how they came about stays as it is.
    fixed: bool
    editions: list[OtherEdition]
    # Of how many reviews.
    used_in: int


def workloads(archived: bool = False) -> list[WorkloadShape]:
    """All workloads; five queries whatever their number."""
    found = list(
        Workload.objects.prefetch_related("approvals__system", "approvals__by").annotate(
            reviews=Count("test__review", distinct=True)
        )
    )
    run = set(Workload.objects.filter(test__passes__isnull=False).order_by().distinct().values_list("pk", flat=True))
    editions: dict[str, list[Workload]] = defaultdict(list)
    for one in found:
        editions[one.key].append(one)
    shapes = [_shape(one, editions[one.key], run) for one in found]
    return shapes if archived else [one for one in shapes if one.archived_at is None]


def workload_shape(workload: Workload) -> WorkloadShape:
    return next(one for one in workloads(archived=True) if one.id == workload.pk)


def _shape(workload: Workload, family: list[Workload], run: Container[int]) -> WorkloadShape:
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
                one.digest == approval_digest(workload),
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
        first_run_apart=workload.first_run_apart,
        archived_at=workload.archived_at,
        edit=workload.edit,
        fixed=workload.pk in run,
        editions=[
            OtherEdition(other.pk, other.version, other.version in why, why.get(other.version, ""))
            for other in family
            if other.pk != workload.pk
        ],
        used_in=workload.reviews,  # type: ignore[attr-defined]
    )
