"""Changing workloads."""

from typing import Any

from django.db import transaction
from django.db.models import ProtectedError
from django.utils import timezone

from nomothet.formats.errors import FormatError
from nomothet.formats.reading_rules import Rule, check_rule
from nomothet.server.feed.commands import announce
from nomothet.server.history.commands import changed, remember
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.people.security import note_security
from nomothet.server.problems import conflict, unusable
from nomothet.server.systems.models import System
from nomothet.server.workloads.command_rules import approval_digest, refusal
from nomothet.server.workloads.models import Approval, Kind, Workload
from nomothet.server.workloads.search_fields import with_search_fields

# What says how the figures came about; fixed once there are passes, so that old figures keep their meaning.
MEANING = (
    "kind", "procedure", "steps", "runner", "command", "settings", "metrics", "duration_s", "warm_up_s",
)  # fmt: skip
EDITABLE = (
    "name", "description", "requirements", "files", "rules", "judgement", "comparable", "checks", "first_run_apart",
    *MEANING,
)  # fmt: skip


def add_workload(user: User | None, *, key: str, name: str, version: str, kind: str, **more: Any) -> Workload:
    """Add a workload or a further edition of one."""
    if user is not None:
        require(user, Act.EDIT_WORKLOADS)
    more["command"] = more.get("command") or {}
    if Workload.objects.filter(key=key, version=version).exists():
        raise unusable(f"{name} {version} is in the catalogue already; give another version.", field="version")
    if kind == Kind.LOAD_SEARCH:
        more = with_search_fields(more)
    _check(more)
    with transaction.atomic():
        made = Workload.objects.create(key=key, name=name, version=version, kind=kind, **more)
        remember(user, "workload", made.pk, "added")
        announce("workloads", workload=made.pk)
    return made


def add_edition(user: User, workload: Workload, version: str) -> Workload:
    """The same workload in another version. The two are linked by their key and not comparable until declared."""
    fields = {field: getattr(workload, field) for field in EDITABLE if field not in ("name", "kind", "comparable")}
    return add_workload(user, key=workload.key, name=workload.name, version=version, kind=workload.kind, **fields)


def has_passes(workload: Workload) -> bool:
    return workload.test_set.filter(passes__isnull=False).exists()


def edit_workload(user: User, workload: Workload, changes: dict[str, Any]) -> Workload:
    """Change fields of a workload; the caller has locked it and checked its version."""
    require(user, Act.EDIT_WORKLOADS)
    wanted = {field: changes[field] for field in EDITABLE if field in changes}
    if "command" in wanted:
        wanted["command"] = wanted["command"] or {}
    if workload.kind == Kind.LOAD_SEARCH and ("settings" in wanted or "metrics" in wanted):
        both = {name: wanted.get(name, getattr(workload, name)) for name in ("settings", "metrics")}
        wanted |= with_search_fields(both)
    before = {field: getattr(workload, field) for field in wanted}
    difference = changed(before, wanted)
    meaning = [field for field in difference if field in MEANING]
    if meaning and has_passes(workload):
        raise conflict(
            f"{workload.name} {workload.version} has passes on record, and {meaning[0].replace('_', ' ')} says how "
            "they came about. Make a new edition and change that.",
            field=meaning[0],
        )
    _check(wanted)
    _check_editions(workload, wanted.get("comparable", []))
    for field, value in wanted.items():
        setattr(workload, field, value)
    workload.edit += 1
    with transaction.atomic():
        workload.save()
        remember(user, "workload", workload.pk, "edited", difference)
        announce("workloads", workload=workload.pk)
    return workload


def archive_workload(user: User, workload: Workload, archived: bool) -> None:
    """Take a workload out of the lists, or bring it back."""
    require(user, Act.EDIT_WORKLOADS)
    with transaction.atomic():
        Workload.objects.filter(pk=workload.pk).update(archived_at=timezone.now() if archived else None)
        remember(user, "workload", workload.pk, "archived" if archived else "brought back")
        announce("workloads", workload=workload.pk)


def delete_workload(user: User, workload: Workload) -> None:
    """Delete a workload that no review uses."""
    require(user, Act.EDIT_WORKLOADS)
    pk = workload.pk
    try:
        with transaction.atomic():
            workload.delete()
            remember(user, "workload", pk, "deleted", {"name": [f"{workload.name} {workload.version}", None]})
            announce("workloads", workload=pk)
    except ProtectedError:
        raise conflict(f"A review tests with {workload.name}, so it cannot be deleted. Archive it instead.") from None


def approve(user: User, workload: Workload, system: System) -> None:
    """Let a workload's command run on a system, as it is now, with the program that its bench finds next."""
    require(user, Act.MANAGE_BENCHES)
    if not workload.command:
        raise unusable(f"{workload.name} {workload.version} has no command; what ships with the bench needs no word.")
    said = refusal(workload.command)
    if said:
        raise unusable(said, field="command")
    with transaction.atomic():
        digest = approval_digest(workload)
        Approval.objects.update_or_create(
            workload=workload, system=system, defaults={"digest": digest, "program": "", "by": user}
        )
        remember(user, "workload", workload.pk, f"approved for {system.name}")
        note_security("command approved", by=user, workload=workload.key, system=system.key)
        announce("workloads", workload=workload.pk)


def withdraw_approval(user: User, workload: Workload, system: System) -> None:
    """Let it run there no longer."""
    require(user, Act.MANAGE_BENCHES)
    with transaction.atomic():
        Approval.objects.filter(workload=workload, system=system).delete()
        remember(user, "workload", workload.pk, f"no longer approved for {system.name}")
        note_security("approval taken back", by=user, workload=workload.key, system=system.key)
        announce("workloads", workload=workload.pk)


def _check(fields: dict[str, Any]) -> None:
    for name in ("settings", "metrics"):
        keys = [one["key"] for one in fields.get(name, [])]
        for key in keys:
            if keys.count(key) > 1:
                raise unusable(f"{key} is among the {name} twice; keep one.", field=name)
    for at, rule in enumerate(fields.get("rules", []), 1):
        try:
            check_rule(Rule(rule["kind"], rule["expression"], rule.get("metric", "")))
        except FormatError as error:
            raise unusable(f"Rule {at}: {error}", field="rules") from None


def _check_editions(workload: Workload, declared: list[dict[str, Any]]) -> None:
    versions = set(Workload.objects.filter(key=workload.key).values_list("version", flat=True)) - {workload.version}
    for one in declared:
        if one["version"] not in versions:
            raise unusable(f"There is no other edition {one['version']} of {workload.name}.", field="comparable")
        if not str(one.get("why", "")).strip():
            raise unusable(f"Say why edition {one['version']} is comparable.", field="comparable")
