"""Section 23 of the method: the steps from one configuration to the next."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from nomothet.core.notes import Note, note
from nomothet.core.parts import KINDS, place_label
from nomothet.core.quantities import Value, text_of
from nomothet.core.settings import setting_of

StepKind = Literal["safety", "take_out", "put_in", "start_up", "restore", "firmware", "system", "check"]


@dataclass(frozen=True)
class Fitted:
    """What sits at a place of a machine: a part, or one module of a kit. `words` is how a tester knows it."""

    identity: str
    words: str
    kind: str


@dataclass(frozen=True)
class MachineState:
    """A configuration as a tester meets it: what sits at each place, what sits in each slot, and what is set."""

    parts: Mapping[str, Fitted]
    slots: Mapping[str, Fitted]
    settings: Mapping[str, Value]


@dataclass(frozen=True)
class Step:
    """One thing to do. `asks` is the setting whose observed value is asked for, `expected` what should be seen."""

    key: str
    kind: StepKind
    does: Note
    asks: str = ""
    expected: Value | None = None
    unit: str = ""


def change_steps(before: MachineState | None, after: MachineState, *, by_hand: bool = False) -> list[Step]:
    """What to do to get from one configuration to the next, in order.

    Parts move only where the difference needs it. Exchanging a part puts some firmware settings back to their
    defaults; those that the next configuration sets are steps of their own (*restore*), although they do not differ.

    Parameters
    ----------
    before : MachineState, optional
        What the machine is now; without it every setting is to be made and every part looked at.
    by_hand : bool
        No bench runs the passes, so that what a bench sets for each run is a step as well.
    """
    if before is None:
        return [*_look_over(after), *_settings({}, after, frozenset(), by_hand)]
    moved = _moved(before.slots, after.slots, "slot") + _moved(before.parts, after.parts, "place")
    opens = [move for move in moved if KINDS[move[3]].opens]
    closed = [move for move in moved if not KINDS[move[3]].opens]
    exchanged = frozenset(kind for _, _, _, kind in moved)
    steps: list[Step] = []
    if opens:
        steps += [_safety(key) for key in _BEFORE]
        steps += _out_and_in(opens)
        steps += [_safety(key) for key in _AFTER]
    steps += _out_and_in(closed)
    return steps + _settings(before.settings, after, exchanged, by_hand)


_BEFORE = ("save", "power_off", "ground")
_AFTER = ("look", "power_on")

_Move = tuple[str, Fitted | None, Fitted | None, str]


def _moved(before: Mapping[str, Fitted], after: Mapping[str, Fitted], sort: str) -> list[_Move]:
    """Places whose occupant changes, with what leaves, what comes and of which kind it is."""
    moves: list[_Move] = []
    for place in dict.fromkeys([*before, *after]):
        old, new = before.get(place), after.get(place)
        if (old.identity if old else None) == (new.identity if new else None):
            continue
        kind = (new or old).kind  # type: ignore[union-attr]
        # A kit as a whole is named at its place; its modules are what is handled, slot by slot.
        if sort == "place" and kind == "memory_kit":
            continue
        name = f"slot {place}" if sort == "slot" else place_label(place)
        moves.append((name, old, new, kind))
    return moves


def _out_and_in(moves: Sequence[_Move]) -> list[Step]:
    out = [
        Step(f"out:{place}", "take_out", note("take_out", part=old.words, place=place))
        for place, old, _, _ in moves
        if old
    ]
    into = [
        Step(f"in:{place}", "put_in", note("put_in", part=new.words, place=place)) for place, _, new, _ in moves if new
    ]
    return out + into


# Nobody sets a room as one sets a switch.
_ROOM = "ambient_c"


def _safety(key: str) -> Step:
    return Step(key, "start_up" if key == "power_on" else "safety", note("safety_step", step=key))


def _look_over(after: MachineState) -> list[Step]:
    slots = [
        Step(f"see:slot {name}", "check", note("see_in_slot", part=one.words, slot=name))
        for name, one in after.slots.items()
    ]
    parts = [
        Step(
            f"see:{place}",
            "check",
            note("see_part", place=place_label(place), part=one.words),
        )
        for place, one in after.parts.items()
        if one.kind != "memory_kit"
    ]
    return parts + slots


def _settings(before: Mapping[str, Value], after: MachineState, exchanged: frozenset[str], by_hand: bool) -> list[Step]:
    firmware: list[Step] = []
    system: list[Step] = []
    after_restart: list[str] = []
    for key in dict.fromkeys([*before, *after.settings]):
        setting = setting_of(key)
        spec, wanted = setting.spec, after.settings.get(key)
        differs = before.get(key) != wanted
        reset = wanted is not None and bool(exchanged & set(setting.reset_by))
        if (setting.where == "run" and not by_hand) or not (differs or reset):
            continue
        was = text_of(spec, before[key]) if key in before else ""
        if wanted is None:
            does = note("set_to_default", label=spec.label, was=was)
        elif key == _ROOM:
            does = note("bring_room_to", value=text_of(spec, wanted))
        elif reset and not differs:
            does = note("put_back", label=spec.label, value=text_of(spec, wanted))
        else:
            does = note("set_to", label=spec.label, was=was, value=text_of(spec, wanted))
        kind: StepKind = "restore" if reset and not differs else "firmware" if setting.where == "firmware" else "system"
        step = Step(f"set:{key}", kind, does, key if wanted is not None else "", wanted, spec.unit)
        (firmware if setting.where == "firmware" else system).append(step)
        if setting.restart:
            after_restart.append(spec.label)
    if after_restart:
        system.append(Step("restart", "start_up", note("restart_for", labels=after_restart)))
    return firmware + system


def disagrees(expected: Value, observed: Value, tolerance: float = 0.05) -> bool:
    """Whether an observed value is not what was set; numbers within 5 % agree, as firmware rounds."""
    if isinstance(expected, bool) or isinstance(observed, bool):
        return expected != observed
    if isinstance(expected, int | float) and isinstance(observed, int | float):
        return abs(observed - expected) > tolerance * abs(expected)
    return str(expected).strip().casefold() != str(observed).strip().casefold()
