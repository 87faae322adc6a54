"""What people tell of a pass afterwards: why it failed and what came of it, who ran it, and in which group it is."""

import uuid
from collections.abc import Callable, Mapping

from django.db import transaction

from nomothet.server.passes.commands import announce_pass
from nomothet.server.passes.models import Pass, Remark
from nomothet.server.passes.told import ToldShape, told_of
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable

# What can be told, with its name in the remark that keeps what stood there before.
TOLD = {
    "note": "note",
    "action": "what was done",
    "fallback": "what ran instead",
    "ran_by": "who ran it",
    "helped_by": "who helped",
}
_MOST_REMARK = 300


def tell(user: User, pass_id: uuid.UUID, told: Mapping[str, str], agreed: Callable[[ToldShape], None]) -> ToldShape:
    """Change what is told of a pass; what stood there before stays in its remarks.

    `agreed` is called with what stands there now, while nobody else can change it, and raises where the edit was
    made on something else.
    """
    require(user, Act.RECORD)
    with transaction.atomic():
        owner = Pass.objects.select_for_update().select_related("test").get(pk=pass_id)
        agreed(told_of(owner))
        changed = {field: words.strip() for field, words in told.items() if words.strip() != getattr(owner, field)}
        if owner.outcome == "completed" and (changed.get("action") or changed.get("fallback")):
            raise unusable("A completed pass did not fail, so nothing was done about it.", field="action")
        if not changed:
            return told_of(owner)
        before = "; ".join(f"{TOLD[field]}: {getattr(owner, field) or 'nothing'}" for field in changed)
        for field, words in changed.items():
            setattr(owner, field, words)
        owner.save(update_fields=list(changed))
        Remark.objects.create(owner=owner, act="told", reason=f"before, {before}"[:_MOST_REMARK], by=user)
        announce_pass(owner)
    return told_of(owner)


def move_to_group(user: User, pass_id: uuid.UUID, group: str) -> None:
    """Move a pass among the first runs after a start, or back among the plain ones."""
    require(user, Act.SET_ASIDE)
    with transaction.atomic():
        owner = Pass.objects.select_for_update().select_related("test").get(pk=pass_id)
        if owner.run_group == group:
            where = "among the first runs" if group else "among the plain passes"
            raise conflict(f"This pass is {where} already; somebody may have been faster. Nothing was changed.")
        if owner.outcome != "completed" or owner.recorder:
            raise unusable("Only a completed pass of a cell can be moved to another group.")
        owner.run_group = group
        owner.save(update_fields=["run_group"])
        reason = "to the first runs" if group else "back among the plain passes"
        Remark.objects.create(owner=owner, act="regrouped", reason=reason, by=user)
        announce_pass(owner)
