"""Which commands an admin has let run where."""

import hashlib
import json
from collections.abc import Iterable
from typing import Any

from nomothet.server.workloads.models import Approval, Workload

COMMAND_RUNNER = "command"
BY_HAND = "By hand: its figures are typed in or come from files."
UNAPPROVED = "An admin has not approved its command for this system."


def command_digest(command: dict[str, Any]) -> str:
    """The fingerprint of a command; another word in it is another command."""
    return hashlib.sha256(json.dumps(command, sort_keys=True).encode()).hexdigest()


def not_for_benches(workloads: Iterable[Workload], system: int) -> dict[int, str]:
    """Why a bench of this system does not run some of the workloads; one query when any has a command."""
    wanted = list(workloads)
    reasons = {one.pk: BY_HAND for one in wanted if not one.runner}
    commands = {one.pk: one for one in wanted if one.runner == COMMAND_RUNNER}
    if commands:
        given = dict(Approval.objects.filter(system=system, workload__in=commands).values_list("workload", "digest"))
        reasons |= {pk: UNAPPROVED for pk, one in commands.items() if given.get(pk) != command_digest(one.command)}
    return reasons
