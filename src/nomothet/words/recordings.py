"""What is said of a file that is brought in, before and after it is stored."""

from collections.abc import Callable, Mapping, Sequence

from nomothet.words.lists import few
from nomothet.words.numbers import figure, with_unit

_MOST_NAMED = 4


def _of(count: int, one: str) -> str:
    return f"{count:,} {one}{'' if count == 1 else 's'}"


def _rows_not_read(rows: int, of: int) -> str:
    return f"{rows:,} of {_of(of, 'row')} do not fit the table and are not read"


def _columns_left_out(columns: Sequence[str]) -> str:
    return f"left out: {few(columns, _MOST_NAMED)}"


def _clock_goes_back(times: int, first_s: float) -> str:
    return (
        f"the clock goes back {_of(times, 'time')}, first after {first_s:.1f} s; what follows is joined on, "
        "as if it were one run"
    )


def _times_repeat(rows: int) -> str:
    return f"{_of(rows, 'row')} {'has' if rows == 1 else 'have'} the same time as the row before"


def _gaps(gaps: int, longest_s: float) -> str:
    return f"{_of(gaps, 'gap')} in the recording, the longest {longest_s:.1f} s"


def _rows_without_time(rows: int) -> str:
    return f"{_of(rows, 'row')} without a time {'is' if rows == 1 else 'are'} left out of the lanes"


def _frames_left_out(rows: int) -> str:
    return f"{_of(rows, 'row')} without a usable frame time {'is' if rows == 1 else 'are'} left out"


def _lane_empty(lane: str) -> str:
    return f"{lane} holds no numbers and is left out"


def _lane_constant(lane: str, value: float, unit: str) -> str:
    return f"{lane} reads {with_unit(value, unit) if unit else figure(value)} from beginning to end"


def _lane_impossible(lane: str, value: float, unit: str) -> str:
    return f"{lane} reads {with_unit(value, unit)}, which it cannot be: check its unit"


def _lasts(duration_s: float, frames: int) -> str:
    length = f"{duration_s / 60:.1f} min" if duration_s >= 120 else f"{duration_s:.1f} s"
    return f"lasts {length}" + (f", {frames:,} frames, {frames / duration_s:.1f} fps" if frames and duration_s else "")


def _figures_without_size(figures: Sequence[str]) -> str:
    return f"not taken, as no quantity has this size: {few(figures, _MOST_NAMED)}"


SENTENCES: Mapping[str, Callable[..., str]] = {
    "rows_not_read": _rows_not_read,
    "columns_left_out": _columns_left_out,
    "clock_goes_back": _clock_goes_back,
    "times_repeat": _times_repeat,
    "gaps": _gaps,
    "rows_without_time": _rows_without_time,
    "frames_left_out": _frames_left_out,
    "lane_empty": _lane_empty,
    "lane_constant": _lane_constant,
    "lane_impossible": _lane_impossible,
    "lasts": _lasts,
    "figures_without_size": _figures_without_size,
}
