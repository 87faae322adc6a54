"""Results as a process holds them: what a result is never changes, so that each is read once."""

import threading
from collections import OrderedDict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from typing import Any

from django.db.models import QuerySet

from nomothet.core.notes import note
from nomothet.core.rounds import Placed
from nomothet.core.standings import Result as CoreResult
from nomothet.server.matrix.alike import varied
from nomothet.server.standings.models import Result

# Some 6 KB each.
_MOST = 10_000
_AT_ONCE = 1000
_TIMES = 3
_FIELDS = [field.attname for field in Result._meta.concrete_fields]
_AT = {name: at for at, name in enumerate(_FIELDS)}
# A result by its key, with its time: a table that was emptied begins to count anew.
_Key = tuple[int, datetime]


@dataclass(frozen=True, eq=False, slots=True)
class Held:
    """A result, its name among others, and what the method takes of it; what it is of is read anew each time, as that
    may change."""

    pk: int
    name: str
    column_id: int
    review_id: int
    configuration_id: int
    system_id: int
    workload_id: int
    centre: float | None
    last_at: datetime
    core: CoreResult
    # All columns of its row.
    row: tuple[Any, ...]

    @property
    def numbers(self) -> list[float]:
        """Its passes' values."""
        return list(self.row[_AT["content"]]["numbers"])


class _Holding:
    """The results that were read last."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._held: OrderedDict[_Key, Held] = OrderedDict()

    def of(self, keys: Iterable[_Key]) -> dict[_Key, Held]:
        """Those of them that are held."""
        found = {}
        with self._lock:
            for key in keys:
                if (one := self._held.get(key)) is not None:
                    self._held.move_to_end(key)
                    found[key] = one
        return found

    def keep(self, more: Mapping[_Key, Held]) -> None:
        with self._lock:
            self._held.update(more)
            while len(self._held) > _MOST:
                self._held.popitem(last=False)


_holding = _Holding()


def read(results: QuerySet[Result]) -> list[Held]:
    """The results of a query, in its order; only those that are not held yet are read whole."""
    for _ in range(_TIMES):
        keys = list(results.values_list("pk", "last_at"))
        found = _holding.of(keys)
        missing = [key for key in keys if key not in found]
        for at in range(0, len(missing), _AT_ONCE):
            more = _read_whole([pk for pk, _ in missing[at : at + _AT_ONCE]])
            _holding.keep(more)
            found |= more
        if len(found) == len(keys):
            break
        # Some were made anew between the two questions; the new ones are asked for.
    return [found[key] for key in keys if key in found]


def _read_whole(pks: Sequence[int]) -> dict[_Key, Held]:
    rows = Result.objects.filter(pk__in=pks).values_list(*_FIELDS)
    return {(row[_AT["id"]], row[_AT["last_at"]]): _hold(row) for row in rows}


def results_of(held: Sequence[Held]) -> list[Result]:
    """The results themselves."""
    return [Result.from_db("default", _FIELDS, one.row) for one in held]


def cell_name(test: int, column: int) -> str:
    """What names a result for as long as its cell is there."""
    return f"{test}-{column}"


def core_result(content: Mapping[str, Any], fingerprint: Mapping[str, Any]) -> CoreResult:
    """A result as the method takes it, of what is kept of it."""
    return CoreResult(
        values=[Placed(v, None, s) for v, s in zip(content["numbers"], content["sessions"], strict=True)],
        fingerprint=fingerprint,
        varied=_varied(tuple(fingerprint)),
        apart=tuple(note(code, **values) for code, values in content["apart"]),
        doubts=tuple(note("standing_doubt", words=words) for words in content["doubts"]),
        low_definition=content["low_definition"],
        power_source=content["power_source"],
        held=content["held"],
        spread=content["spread"],
    )


@lru_cache(maxsize=1024)
def _varied(keys: tuple[str, ...]) -> frozenset[str]:
    """Entries that a configuration chooses, which may differ: they are what is compared. Many results have the same."""
    parts = {key for key in keys if key.startswith("part:")}
    return frozenset(varied({"system"}, dict.fromkeys(keys), {}) | parts)


def _hold(row: tuple[Any, ...]) -> Held:
    def told(name: str) -> Any:
        return row[_AT[name]]

    return Held(
        pk=told("id"),
        name=cell_name(told("test_id"), told("column_id")),
        column_id=told("column_id"),
        review_id=told("review_id"),
        configuration_id=told("configuration_id"),
        system_id=told("system_id"),
        workload_id=told("workload_id"),
        centre=told("centre"),
        last_at=told("last_at"),
        core=core_result(told("content"), told("fingerprint")),
        row=row,
    )
