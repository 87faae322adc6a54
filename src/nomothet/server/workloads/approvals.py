"""Which commands an admin has let run where."""

import hashlib
import json
from collections.abc import Iterable
from typing import Any

from nomothet.server.workloads.models import Approval, Workload

COMMAND_RUNNER = "command"


def command_digest(command: dict[str, Any]) -> str:
    """The fingerprint of a command; another word in it is another command."""
    return hashlib.sha256(json.dumps(command, sort_keys=True).encode()).hexdigest()


def unapproved(workloads: Iterable[Workload], system: int) -> set[int]:
    """Those of the workloads that a bench of this system may not run; one query when any has a command."""
    commands = {one.pk: one for one in workloads if one.runner == COMMAND_RUNNER}
    if not commands:
        return set()
    given = dict(Approval.objects.filter(system=system, workload__in=commands).values_list("workload", "digest"))
    return {pk for pk, one in commands.items() if given.get(pk) != command_digest(one.command)}
