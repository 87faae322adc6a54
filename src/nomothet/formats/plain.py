"""What the core finds, as JSON knows it."""

import dataclasses
import math
from collections.abc import Mapping
from typing import Any

import numpy as np

from nomothet.core.notes import Note
from nomothet.words import say


def stored(value: Any) -> Any:
    """Dataclasses, arrays and tuples as plain data; what is not finite becomes null. A note keeps its code."""
    return _plain(value, said=False)


def told(value: Any) -> Any:
    """The same for people: a note becomes its sentence."""
    return _plain(value, said=True)


def _plain(value: Any, said: bool) -> Any:
    if isinstance(value, Note) and said:
        return say(value)
    if dataclasses.is_dataclass(value) and not isinstance(value, type):
        return {field.name: _plain(getattr(value, field.name), said) for field in dataclasses.fields(value)}
    if isinstance(value, Mapping):
        return {str(key): _plain(one, said) for key, one in value.items()}
    if isinstance(value, np.ndarray):
        return _plain(value.tolist(), said)
    if isinstance(value, list | tuple):
        # Most of what there is are numbers and words of long runs, a second each.
        return [
            one if type(one) is str or (type(one) is float and math.isfinite(one)) else _plain(one, said)
            for one in value
        ]
    if isinstance(value, np.generic):
        return _plain(value.item(), said)
    return None if isinstance(value, float) and not math.isfinite(value) else value
