"""Changing a machine from one configuration to the next, step by step."""

from collections.abc import Mapping
from typing import Any

from django.db import transaction
from django.utils import timezone

from nomothet.core.change_steps import change_steps
from nomothet.server.docket.models import Changeover, Release, WorkOrder
from nomothet.server.docket.work import WorkVisit, work_of
from nomothet.server.feed.commands import announce
from nomothet.server.history.commands import remember
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.systems.configurations import observe
from nomothet.server.systems.models import Bench, Configuration, System
from nomothet.server.systems.own_settings import proofs
from nomothet.server.systems.queries import mismatch
from nomothet.server.systems.states import ConfigurationState, machine_state
from nomothet.words import say
from nomothet.words.steps import with_proof

MODES = ("fewest", "balanced", "shuffled", "by hand")


def steps_to(system: System, visit: WorkVisit, held: Mapping[int, ConfigurationState]) -> list[dict[str, Any]]:
    """The steps before a visit: what to change, then what to look at before the first pass."""
    before = machine_state(held[system.present_id]) if system.present_id else None
    verify = proofs(held[visit.configuration.pk].settings)
    steps = [
        {
            "key": step.key,
            "kind": step.kind,
            "words": with_proof(say(step.does), verify.get(step.key.removeprefix("set:"), "")),
            "asks": step.asks,
            "expected": step.expected,
            "unit": step.unit,
            "reading": "",
            "at_most": None,
        }
        for step in change_steps(
            before, machine_state(held[visit.configuration.pk]), by_hand=not hasattr(system, "bench")
        )
    ]
    checks = {check["key"]: check for check in system.checks}
    for entry in visit.entries:
        checks |= {check["key"]: check for check in entry.test.workload.checks}
    if not hasattr(system, "bench"):
        # Who runs passes by hand looks at these before each of them.
        checks = {key: check for key, check in checks.items() if not check.get("each_pass")}
    return steps + [
        {
            "key": f"check:{key}",
            "kind": "check",
            "words": check["words"],
            "asks": "",
            "expected": None,
            "unit": check.get("unit", ""),
            "reading": check.get("reading", ""),
            "at_most": check.get("at_most"),
        }
        for key, check in checks.items()
    ]


def begin_changeover(user: User, system: System) -> Changeover:
    """Begin the change to what comes next; one that is under way is gone on with."""
    require(user, Act.TICK_STEPS)
    with transaction.atomic():
        locked = System.objects.select_for_update().get(pk=system.pk)
        under_way = locked.changeovers.filter(done_at=None).first()
        if under_way is not None:
            return under_way
        work = work_of(locked)
        if not work.visits:
            raise conflict(f"Nothing is owed on {locked.name}, so there is nothing to change to.")
        visit = work.visits[0]
        if visit.configuration.pk == locked.present_id:
            raise conflict(f"{locked.name} is {visit.configuration.title} already; the next pass can run.")
        made = Changeover.objects.create(
            system=locked,
            before=locked.present,
            configuration=visit.configuration,
            steps=steps_to(locked, visit, work.held),
            started_by=user,
        )
        _finish_if_done(made)
        announce("docket_of", system=locked.pk)
    return made


def tick(user: User, changeover: Changeover, key: str, observed: Any = None) -> Changeover:
    """Tick a step, with what was read off the machine where it asks for that.

    A value that is not what was set is stored and shown, and holds up the change until it is read again or released.
    """
    require(user, Act.TICK_STEPS)
    with transaction.atomic():
        locked = _open(changeover)
        step = next((one for one in locked.steps if one["key"] == key), None)
        if step is None:
            raise unusable("This change has no such step; reload the docket.", field="key")
        agrees, seen = _agrees(user, locked, step, observed)
        locked.ticks[key] = {
            "at": timezone.now().isoformat(),
            "by": user.display_name,
            "observed": seen,
            "agrees": agrees,
        }
        locked.save(update_fields=["ticks"])
        _finish_if_done(locked)
        announce("docket_of", system=locked.system_id)
    return locked


def untick(user: User, changeover: Changeover, key: str) -> Changeover:
    """Take a tick back."""
    require(user, Act.TICK_STEPS)
    with transaction.atomic():
        locked = _open(changeover)
        locked.ticks.pop(key, None)
        locked.save(update_fields=["ticks"])
        announce("docket_of", system=locked.system_id)
    return locked


def give_up_changeover(user: User, changeover: Changeover) -> None:
    """Break a change off: what the machine is now is not known, so the next one looks at everything."""
    require(user, Act.TICK_STEPS)
    with transaction.atomic():
        locked = _open(changeover)
        remember(
            user, "system", locked.system_id, "change cancelled", {"configuration": [locked.configuration.title, None]}
        )
        if locked.ticks:
            System.objects.filter(pk=locked.system_id).update(present=None)
        locked.delete()
        announce("docket_of", system=changeover.system_id)


def release(user: User, configuration: Configuration, key: str, observed: Any, words: str) -> None:
    """Go on with a value that is not what was set, and say why."""
    require(user, Act.TICK_STEPS)
    if not words.strip():
        raise unusable("Say why the passes may go on with it.", field="words")
    with transaction.atomic():
        Release.objects.create(configuration=configuration, key=key, observed=observed, words=words.strip(), by=user)
        for changeover in Changeover.objects.select_for_update().filter(configuration=configuration, done_at=None):
            for step in changeover.steps:
                if step["asks"] == key and step["key"] in changeover.ticks:
                    changeover.ticks[step["key"]] |= {"agrees": True, "released": words.strip()}
            changeover.save(update_fields=["ticks"])
            _finish_if_done(changeover)
        remember(user, "configuration", configuration.pk, "gone on with a mismatch", {key: [None, words.strip()]})
        announce("docket_of", system=configuration.system_id)


def set_order(user: User, system: System, *, mode: str, seed: int = 0, by_hand: list[int] | None = None) -> None:
    """Choose how the passes of a system are put in order."""
    require(user, Act.TICK_STEPS)
    if mode not in MODES:
        raise unusable(f"The order is one of {', '.join(MODES)}.", field="mode")
    with transaction.atomic():
        WorkOrder.objects.update_or_create(
            system=system, defaults={"mode": mode, "seed": seed, "by_hand": by_hand or []}
        )
        remember(user, "system", system.pk, "work reordered", {"order": [None, mode]})
        announce("docket_of", system=system.pk)


def note_readings(bench: Bench, readings: Mapping[str, float]) -> None:
    """What a bench tells of its idle machine; pre-run checks that it answers are ticked in its name."""
    Bench.objects.filter(pk=bench.pk).update(readings=dict(readings))
    with transaction.atomic():
        for changeover in Changeover.objects.select_for_update().filter(system=bench.system_id, done_at=None):
            ticked = False
            for step in changeover.steps:
                value = readings.get(step["reading"]) if step["reading"] else None
                fits = value is not None and (step["at_most"] is None or value <= step["at_most"])
                if fits and step["key"] not in changeover.ticks:
                    changeover.ticks[step["key"]] = {
                        "at": timezone.now().isoformat(), "by": "the bench", "observed": value, "agrees": True,
                    }  # fmt: skip
                    ticked = True
            if ticked:
                changeover.save(update_fields=["ticks"])
                _finish_if_done(changeover)
                announce("docket_of", system=bench.system_id)


def _open(changeover: Changeover) -> Changeover:
    locked = Changeover.objects.select_for_update().filter(pk=changeover.pk).first()
    if locked is None or locked.done_at is not None:
        raise conflict("This change is over; somebody may have been faster. Reload the docket.")
    return locked


def _agrees(user: User, changeover: Changeover, step: dict[str, Any], observed: Any) -> tuple[bool, Any]:
    if observed in (None, ""):
        return True, None
    if step["asks"]:
        seen = observe(user, changeover.configuration, step["asks"], observed).value
        return not mismatch(step["asks"], step["expected"], seen), seen
    if not step["reading"]:
        return True, observed
    try:
        value = float(observed)
    except (TypeError, ValueError):
        raise unusable(f"{step['reading']} is a number in {step['unit']}.", field="observed") from None
    if step["at_most"] is not None and value > step["at_most"]:
        raise conflict(
            f"{step['reading']} is {value:g} {step['unit']}, and may be {step['at_most']:g} {step['unit']} at most. "
            "Wait, read it again, and tick then."
        )
    return True, value


def _finish_if_done(changeover: Changeover) -> None:
    ticks = changeover.ticks
    if all(ticks.get(step["key"], {}).get("agrees") for step in changeover.steps):
        changeover.done_at = timezone.now()
        changeover.save(update_fields=["done_at"])
        System.objects.filter(pk=changeover.system_id).update(present=changeover.configuration)
