"""What a review cannot say, what would mend that, and what is to be kept in mind of a finding."""

from collections.abc import Callable, Mapping, Sequence

from nomothet.words.comparisons import ONE_SESSION
from nomothet.words.lists import and_list, counted, few
from nomothet.words.numbers import compact


def _blind(name: str, labels: Sequence[str], held: float | None, by: str) -> str:
    of = "it and the baseline" if len(labels) == 1 else "they and the baseline"
    why = f"are held at {compact(held)} fps" if held is not None else f"are limited by {by or 'something else'}"
    return f"{name} shows nothing of {few(labels)}: {of} {why}."


def _holes(count: int, tests: int, failed: int) -> str:
    said = f"{count} {'cell has' if count == 1 else 'cells have'} no figures, in {counted(tests, 'test')}"
    return f"{said}; in {failed} of them the workload failed." if failed else f"{said}."


def _missing(named: Sequence[str], factors: Sequence[str]) -> str:
    return f"Whether {and_list(factors)} act on one another cannot be told without {named[0]}."


def _not_settled(
    count: int,
    rows: int,
    name: str,
    own: str,
    baseline: str,
    told: str,
    passes: int,
    unknown: int,
    hopeless: int,
    sessions: int = 0,
) -> str:
    if count == 1:
        said = f"{name}, {own} against {baseline}: {told} is not settled"
    elif rows == 1:
        said = f"{name}: {count} comparisons with {baseline} are not settled"
    else:
        said = f"{count} comparisons in {rows} more rows are not settled"
    if passes:
        return f"{said}; {counted(passes, 'more pass', 'more passes')} would settle {_them(count, hopeless)}."
    if sessions:
        return f"{said}; more sessions would be needed."
    if hopeless:
        return f"{said}; over 50 passes a cell would be needed."
    return f"{said}; it is near the margin." if not unknown else f"{said}."


def _them(count: int, hopeless: int) -> str:
    return "it" if count == 1 else f"{count - hopeless} of them" if hopeless else "them"


def _act_owe(passes: int, hours: float) -> str:
    return f"put {counted(passes, 'pass', 'passes')} on the docket, {_time(hours)}"


def _time(hours: float) -> str:
    minutes = round(60 * hours)
    if minutes < 90:
        return f"{max(1, minutes)} min"
    return f"{hours:.1f} h"


def _act_waiting(passes: int) -> str:
    return f"{passes} {'pass waits' if passes == 1 else 'passes wait'} on the docket already"


def _act_alone(steps: Sequence[str], start: str) -> str:
    return f"{few(steps)} {'was' if len(steps) == 1 else 'were'} never measured alone, straight from {start}"


def _act_configuration(named: Sequence[str]) -> str:
    return f"add the configuration {named[0]} in the brief"


def _act_uncap() -> str:
    return "measure without the cap, or with a heavier setting"


def _caveat_one_session() -> str:
    return ONE_SESSION


def _caveat_own_noise(tests: Sequence[str]) -> str:
    return f"Uneven noise in {few(tests, 2)}: some cells are noisier than the others."


def _caveat_borrowed_noise(tests: Sequence[str]) -> str:
    return f"Single passes in {few(tests, 2)}: the noise is borrowed from earlier reviews."


def _caveat_card(labels: Sequence[str]) -> str:
    return f"Package power leaves out the graphics card of {few(labels)}; choose wall power to compare whole machines."


def _caveat_recorder(tests: Sequence[str]) -> str:
    return f"Recording costs something in {few(tests, 2)}: the values are as recorded, not corrected."


def _caveat_capture(tests: Sequence[str]) -> str:
    return f"Mixed capture in {few(tests, 2)}: not all passes were recorded the same way."


SENTENCES: Mapping[str, Callable[..., str]] = {
    "finding_blind": _blind,
    "finding_holes": _holes,
    "finding_missing": _missing,
    "finding_not_settled": _not_settled,
    "act_owe": _act_owe,
    "act_waiting": _act_waiting,
    "act_alone": _act_alone,
    "act_configuration": _act_configuration,
    "act_uncap": _act_uncap,
    "caveat_one_session": _caveat_one_session,
    "caveat_own_noise": _caveat_own_noise,
    "caveat_borrowed_noise": _caveat_borrowed_noise,
    "caveat_card": _caveat_card,
    "caveat_recorder": _caveat_recorder,
    "caveat_capture": _caveat_capture,
}
