"""What configurations cost: their parts' prices of one basis, in euro at the rate kept with each price (method 14)."""

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from nomothet.core.notes import note
from nomothet.core.parts import PRICE_BASES
from nomothet.server.shelf.models import Part, Price
from nomothet.server.systems.states import ConfigurationState
from nomothet.words import say

# Asked in this order where as many configurations have one as another.
BASES = tuple(dict.fromkeys(("street", "paid", *PRICE_BASES)))
# A part's id, and which of several like it.
Copy = tuple[int, int]
# Nobody asks what these cost.
_FREE = ("os_build",)


@dataclass(frozen=True)
class PricedPart:
    """A part with its latest price of a basis, in the currency it was noted in and in euro."""

    part: str
    amount: float
    currency: str
    on: date
    euro: float


@dataclass(frozen=True)
class ConfigurationPrice:
    """What a configuration costs by one basis, in euro; `total` is None where something has no such price.

    `on` is the day of the oldest price in it; `missing` names the parts without one.
    """

    basis: str
    total: float | None
    on: date | None
    parts: list[PricedPart]
    missing: list[str]
    # Why there is no total; empty where there is one.
    words: str


def prices_of(
    states: Mapping[int, ConfigurationState],
    basis: str = "",
    *,
    differing: bool = False,
    days: Mapping[int, date] | None = None,
) -> dict[int, ConfigurationPrice]:
    """The prices of configurations by their id, all by one basis; one query.

    A machine's price is that of what came with it: parts in it without a price of their own are taken as part of it,
    those with one are added.

    Parameters
    ----------
    basis : str
        The basis that most of them have a total by, without it.
    differing : bool
        Whether to count only the parts that not all of them have.
    days : mapping of id to date, optional
        By when prices are read; what was noted later does not count. The latest without it.
    """
    fitted = {key: _parts(state) for key, state in states.items()}
    if differing:
        shared = set.intersection(*(set(own) for own in fitted.values())) if fitted else set()
        fitted = {key: {pk: part for pk, part in own.items() if pk not in shared} for key, own in fitted.items()}
    noted = _noted({pk for own in fitted.values() for pk, _ in own})
    latest = {key: _latest(noted, (days or {}).get(key)) for key in fitted}
    by_basis = {
        one: {key: _priced(own, latest[key], one, differing=differing) for key, own in fitted.items()} for one in BASES
    }
    if basis in by_basis:
        return by_basis[basis]
    return max(by_basis.values(), key=lambda found: sum(one.total is not None for one in found.values()))


def _parts(state: ConfigurationState) -> dict[Copy, Part]:
    """What is bought for a configuration: a kit once, however many slots its modules fill, a second drive again."""
    times: Counter[tuple[int, int | None]] = Counter()
    found: dict[Copy, Part] = {}
    for fit in state.fitted.values():
        if fit.part.kind not in _FREE:
            times[fit.part.pk, fit.module] += 1
            found[fit.part.pk, times[fit.part.pk, fit.module]] = fit.part
    return found


def _noted(parts: Iterable[int]) -> dict[tuple[int, str], list[Price]]:
    """All prices of each part by each basis, in the order of their days."""
    found: dict[tuple[int, str], list[Price]] = {}
    for price in Price.objects.filter(part__in=list(parts)).order_by("on", "pk"):
        found.setdefault((price.part_id, price.basis), []).append(price)
    return found


def _latest(noted: Mapping[tuple[int, str], Sequence[Price]], day: date | None) -> dict[tuple[int, str], Price]:
    """The latest price of each, by a day where there is one."""
    found = {}
    for key, prices in noted.items():
        known = [price for price in prices if day is None or price.on <= day]
        if known:
            found[key] = known[-1]
    return found


def _priced(
    parts: Mapping[Copy, Part], latest: Mapping[tuple[int, str], Price], basis: str, *, differing: bool
) -> ConfigurationPrice:
    own = [(part, latest.get((pk, basis))) for (pk, _), part in parts.items()]
    known = [_one(part, price) for part, price in own if price is not None]
    whole = any(part.kind == "machine" and price is not None for part, price in own)
    missing = [] if whole else _without(own)
    total = sum(one.euro for one in known) if not missing and (known or differing) else None
    words = "" if total is not None else say(note("no_price", missing=missing, basis=basis))
    return ConfigurationPrice(basis, total, min((one.on for one in known), default=None), known, missing, words)


def _without(own: Sequence[tuple[Part, Price | None]]) -> list[str]:
    """What has no price; of a machine that is known as a whole, the machine."""
    lacking = [part for part, price in own if price is None]
    machine = [part.name for part in lacking if part.kind == "machine"]
    return machine or list(dict.fromkeys(part.name for part in lacking))


def _one(part: Part, price: Price) -> PricedPart:
    return PricedPart(part.name, float(price.amount), price.currency, price.on, float(price.amount * price.euro_rate))
