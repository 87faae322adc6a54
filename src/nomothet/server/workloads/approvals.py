"""Which commands an admin has let run where."""

from collections.abc import Iterable

from nomothet.server.workloads.command_rules import approval_digest
from nomothet.server.workloads.models import Approval, Workload

COMMAND_RUNNER = "command"
BY_HAND = "By hand: its figures are typed in or come from files."
UNAPPROVED = "An admin has not approved its command for this system."


def approved_program(workload: Workload, system: int) -> str:
    """The fingerprint of the program that a command's approval holds for; empty before its first pass."""
    found = Approval.objects.filter(workload=workload, system=system).values_list("program", flat=True).first()
    return found or ""


def remember_program(workload: Workload, system: int, program: str) -> None:
    """Tie an approval to the program that ran first under it."""
    Approval.objects.filter(workload=workload, system=system, program="").update(program=program)


def unapproved(workloads: Iterable[Workload], systems: Iterable[int]) -> dict[int, set[int]]:
    """On which systems the commands of workloads wait for an admin's word; one query when any has a command."""
    commands = {one.pk: approval_digest(one) for one in workloads if one.runner == COMMAND_RUNNER}
    wanted = set(systems)
    if not commands:
        return {}
    given = Approval.objects.filter(system__in=wanted, workload__in=commands)
    held = {(one.workload_id, one.system_id) for one in given if one.digest == commands[one.workload_id]}
    waiting = {pk: {system for system in wanted if (pk, system) not in held} for pk in commands}
    return {pk: those for pk, those in waiting.items() if those}


def not_for_benches(workloads: Iterable[Workload], system: int) -> dict[int, str]:
    """Why a bench of this system does not run some of the workloads; one query when any has a command."""
    wanted = list(workloads)
    reasons = {one.pk: BY_HAND for one in wanted if not one.runner}
    commands = {one.pk: one for one in wanted if one.runner == COMMAND_RUNNER}
    if commands:
        given = dict(Approval.objects.filter(system=system, workload__in=commands).values_list("workload", "digest"))
        reasons |= {pk: UNAPPROVED for pk, one in commands.items() if given.get(pk) != approval_digest(one)}
    return reasons
