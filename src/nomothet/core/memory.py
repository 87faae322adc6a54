"""Section 15 of the method: memory arithmetic and slot maps."""

import math
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from nomothet.core.errors import BadQuantity, BadSlots
from nomothet.core.notes import Note, note

_HALF_TOLERANCE = 0.02
_BYTES = 8


def peak_bandwidth_gbs(rate_mts: float, channels: int) -> float:
    """Peak bandwidth in GB/s: `MT/s × 8 B × channels`.

    Examples
    --------
    >>> peak_bandwidth_gbs(5600, 2)
    89.6

    Raises
    ------
    BadQuantity
        When the rate is not above 0, or the channels are no whole number above 0.
    """
    _above_zero("rate_mts", rate_mts)
    _above_zero("channels", channels)
    if channels != int(channels):
        raise BadQuantity("channels", f"channels are {channels:g}; they must be a whole number")
    return rate_mts * _BYTES * channels / 1000


def first_word_latency_ns(cas: float, rate_mts: float) -> float:
    """Time to the first word in ns: `CL × 2000 / MT/s`.

    Examples
    --------
    >>> round(first_word_latency_ns(36, 5600), 3)
    12.857

    Raises
    ------
    BadQuantity
        When one of the two is not above 0.
    """
    _above_zero("cas", cas)
    _above_zero("rate_mts", rate_mts)
    return cas * 2000 / rate_mts


@dataclass(frozen=True)
class RateReading:
    """What a tool's reading means as a transfer rate; `halved` when it was the clock of double data rate."""

    rate_mts: float
    halved: bool


def transfer_rate(reading: float, set_mts: float) -> RateReading:
    """Recognise a clock reading of half the transfer rate; within 2 % of half, so 3600 is no half of 5600.

    Examples
    --------
    >>> transfer_rate(2800, 5600)
    RateReading(rate_mts=5600.0, halved=True)

    Raises
    ------
    BadQuantity
        When one of the two is not above 0.
    """
    _above_zero("reading", reading)
    _above_zero("set_mts", set_mts)
    if abs(2 * reading / set_mts - 1) <= _HALF_TOLERANCE:
        return RateReading(2.0 * reading, True)
    return RateReading(float(reading), False)


@dataclass(frozen=True)
class Slot:
    """A slot of a board. Slots are filled in the order of `fill`, from 1; `channel` is what it is wired to."""

    name: str
    channel: str
    fill: int


@dataclass(frozen=True)
class SpeedLimit:
    """The highest rate that the board runs with so many modules on its fullest channel."""

    modules_per_channel: int
    rate_mts: float


@dataclass(frozen=True)
class SlotMap:
    """A board's memory slots and limits. None means that no limit is known."""

    slots: tuple[Slot, ...]
    max_gb: float | None = None
    max_module_gb: float | None = None
    speeds: tuple[SpeedLimit, ...] = ()
    takes_ecc: bool | None = None

    @property
    def channels(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(slot.channel for slot in self.slots))


@dataclass(frozen=True)
class Module:
    """One memory module."""

    kit: str
    capacity_gb: float
    rated_mts: float | None = None
    ranks: int | None = None
    ecc: bool | None = None


@dataclass(frozen=True)
class Mistake:
    """Something about the modules that costs speed or cannot work, with the slots concerned."""

    kind: str
    slots: tuple[str, ...]
    found: Note


@dataclass(frozen=True)
class Population:
    """What the modules in their slots amount to."""

    modules: int
    capacity_gb: float
    channels: int
    rate_mts: float | None
    peak_gbs: float | None
    mistakes: list[Mistake] = field(default_factory=list)


def check_slot_map(slots: SlotMap) -> None:
    """Refuse a slot map that cannot be: double names, double places in the filling order, limits under zero.

    Raises
    ------
    BadSlots
    """
    for kind, values in (("name", [s.name for s in slots.slots]), ("place to fill", [s.fill for s in slots.slots])):
        for value, times in Counter(values).items():
            if times > 1:
                raise BadSlots(f"Two slots have the {kind} {value}; each needs its own.", str(value))
    for slot in slots.slots:
        if not slot.name.strip() or not slot.channel.strip():
            raise BadSlots("Every slot needs a name and a channel.", slot.name)
        if slot.fill < 1:
            raise BadSlots(
                f"Slot {slot.name} has place {slot.fill} in the order of filling; places begin at 1.", slot.name
            )
    limits = [slots.max_gb, slots.max_module_gb, *(speed.rate_mts for speed in slots.speeds)]
    if any(limit is not None and limit <= 0 for limit in limits):
        raise BadSlots("A limit of capacity or speed must be above 0; leave it out where it is not known.")
    if any(speed.modules_per_channel < 1 for speed in slots.speeds):
        raise BadSlots("A limit of speed is for 1 or more modules on a channel.")


def first_slots(slots: SlotMap, count: int) -> list[str]:
    """The slots that `count` modules belong into, in the board's order of filling."""
    return [slot.name for slot in sorted(slots.slots, key=lambda slot: slot.fill)[:count]]


def populate(slots: SlotMap, modules: Mapping[str, Module], set_mts: float | None = None) -> Population:
    """Channels in use, capacity, rate, peak bandwidth and mistakes of modules in slots.

    Parameters
    ----------
    modules : mapping of slot name to Module
    set_mts : float, optional
        Rate set in the firmware; the kit's rated one counts without it.

    Raises
    ------
    BadSlots
        When a module sits in a slot that the board does not have.
    """
    by_name = {slot.name: slot for slot in slots.slots}
    for name in modules:
        if name not in by_name:
            known = ", ".join(by_name) or "none"
            raise BadSlots(f"The board has no slot {name}; its slots are {known}.", name)
    per_channel = Counter(by_name[name].channel for name in modules)
    rates = [module.rated_mts for module in modules.values() if module.rated_mts]
    rate = set_mts or (min(rates) if rates else None)
    channels = len(per_channel)
    return Population(
        modules=len(modules),
        capacity_gb=sum(module.capacity_gb for module in modules.values()),
        channels=channels,
        rate_mts=rate,
        peak_gbs=peak_bandwidth_gbs(rate, channels) if rate and channels else None,
        mistakes=[
            *_wrong_slots(slots, by_name, modules),
            *_uneven(by_name, modules),
            *_mixed(modules),
            *_over_limit(slots, modules),
            *_too_fast(slots, per_channel, modules, rates, set_mts),
        ],
    )


def _wrong_slots(slots: SlotMap, by_name: Mapping[str, Slot], modules: Mapping[str, Module]) -> list[Mistake]:
    wanted = first_slots(slots, len(modules))
    wrong = tuple(name for name in modules if name not in wanted)
    if not wrong:
        return []
    used = {by_name[name].channel for name in modules}
    reached = {by_name[name].channel for name in wanted}
    found = note("wrong_slots", slots=sorted(modules), used=len(used), reached=len(reached), wanted=list(wanted))
    return [Mistake("wrong slots", wrong, found)]


def _uneven(by_name: Mapping[str, Slot], modules: Mapping[str, Module]) -> list[Mistake]:
    capacity: Counter[str] = Counter()
    for name, module in modules.items():
        capacity[by_name[name].channel] += module.capacity_gb  # type: ignore[assignment]
    if len(set(capacity.values())) <= 1:
        return []
    return [Mistake("uneven channels", tuple(modules), note("uneven_channels", capacity_gb=sorted(capacity.items())))]


def _mixed(modules: Mapping[str, Module]) -> list[Mistake]:
    found = []
    if len({module.kit for module in modules.values()}) > 1:
        kits = sorted({module.kit for module in modules.values()})
        found.append(Mistake("mixed kits", tuple(modules), note("mixed_kits", kits=kits)))
    if len({module.ecc for module in modules.values() if module.ecc is not None}) > 1:
        found.append(Mistake("mixed correction", tuple(modules), note("mixed_correction")))
    return found


def _over_limit(slots: SlotMap, modules: Mapping[str, Module]) -> list[Mistake]:
    found = []
    total = sum(module.capacity_gb for module in modules.values())
    if slots.max_gb is not None and total > slots.max_gb:
        over = note("over_capacity", gb=total, most_gb=slots.max_gb)
        found.append(Mistake("over the capacity", tuple(modules), over))
    if slots.max_module_gb is not None:
        large = tuple(name for name, module in modules.items() if module.capacity_gb > slots.max_module_gb)
        if large:
            over = note("over_capacity_of_slot", most_gb=slots.max_module_gb)
            found.append(Mistake("over the capacity of a slot", large, over))
    if slots.takes_ecc is False:
        refused = tuple(name for name, module in modules.items() if module.ecc)
        if refused:
            found.append(Mistake("refused module", refused, note("refused_module")))
    return found


def _too_fast(
    slots: SlotMap,
    per_channel: Mapping[str, int],
    modules: Mapping[str, Module],
    rates: Sequence[float],
    set_mts: float | None,
) -> list[Mistake]:
    found = []
    fullest = max(per_channel.values(), default=0)
    limits = [speed.rate_mts for speed in slots.speeds if speed.modules_per_channel <= fullest]
    rate = set_mts or (min(rates) if rates else None)
    if limits and rate and rate > min(limits):
        over = note("over_speed", mts=rate, most_mts=min(limits), modules=fullest)
        found.append(Mistake("over the speed", tuple(modules), over))
    if set_mts and rates and set_mts > min(rates):
        over = note("over_rating", mts=set_mts, rated_mts=min(rates))
        found.append(Mistake("over the rating", tuple(modules), over))
    return found


def _above_zero(field: str, value: float) -> None:
    if not 0 < value < math.inf:
        raise BadQuantity(field, f"{field} is {value:g}; it must be above 0")
