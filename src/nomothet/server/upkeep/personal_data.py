"""What is known of a person, taken out for them, and their name taken away.

Nobody is deleted: what was measured and decided stays, under a name that stands for nobody. Raw captures and outputs of
programs are never changed.
"""

import json
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.apps import apps
from django.db import models, transaction
from django.db.models.functions import Cast
from django.http import HttpRequest
from django.utils import timezone

from nomothet.server.feed.commands import announce
from nomothet.server.follow_ups.models import FeedAddress
from nomothet.server.people.models import SecurityEvent, Token, User
from nomothet.server.people.permissions import Act, require
from nomothet.server.people.security import note_security
from nomothet.server.people.sessions import end_visits
from nomothet.server.problems import conflict

_SECRET = {"password", "digest", "totp", "totp_begun", "totp_step", "session_data", "session_key", "token_hash"}
_OURS = "nomothet.server."
# Frozen: changed on request only.
_RECORDS = ("records", "foreign")
_ACTS = ("people", "history")


@dataclass(frozen=True)
class Erased:
    """What stands for somebody from now on, and how many entries named them."""

    name: str
    changed: int


def known_of(user: User) -> dict[str, Any]:
    """Everything that is kept about a person or under their name, by kind, without secrets and captures."""
    found: dict[str, Any] = {"account": [_plain(user)]}
    for model in _models():
        links = [field for field in model._meta.get_fields() if _leads_to_people(field)]
        if not links:
            continue
        about = models.Q()
        for field in links:
            about |= models.Q(**{field.name: user})
        rows = [_plain(one) for one in _every(model).filter(about).order_by("pk").iterator(chunk_size=500)]
        if rows:
            found[model._meta.label_lower] = rows
    return found


def erase(
    admin: User | None,
    request: HttpRequest | None,
    user: User,
    *,
    in_records: bool = False,
    also: Sequence[str] = (),
    at: str = "",
) -> Erased:
    """Take a person's name out of everything that is kept; the account is closed for good.

    Parameters
    ----------
    in_records : bool
        Whether published records name them no more; their bytes change then.
    also : sequence of str
        Other names that stand for them, such as the one before an earlier erasing.
    at : str
        Where it was asked for, when nobody was signed in.

    Raises
    ------
    Problem
        For somebody who may still sign in.
    """
    if admin is not None:
        require(admin, Act.MANAGE_PEOPLE)
    if user.is_active:
        raise conflict(f"Disable {user.display_name} first: nobody who works here is made nameless.")
    names = [name for name in (user.display_name, *also) if name.strip()]
    with transaction.atomic():
        anonymous = f"former member {user.pk}"
        changed = sum(
            _replace(model, names, user.username, anonymous) for model in _models() if _is_told(model, in_records)
        )
        end_visits(user)
        Token.objects.filter(user=user).delete()
        user.links.all().delete()
        user.recovery_codes.all().delete()
        FeedAddress.objects.filter(user=user).delete()
        SecurityEvent.objects.filter(models.Q(by=user) | models.Q(about=user)).update(address="")
        user.display_name, user.username, user.email = anonymous, f"former-{user.pk}", ""
        user.first_name = user.last_name = user.totp = user.totp_begun = ""
        user.last_login = None
        user.set_unusable_password()
        user.save()
        note_security(
            "erased", by=admin, about=user, request=request, in_records=in_records, **({"at": at} if at else {})
        )
        announce("people", id=user.pk)
    return Erased(anonymous, changed)


def _models() -> Iterator[type[models.Model]]:
    for config in apps.get_app_configs():
        if config.name.startswith(_OURS):
            yield from config.get_models()


def _every(model: type[models.Model]) -> "models.QuerySet[Any]":
    """All rows, also those that are out of sight."""
    return (getattr(model, "every", None) or model._default_manager).all()


def _leads_to_people(field: Any) -> bool:
    return isinstance(field, models.ForeignKey) and field.related_model is User


def _is_told(model: type[models.Model], in_records: bool) -> bool:
    return model is not User and (in_records or model._meta.app_label not in _RECORDS)


def _plain(one: models.Model) -> dict[str, Any]:
    told: dict[str, Any] = {}
    for field in one._meta.concrete_fields:
        if field.name in _SECRET or isinstance(field, models.BinaryField):
            continue
        value = field.value_from_object(one)
        plain = value if isinstance(value, str | int | float | bool | list | dict | None) else str(value)
        told[field.name] = value.isoformat() if isinstance(value, datetime) else plain
    return told


def _replace(model: type[models.Model], names: list[str], username: str, anonymous: str) -> int:
    """Put another name for somebody's wherever a row says it as words of their own; gives how many rows did.

    A name to sign in with may be any word ("desk"): it stands for somebody where it is mentioned, with an @ before it,
    and by itself in what is kept of people's acts.
    """
    fields = [field for field in model._meta.concrete_fields if _may_name(field)]
    if not fields:
        return 0
    called = [rf"(?<!\w){re.escape(name)}(?!\w)" for name in names] + [rf"(?<=@){re.escape(username)}(?!\w)"]
    if model._meta.app_label in _ACTS:
        called.append(rf"\A{re.escape(username)}\Z")
    word = re.compile("|".join(called))
    saying = models.Q()
    for at, field in enumerate(fields):
        for name in (*names, username):
            saying |= models.Q(**{f"as_text_{at}__contains": _as_kept(field, name)})
    texts = {f"as_text_{at}": Cast(field.name, models.TextField()) for at, field in enumerate(fields)}
    changed = 0
    for pk in list(_every(model).annotate(**texts).filter(saying).values_list("pk", flat=True)):
        one = _every(model).defer(None).select_for_update().get(pk=pk)
        before = {field.name: getattr(one, field.name) for field in fields}
        after = {name: _without(value, word, anonymous) for name, value in before.items()}
        if after != before:
            _every(model).filter(pk=pk).update(**after)
            changed += 1
    return changed


def _may_name(field: Any) -> bool:
    if isinstance(field, models.BinaryField) or field.name in _SECRET or field.primary_key:
        return False
    free = isinstance(field, models.CharField | models.TextField) and not field.choices and not field.unique
    return (free and not isinstance(field, models.SlugField)) or isinstance(field, models.JSONField)


def _as_kept(field: Any, name: str) -> str:
    """A name as the database keeps it in a field."""
    return json.dumps(name)[1:-1] if isinstance(field, models.JSONField) else name


def _without(value: Any, word: re.Pattern[str], anonymous: str) -> Any:
    if isinstance(value, str):
        return word.sub(anonymous, value)
    if isinstance(value, list):
        return [_without(one, word, anonymous) for one in value]
    if isinstance(value, dict):
        return {word.sub(anonymous, key): _without(one, word, anonymous) for key, one in value.items()}
    return value


def file_name(user: User) -> str:
    """What the file is called in which somebody's data is taken out."""
    return f"{user.username}-{timezone.now():%Y-%m-%d}"
