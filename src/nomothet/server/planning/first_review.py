"""A team's first review in one act: a question, a machine in two configurations, a workload and its test."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.utils.text import slugify

from nomothet.core.parts import KINDS
from nomothet.core.settings import setting_of
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.people.preferences import set_preferences
from nomothet.server.problems import unusable
from nomothet.server.reviews.commands.columns import add_column
from nomothet.server.reviews.commands.factors import declare_factor
from nomothet.server.reviews.commands.review import add_review
from nomothet.server.reviews.commands.tests import add_tests
from nomothet.server.reviews.models import Review
from nomothet.server.shelf.commands import add_part, parts_of_inventory
from nomothet.server.shelf.models import Part
from nomothet.server.systems.commands import add_system
from nomothet.server.systems.configurations import add_configuration
from nomothet.server.systems.models import Bench, Configuration, System
from nomothet.server.systems.own_settings import read_settings
from nomothet.server.workloads.commands import add_workload
from nomothet.server.workloads.models import Workload
from nomothet.server.workloads.templates import TEMPLATES

# The parts of a machine that is told by hand; what else it has can be told later.
TOLD = ("processor", "graphics", "memory_kit", "os_build")
PASSES = 3


@dataclass(frozen=True)
class Differing:
    """What the two configurations differ in: a kind of part or a setting, and what each of them has."""

    aspect: str
    a: str
    b: str


@transaction.atomic
def begin_first_review(
    user: User,
    *,
    question: str,
    differing: Differing,
    template: str,
    workload: str,
    version: str,
    system: System | None = None,
    machine: str = "",
    parts: Mapping[str, str] | None = None,
) -> Review:
    """Make everything that a first comparison needs, or nothing.

    Parameters
    ----------
    system : System, optional
        A machine that is there; its parts are those that its bench has told, unless it has a configuration already.
    machine, parts
        The name of a machine that is not there yet, and its parts in words by their kind.

    Raises
    ------
    Problem
        422 naming what is wrong.
    """
    require(user, Act.EDIT_REVIEW)
    if differing.a.strip() == differing.b.strip():
        raise unusable("The two configurations are the same; say what each of them has.", field="b")
    base = _base(user, system, machine, parts or {})
    a, b = (_with(user, base, differing.aspect, value.strip()) for value in (differing.a, differing.b))
    review = add_review(user, question, passes_per_test=PASSES)
    for configuration in (a, b):
        add_column(user, review, configuration)
    add_tests(user, review, _workload(user, template, workload, version), {})
    aspect = f"part.{differing.aspect}" if differing.aspect in KINDS else differing.aspect
    declare_factor(user, review, [aspect])
    set_preferences(user, first_review=review.pk)
    return Review.objects.get(pk=review.pk)


def _base(user: User, system: System | None, machine: str, parts: Mapping[str, str]) -> Configuration:
    if system is None:
        if not machine.strip():
            raise unusable("Name the machine.", field="machine")
        system = add_system(user, name=machine.strip())
        fitted = {kind: _part(user, kind, words) for kind, words in parts.items() if words.strip()}
    else:
        present = system.present or system.configurations.filter(archived_at=None).order_by("pk").first()
        if present is not None:
            return present
        bench = Bench.objects.filter(system=system).first()
        told = parts_of_inventory(user, bench.inventory, system.name) if bench else []
        fitted = {part.kind: part for part in told}
    return add_configuration(
        user, system, name="as it is", fitted={place: {"part": part.pk} for place, part in fitted.items()}
    )


def _with(user: User, base: Configuration, aspect: str, value: str) -> Configuration:
    """The machine with a part or a setting; a name that is taken belongs to a configuration of before."""
    if not value:
        raise unusable("Say what each of the two configurations has.", field="a")
    known = base.system.configurations.filter(archived_at=None)
    if aspect in KINDS:
        name, number = value[:100], 2
        changes: dict[str, Any] = {"fitted": {aspect: {"part": _part(user, aspect, value).pk}}}
    else:
        settings = read_settings({aspect: value})
        name, number = f"{_label(aspect)} {value}"[:100], 2
        changes = {"settings": settings}
    stem = name
    while known.filter(name=name).exists():
        name, number = f"{stem} ({number})", number + 1
    return add_configuration(user, base.system, name=name, base=base, **changes)


def _label(setting: str) -> str:
    return setting_of(setting).spec.label


def _part(user: User, kind: str, words: str) -> Part:
    if kind not in KINDS:
        raise unusable(f"{kind!r} is no kind of part.", field="parts")
    name = words.strip()[:120]
    return Part.objects.filter(kind=kind, name=name).first() or add_part(user, kind=kind, name=name)


def _workload(user: User, template: str, name: str, version: str) -> Workload:
    if template not in TEMPLATES:
        raise unusable(f"There is no kind of workload {template!r}.", field="template")
    chosen = TEMPLATES[template]
    name, version = name.strip(), version.strip() or "1"
    key = slugify(name)[:50] or template
    found = Workload.objects.filter(key=key, version=version, kind=chosen.kind).first()
    return found or add_workload(user, key=key, name=name, version=version, kind=chosen.kind, **chosen.fields)
