"""How the entries of a fingerprint and their values are told (method 16)."""

from typing import Any

from nomothet.core.comparable import AMBIENT
from nomothet.core.errors import BadQuantity
from nomothet.core.settings import setting_of


def label_of(key: str) -> str:
    """What an entry of a fingerprint is called."""
    if key == AMBIENT:
        return "room temperature in °C"
    if key in ("capture", "version", "workload"):
        return {"capture": "capture method", "version": "workload version", "workload": "workload"}[key]
    plain = key.removeprefix("part:").removeprefix("setting:")
    if plain != key:
        return plain.replace("_", " ")
    try:
        return setting_of(key).spec.label
    except BadQuantity:
        return key.replace("_", " ")


def text_of_value(value: Any) -> str:
    """A value of a fingerprint as it is told."""
    if isinstance(value, list):
        return " and ".join(text_of_value(one) for one in value)
    return f"{value:g}" if isinstance(value, float) else str(value)
