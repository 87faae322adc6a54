"""Settings that a team defines, bundles of settings by name, and what is known of all settings."""

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from django.db import transaction

from nomothet.core.errors import BadQuantity
from nomothet.core.quantities import Spec, Value
from nomothet.core.settings import CATALOGUE, GROUPS, Setting, own_key, read_setting, setting_of
from nomothet.server.feed.commands import announce
from nomothet.server.history.commands import remember
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.systems.models import Bundle, Configuration, OwnSetting

_MOST_USED = 8


@dataclass(frozen=True)
class KnownSetting:
    """A setting as it is offered: of the catalogue, of the team, or only used before.

    `used` are values that configurations have, the most frequent first; `verify` says how one sees that it holds.
    """

    key: str
    label: str
    kind: str
    unit: str
    choices: list[Any]
    group: str
    where: str
    touches: str
    restart: bool
    verify: str
    own: bool
    used: list[Any]


@dataclass(frozen=True)
class BundleShape:
    """Settings by one name: `family` is what is chosen ("memory tuning"), `name` which one ("tight").

    `workload` is the key of the workload whose tests have these settings; empty for settings of configurations.
    """

    id: int
    family: str
    name: str
    workload: str
    settings: dict[str, Any]
    words: str


def known_settings() -> list[KnownSetting]:
    """Every setting that a configuration may have, with what the team has set; two queries."""
    used: dict[str, Counter[Value]] = defaultdict(Counter)
    for settings in Configuration.objects.filter(archived_at=None).values_list("settings", flat=True):
        for key, value in settings.items():
            if value is not None:
                used[key][value] += 1
    own = {one.key: one for one in OwnSetting.objects.all()}
    keys = dict.fromkeys([*CATALOGUE, *own, *used])
    return [_known(key, setting_of(key), own.get(key), used.get(key, Counter())) for key in keys]


def _known(key: str, setting: Setting, own: OwnSetting | None, used: Counter[Value]) -> KnownSetting:
    spec = own_spec(own) if own else setting.spec
    return KnownSetting(
        key=key,
        label=spec.label,
        kind=spec.kind,
        unit=spec.unit,
        choices=list(spec.choices),
        group=GROUPS[setting.group],
        where=setting.where,
        touches=setting.touches,
        restart=setting.restart,
        verify=own.verify if own else "",
        own=own is not None,
        used=[value for value, _ in used.most_common(_MOST_USED)],
    )


def own_spec(own: OwnSetting) -> Spec:
    """What a value of a team's setting may be."""
    return Spec(own.key, own.label, own.kind, setting_of(own.key).spec.unit, choices=tuple(own.choices))  # type: ignore[arg-type]


def define_setting(
    user: User,
    *,
    label: str,
    kind: str,
    touches: str,
    made_in: str,
    unit: str = "",
    choices: Sequence[str] = (),
    verify: str = "",
) -> KnownSetting:
    """Define a setting that the catalogue does not know. What its key says of it stays as it is.

    Raises
    ------
    Problem
        422 where another has this label, or a choice has no choices.
    """
    require(user, Act.EDIT_SYSTEMS)
    label = " ".join(label.split())
    known = {one.spec.label.casefold() for one in CATALOGUE.values()}
    if label.casefold() in known or OwnSetting.objects.filter(label__iexact=label).exists():
        raise unusable(f"There is a setting named {label} already; choose it, or another name.", field="label")
    choices = list(dict.fromkeys(one.strip() for one in choices if one.strip()))
    if kind == "choice" and len(choices) < 2:
        raise unusable("Say at least two values to choose from.", field="choices")
    key = own_key(label, touches, made_in, unit)
    if setting_of(key).group != "own":
        raise unusable("A name is of letters, digits, spaces and hyphens.", field="label")
    with transaction.atomic():
        made = OwnSetting.objects.create(
            key=key, label=label, kind=kind, choices=choices if kind == "choice" else [], verify=verify.strip(), by=user
        )
        remember(user, "setting", made.pk, "defined", {"label": [None, label]})
        announce("systems")
    return _known(key, setting_of(key), made, Counter())


def remove_setting(user: User, own: OwnSetting) -> None:
    """Take back a definition that no configuration uses."""
    require(user, Act.EDIT_SYSTEMS)
    users = [one.title for one in Configuration.objects.all() if own.key in one.settings]
    if users:
        raise conflict(f"{own.label} is set on {users[0]}, so its definition stays.")
    with transaction.atomic():
        remember(user, "setting", own.pk, "definition taken back", {"label": [own.label, None]})
        own.delete()
        announce("systems")


def read_settings(given: Mapping[str, Any]) -> dict[str, Value | None]:
    """Check settings, a team's own by its definition; None takes one away. One query where one of them is its own.

    Raises
    ------
    BadQuantity
        Names the setting and what would do.
    """
    own = [key for key in given if key.startswith("own.")]
    specs = {one.key: own_spec(one) for one in OwnSetting.objects.filter(key__in=own)} if own else {}
    return {key: None if value is None else read_setting(key, value, specs.get(key)) for key, value in given.items()}


def proofs(settings: Mapping[str, Any]) -> dict[str, str]:
    """How one sees that the team's own among these settings hold; one query where there are any."""
    own = [key for key in settings if key.startswith("own.")]
    return dict(OwnSetting.objects.filter(key__in=own).values_list("key", "verify")) if own else {}


def setting_named(words: str, own: Mapping[str, str]) -> str:
    """A setting's key by its label with or without its unit, or by the key itself; `own` are the team's by label."""
    plain = words.strip().casefold()
    for key, setting in CATALOGUE.items():
        label, unit = setting.spec.label.casefold(), setting.spec.unit.casefold()
        if plain in (key, label, f"{label} ({unit})", f"{label} {unit}", f"{label} in {unit}"):
            return key
    return own.get(plain) or (words.strip() if plain.startswith(("own.", "tweak.")) else plain.replace(" ", "_"))


def own_labels() -> dict[str, str]:
    """The keys of the team's settings by label, without regard to case."""
    return {label.casefold(): key for label, key in OwnSetting.objects.values_list("label", "key")}


def bundles() -> list[BundleShape]:
    """All bundles; one query."""
    return [_bundle_shape(one) for one in Bundle.objects.all()]


def keep_bundle(user: User, *, family: str, name: str, settings: Mapping[str, Any], workload: str = "") -> BundleShape:
    """Keep settings by a name. Configurations hold the settings themselves: a bundle that changes changes none."""
    require(user, Act.EDIT_SYSTEMS)
    family, name = " ".join(family.split()), " ".join(name.split())
    if not family or not name:
        raise unusable("A bundle says what it chooses, such as memory tuning, and has a name, such as tight.")
    if not settings:
        raise unusable("Choose the settings that it holds.", field="settings")
    try:
        read = dict(settings) if workload else read_settings(settings)
    except BadQuantity as error:
        raise unusable(str(error), field=error.field) from None
    if any(value is None for value in read.values()):
        raise unusable("Every setting of a bundle has a value.", field="settings")
    if Bundle.objects.filter(family__iexact=family, name__iexact=name, workload=workload).exists():
        raise unusable(f"There is a bundle {family}: {name} already; choose another name.", field="name")
    with transaction.atomic():
        made = Bundle.objects.create(family=family, name=name, settings=read, workload=workload, by=user)
        remember(user, "bundle", made.pk, "kept", {"name": [None, f"{family}: {name}"]})
        announce("systems")
    return _bundle_shape(made)


def remove_bundle(user: User, bundle: Bundle) -> None:
    """Forget a bundle; what it was set to stays set."""
    require(user, Act.EDIT_SYSTEMS)
    with transaction.atomic():
        remember(user, "bundle", bundle.pk, "forgotten", {"name": [f"{bundle.family}: {bundle.name}", None]})
        bundle.delete()
        announce("systems")


def _bundle_shape(one: Bundle) -> BundleShape:
    words = " · ".join(f"{setting_of(key).spec.label} {value}" for key, value in one.settings.items())
    return BundleShape(one.pk, one.family, one.name, one.workload, one.settings, words)
