"""Which session a pass was run in, and whether the docket's order made rounds; told when it comes in (method 3)."""

import uuid

from nomothet.core.placing import Ran, same_session
from nomothet.server.docket.models import Changeover, WorkOrder
from nomothet.server.passes.models import Pass

_ROUNDS = ("balanced", "shuffled")


def session_of(owner: Pass) -> uuid.UUID:
    """The session of a pass that a bench or a hand has run: that of the pass before it on its system, or a new one."""
    configuration = owner.column.configuration
    before = (
        Pass.objects.filter(column__configuration__system=configuration.system_id, session__isnull=False)
        .filter(started_at__lt=owner.started_at)
        .exclude(pk=owner.pk)
        .select_related("column")
        .order_by("-started_at")
        .first()
    )
    if before is None or before.session is None:
        return owner.pk
    changes = Changeover.objects.filter(system=configuration.system_id, done_at__gt=before.started_at)
    breaks = [at.timestamp() for at in changes.values_list("done_at", flat=True) if at is not None]
    return before.session if same_session(_ran(before), _ran(owner), breaks) else owner.pk


def makes_rounds(system: int) -> bool:
    """Whether the passes owed on a system are run in rounds."""
    return WorkOrder.objects.filter(system=system, mode__in=_ROUNDS).exists()


def _ran(owner: Pass) -> Ran:
    at = owner.started_at.timestamp()
    return Ran(owner.column.configuration_id, at, at + (owner.duration_s or 0.0))
