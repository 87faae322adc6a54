"""Sensors that a person does not believe, and sensors that are shown and cannot be recorded."""

import uuid
from collections import defaultdict
from collections.abc import Iterable, Mapping

from django.db import transaction
from django.db.models import Q, QuerySet
from django.utils import timezone

from nomothet.formats.words import NOT_RECORDED
from nomothet.server.analysis.commands import recompute
from nomothet.server.analysis.models import SensorDoubt
from nomothet.server.analysis.tasks import recompute_passes
from nomothet.server.history.commands import remember
from nomothet.server.passes.commands import announce_pass
from nomothet.server.passes.models import Pass, Series
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.systems.states import state_of

SCOPES = ("pass", "system", "workload")
_ACTS = {"pass": Act.SET_ASIDE, "system": Act.EDIT_SYSTEMS, "workload": Act.EDIT_WORKLOADS}


def doubt_sensor(user: User, owner: Pass, sensor: str, kind: str, reason: str, scope: str) -> SensorDoubt:
    """Leave a sensor out of every figure and finding of a pass, of all passes of its system, or of its workload.

    What was recorded stays, and is shown with the doubt. A sensor that is only shown by a tool is noted the same way.

    Raises
    ------
    Problem
        422 without a reason, or where the pass has no such sensor; 409 where it is doubted already.
    """
    require(user, _ACTS[scope])
    reason, sensor = reason.strip(), " ".join(sensor.split())
    if not reason:
        raise unusable("Say why: what you saw instead, or which tool shows it.", field="reason")
    recorded = _series_named(sensor).filter(owner=owner).exists()
    if kind == NOT_RECORDED and recorded:
        raise unusable(f"{sensor} is recorded in this pass, so it is no sensor that is only shown.", field="sensor")
    if kind != NOT_RECORDED and not recorded:
        raise unusable(f"This pass has no sensor named {sensor}.", field="sensor")
    place = {
        "owner": owner if scope == "pass" else None,
        "system": owner.column.configuration.system if scope == "system" else None,
        "workload": owner.test.workload if scope == "workload" else None,
    }
    with transaction.atomic():
        Pass.objects.select_for_update().get(pk=owner.pk)
        if SensorDoubt.objects.filter(sensor__iexact=sensor, back_at=None, **place).exists():
            raise conflict(f"{sensor} is noted already; somebody may have been faster. Nothing was changed.")
        made = SensorDoubt.objects.create(sensor=sensor, kind=kind, reason=reason, by=user, **place)
        _remember(user, made, "sensor doubted", {sensor: [None, f"{kind}: {reason}"]})
        _follow(made, owner)
    return made


def believe_sensor(user: User, doubt: SensorDoubt) -> None:
    """Let a sensor count again; that it was doubted stays on record."""
    require(user, _ACTS[_scope(doubt)])
    with transaction.atomic():
        locked = SensorDoubt.objects.select_for_update().get(pk=doubt.pk)
        if locked.back_at is not None:
            raise conflict("This sensor counts again already; somebody may have been faster. Nothing was changed.")
        locked.back_by, locked.back_at = user, timezone.now()
        locked.save(update_fields=["back_by", "back_at"])
        _remember(user, locked, "sensor believed again", {locked.sensor: [locked.reason, None]})
        _follow(locked, locked.owner)


def doubts_of(passes: Iterable[Pass]) -> dict[uuid.UUID, list[SensorDoubt]]:
    """What is noted of the sensors of passes, by pass; one query. `test` and `column__configuration` are read."""
    own = list(passes)
    noted = SensorDoubt.objects.filter(back_at=None).filter(
        Q(owner__in=own)
        | Q(system__in={one.column.configuration.system_id for one in own})
        | Q(workload__in={one.test.workload_id for one in own})
    )
    found: dict[uuid.UUID, list[SensorDoubt]] = defaultdict(list)
    for doubt in noted.select_related("by"):
        for one in own:
            if (
                doubt.owner_id == one.pk
                or (doubt.system_id is not None and doubt.system_id == one.column.configuration.system_id)
                or (doubt.workload_id is not None and doubt.workload_id == one.test.workload_id)
            ):
                found[one.pk].append(doubt)
    return found


def _follow(doubt: SensorDoubt, owner: Pass | None) -> None:
    """Figures and findings follow: of one pass now, of many in the background."""
    if owner is not None and _scope(doubt) == "pass":
        if doubt.kind != NOT_RECORDED:
            full = Pass.objects.select_related("test__review", "test__workload", "column__configuration").get(
                pk=owner.pk
            )
            recompute(full, state_of(full.column.configuration))
        announce_pass(owner)
        return
    reached: dict[str, object] = {}
    if doubt.system_id is not None:
        reached["owner__column__configuration__system"] = doubt.system_id
    if doubt.workload_id is not None:
        reached["owner__test__workload"] = doubt.workload_id
    if doubt.kind == NOT_RECORDED:
        if owner is not None:
            announce_pass(owner)
        return
    ids = _series_named(doubt.sensor).filter(**reached).exclude(owner__whole_at=None)
    keys = [str(pk) for pk in ids.values_list("owner", flat=True).distinct()]
    transaction.on_commit(lambda: recompute_passes.enqueue(keys))


def _series_named(sensor: str) -> QuerySet[Series]:
    return Series.objects.filter(name__iexact=sensor).exclude(kind="frames")


def _scope(doubt: SensorDoubt) -> str:
    return "pass" if doubt.owner_id else "system" if doubt.system_id else "workload"


def _remember(user: User, doubt: SensorDoubt, act: str, changes: Mapping[str, list[str | None]]) -> None:
    if doubt.system_id is not None:
        remember(user, "system", doubt.system_id, act, changes)
    elif doubt.workload_id is not None:
        remember(user, "workload", doubt.workload_id, act, changes)
    elif doubt.owner is not None:
        remember(user, "review", doubt.owner.test.review_id, act, {"pass": [None, doubt.owner.number], **changes})
