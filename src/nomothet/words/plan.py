"""What is said of a plan: what it cannot answer as it stands (method 22), with what would mend it."""

from collections.abc import Callable, Mapping, Sequence

from nomothet.core.docket_order import BETWEEN_PASSES_S, CHANGE_S, FIRMWARE_S, OPENING_S
from nomothet.core.notes import Note
from nomothet.core.plan_check import Point
from nomothet.words import fit, slots
from nomothet.words.lists import and_list

_ALONE: Mapping[str, Callable[..., str]] = {**fit.SENTENCES, **slots.SENTENCES}


def remedy(point: Point) -> str:
    """What would mend a point of the check."""
    if point.code == "passes":
        needed = point.found.values["needed"]
        return "Widen the margin, or find a steadier test." if needed is None else f"Plan {needed} passes per test."
    return _REMEDIES[point.code]


def cost_assumptions(tests_without_length: int, taken_s: float) -> list[str]:
    """What an estimate of the work rests on."""
    said = [
        f"{OPENING_S / 60:.0f} min for each opening, {FIRMWARE_S / 60:.0f} min for each visit to the firmware, "
        f"{CHANGE_S / 60:.0f} min for each thing changed, {BETWEEN_PASSES_S:.0f} s between passes"
    ]
    if tests_without_length:
        unknown = "1 test has" if tests_without_length == 1 else f"{tests_without_length} tests have"
        said.append(f"{unknown} no length on record; {taken_s / 60:.0f} min are taken for each")
    return said


def _undeclared(label: str) -> str:
    return f"{label} differs, and is not what this review varies."


def _unequal(labels: Sequence[str], lacking: Sequence[str]) -> str:
    verb = "is" if len(labels) == 1 else "are"
    return f"{and_list(labels)} {verb} set on some configurations and not on {and_list(lacking)}."


def _confounded(factors: Sequence[str], configurations: int, missing: Sequence[tuple[str, str, str]] = ()) -> str:
    said = f"{and_list(factors)} change together: {configurations} configurations cannot tell their effects apart."
    return f"{said} Missing: {_alone(missing)}." if missing else said


def _stacked(missing: Sequence[tuple[str, str, str]]) -> str:
    what = "it brings" if len(missing) == 1 else "each of them brings"
    return f"Missing: {_alone(missing)}. What {what} by itself, and not on top of other changes, stays unknown."


def _alone(missing: Sequence[tuple[str, str, str]]) -> str:
    """The configurations that are missing, by what each would change alone."""
    return "; ".join(f"{factor} {level} alone, all else as on {base}" for factor, level, base in missing)


def _blocked(label: str, why: str) -> str:
    return f"{label} cannot be built: {why}."


def _slots(label: str, mistake: Note) -> str:
    return f"{label}: {_ALONE[mistake.code](**mistake.values)}."


def _misfit(label: str, misfit: Note) -> str:
    return f"{label}: {_ALONE[misfit.code](**misfit.values)}."


def _price(label: str) -> str:
    return f"{label} has no price, and the question asks what it costs."


def _isolation(test: str, isolates: str, touched: Sequence[str]) -> str:
    return f"{test} is meant to be limited by {isolates}, and the factor acts on {and_list(touched)}."


def _cap(test: str, fps: float) -> str:
    return f"{test} holds its rate at {fps:g} fps, which hides what lies above."


def _load_step(test: str, step: float, effect: float) -> str:
    return (
        f"{test} searches in steps of {100 * step:.3g} % of its start, "
        f"which is coarser than the {100 * effect:.3g} % looked for."
    )


def _short(test: str, lasts_s: float, settles_s: float) -> str:
    return f"{test} lasts {lasts_s:.3g} s and the machine warms up for about {settles_s:.3g} s: nothing of it is warm."


def _settings(test: str, missing: Sequence[str]) -> str:
    return f"{test} does not say its {and_list(missing)}."


def _approval(test: str, systems: Sequence[str]) -> str:
    return f"No admin has approved the command of {test} on {and_list(systems)}: no bench runs it there."


def _requirement(
    tests: Sequence[str], label: str, least: float | None, unit: str, has: Sequence[tuple[str, float | None]]
) -> str:
    asks = f"{and_list(tests)} {'asks' if len(tests) == 1 else 'ask'} for"
    if least is None:
        do = "does" if len(has) == 1 else "do"
        return f"{asks} {label}, which {and_list([column for column, _ in has])} {do} not have."
    return f"{asks} {least:g} {unit} of {label}; {and_list([f'{column} has {size:g}' for column, size in has])}."


def _passes(test: str, spread: float, margin: float, planned: int, needed: int | None, most: int) -> str:
    noise = f"{test}: its earlier passes vary by {100 * spread:.2g} %"
    if needed is None:
        return f"{noise}, so that even {most} passes cannot settle {100 * margin:.2g} %."
    return f"{noise}, so that {planned} passes cannot settle {100 * margin:.2g} %; {needed} would."


SENTENCES: Mapping[str, Callable[..., str]] = {
    "plan_columns": lambda single=False: (
        "There is no configuration to judge yet."
        if single
        else "There is nothing to compare yet: a review needs two configurations, or is of one alone."
    ),
    "plan_target": lambda: "One configuration alone is judged by targets, and there is none.",
    "plan_tests": lambda: "No test is planned.",
    "plan_factor": lambda: "Nothing is declared as what this review varies.",
    "plan_expectation": lambda: "No expectation is written down; afterwards it is too late.",
    "plan_undeclared": _undeclared,
    "plan_unequal": _unequal,
    "plan_confounded": _confounded,
    "plan_stacked": _stacked,
    "plan_blocked": _blocked,
    "plan_slots": _slots,
    "plan_misfit": _misfit,
    "plan_price": _price,
    "plan_isolation": _isolation,
    "plan_cap": _cap,
    "plan_load_step": _load_step,
    "plan_short": _short,
    "plan_settings": _settings,
    "plan_approval": _approval,
    "plan_requirement": _requirement,
    "plan_passes": _passes,
    "plan_return": lambda: (
        "The baseline is not measured again at the end, so a drift of the whole session would go unseen."
    ),
}

_REMEDIES: Mapping[str, str] = {
    "target": "Write targets into the brief, or into a test.",
    "columns": "Add a configuration.",
    "tests": "Add a test.",
    "factor": "Declare a difference as the factor.",
    "expectation": "Write it before the first pass.",
    "undeclared": "Declare it as a factor, make it equal, or accept it with a caveat.",
    "unequal": "Make it equal, or note what it is.",
    "confounded": "Add a configuration that changes one of them alone, or declare them as one factor.",
    "stacked": "Add it, or say of the steps only what they bring in this order.",
    "blocked": "Take it out, or unblock it.",
    "slots": "Move the modules on the slot map.",
    "misfit": "Mark it as not buildable with this reason, or correct the part on the shelf.",
    "price": "Enter the prices of its parts.",
    "isolation": "Change the test's settings, or what it is meant to isolate.",
    "cap": "Take the cap off, or judge it by its lows.",
    "load_step": "Make the step smaller.",
    "short": "Make it longer, or repeat it in one pass.",
    "settings": "Choose a value, so that it can be repeated.",
    "approval": "Ask an admin to look at it under Workloads.",
    "requirement": "Leave the cells out, or run them and record the outcome.",
    "return": "Measure it at the start and at the end.",
}
