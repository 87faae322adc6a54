"""What a review says of loads, sizes, heat, energy, price, memory, pacing, pairs and time, each as one sentence."""

from collections.abc import Callable, Mapping, Sequence

from nomothet.words.findings import change_of, changes_of
from nomothet.words.lists import counted, few
from nomothet.words.numbers import compact, figure


def _load(
    test: str,
    unit: str,
    best: str,
    held: int,
    worst: str,
    worst_held: int,
    loss_pct: float | None,
    unstable: Sequence[str],
    runs_out: str,
) -> str:
    said = [f"{best} held {held} {unit}".strip() + (f", {worst} {worst_held}" if worst else "")]
    if loss_pct is not None and loss_pct > 0:
        said.append(f"heat costs {figure(loss_pct)} %")
    if unstable:
        said.append(f"loads both held and broke on {few(unstable)}")
    elif runs_out:
        said.append(f"{runs_out} runs out first")
    return f"In {test}, {'; '.join(said)}."


def _scaling(
    test: str, name: str, n: float, speedup: float, efficiency: float, clock: float | None, peak: float | None
) -> str:
    said = f"In {test}, {compact(n)} {name} do {figure(speedup)} × the work of one"
    said += f", {figure(100 * efficiency)} % of the ideal"
    if clock is not None:
        return f"{said}, at {figure(100 * clock)} % of its clock."
    return f"{said}; it turns down at {figure(peak)}." if peak is not None else f"{said}."


def _crossover(
    workload: str,
    metric: str,
    above: str,
    below: str,
    setting: str,
    unit: str,
    size: float,
    low: float | None,
    high: float | None,
    more: int,
) -> str:
    at = f"{setting} {figure(size)} {unit}".strip()
    interval = "" if low is None or high is None else f" ({figure(low)} to {figure(high)})"
    again = f"; it crosses {more} more {'time' if more == 1 else 'times'}" if more else ""
    return f"In {workload}, {metric}: above {at}{interval} {above} is ahead, under it {below}{again}."


def _phases(test: str, sooner: str, phase: str, told: str, later: str, other: str, other_told: str) -> str:
    return f"In {test}, {sooner} is sooner with the {phase} ({told}), {later} with the {other} ({other_told})."


def _burst(
    test: str,
    own: str,
    dropped: bool,
    drop_pct: float | None,
    at_s: float | None,
    cause: str | None,
    holding: Sequence[str],
) -> str:
    if not dropped:
        return f"In {test}, every configuration holds what it begins with."
    why = f", by {cause}" if cause and cause != "unknown" else ""
    when = "" if at_s is None else f" after {at_s:.0f} s"
    others = f"; {few(holding, 2)} {'holds' if len(holding) == 1 else 'hold'}" if holding else ""
    amount = f" {figure(drop_pct)} %" if drop_pct is not None else ""
    after = "" if drop_pct is not None else ", without a lower rate in the end"
    return f"In {test}, {own} drops{amount}{when}{why}{after}{others}."


def _energy(
    test: str,
    most: str,
    other: str,
    told: str,
    interval: str,
    verdict: str,
    source: str,
    watts: float | None,
    idle_off: bool,
) -> str:
    at = "" if watts is None else f", {figure(watts)} W"
    off = ", idle taken off" if idle_off else ""
    ends = f" ({interval})" if interval else ""
    return f"In {test}, {most} does most work per watt ({source}{at}{off}): {told}{ends} over {other}, {verdict}."


def _frontier(
    frontier: Sequence[str],
    beaten: Sequence[tuple[str, Sequence[str]]],
    best: str,
    basis: str,
    day: str,
    tests: int,
) -> str:
    said = f"By {basis} prices since {day}, {best} does the most for its price over {counted(tests, 'test')}"
    if beaten:
        name, by = beaten[0]
        others = f"; so is {len(beaten) - 1} more" if len(beaten) > 1 else ""
        return f"{said}; {name} is beaten by {by[0]}, which costs no more{others}."
    return f"{said}; of {few(frontier)} none is beaten."


def _headroom(
    quantity: str,
    needed: float,
    reserve: float,
    size: float | None,
    at_least: bool,
    leading: str,
    ran_out: Sequence[tuple[str, str]],
) -> str:
    lead = f"{leading} needs {'at least ' if at_least else ''}{compact(needed)} GB of {quantity.removesuffix(' used')}"
    enough = f"{compact(size)} GB are enough" if size is not None else "no size on offer is enough"
    out = f"; it ran out on {few(list(dict.fromkeys(label for label, _ in ran_out)), 2)}" if ran_out else ""
    return f"{lead} with {100 * reserve:.0f} % to spare: {enough}{out}."


def _lows(
    test: str,
    own: str,
    baseline: str,
    average: str,
    average_told: str,
    low: str,
    low_told: str,
    apart: int,
    hitches: Sequence[float],
) -> str:
    if apart:
        more = f"; so {'does' if apart == 2 else 'do'} {apart - 1} more" if apart > 1 else ""
        return (
            f"In {test}, {own} against {baseline}: average {average} ({average_told}), 1 % low {low} ({low_told}): "
            f"they disagree{more}."
        )
    said = f"In {test}, average and 1 % low nowhere disagree for certain"
    if not hitches:
        return f"{said}."
    least, most = min(hitches), max(hitches)
    per_minute = figure(most) if least == most else f"{figure(least)} to {figure(most)}"
    return f"{said}; there are {per_minute} hitches per minute."


def _pair(
    kind_words: str,
    words: str,
    own: str,
    told: str,
    interval: str,
    pixels: float | None,
    other_order: bool,
) -> str:
    ends = f" ({interval})" if interval else ""
    said = f"{words}: {told}{ends}, most on {own}"
    if pixels is not None:
        said += f", with {compact(pixels)} × the pixels"
    return f"{said}. The two put the configurations in another order." if other_order else f"{said}."


def _toggle(name: str, own: str, told: str, n: int) -> str:
    return f"{name}: {told} when switched on, most on {own}, over {n} {'pair' if n == 1 else 'pairs'}."


def _returned(baseline: str, tests: int, drifted: Sequence[str], open: int, widest: str, told: str) -> str:
    over = f"in {counted(tests, 'test')}"
    if drifted:
        return f"{baseline}, measured again after the others, had drifted in {few(drifted, 2)}: {told} in {widest}."
    if open:
        return f"Whether {baseline} came back as it was cannot be told in {open} of {counted(tests, 'test')}."
    return f"{baseline}, measured again after the others, came back as it was {over}: {told} at most."


def _update(
    name: str, own: str, first: str, last: str, ratio: float, low: float | None, high: float | None, verdict: str
) -> str:
    ends = changes_of(low, high) or "noise unknown"
    return f"{name} on {own}: from {first} to {last} {change_of(ratio)}, {ends}: {verdict}."


def _sessions(cells: int, apart: int, open: int, name: str, own: str, ratio: float, verdict: str) -> str:
    over = f"{counted(cells, 'cell')} measured in several sessions"
    most = f"{change_of(ratio)} in {name} on {own}"
    if apart:
        return f"Of {over}, {apart} changed from one to the next: most {most}, {verdict}."
    if open:
        return f"Of {over}, {cells - open} stayed level; for {open} it is undecided, at most {most}."
    if cells == 1:
        return f"The only cell measured in several sessions stayed level from one to the next: {most}."
    return f"All {over} stayed level from one to the next: {most} at most."


SENTENCES: Mapping[str, Callable[..., str]] = {
    "finding_load": _load,
    "finding_scaling": _scaling,
    "finding_crossover": _crossover,
    "finding_phases": _phases,
    "finding_burst": _burst,
    "finding_energy": _energy,
    "finding_frontier": _frontier,
    "finding_headroom": _headroom,
    "finding_lows": _lows,
    "finding_pair": _pair,
    "finding_toggle": _toggle,
    "finding_returned": _returned,
    "finding_update": _update,
    "finding_sessions": _sessions,
}
