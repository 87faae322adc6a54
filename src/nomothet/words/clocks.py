"""What is said of clocks that are off."""

from collections.abc import Callable, Mapping


def span(seconds: float) -> str:
    """A length of time in its largest unit: 45 s, 12 min, 3 h, 2 days."""
    for least, unit in ((2 * 86400, "days"), (2 * 3600, "h"), (120, "min")):
        if seconds >= least:
            return f"{seconds / {'days': 86400, 'h': 3600, 'min': 60}[unit]:.0f} {unit}"
    return f"{seconds:.0f} s"


def _time_doubtful(off_s: float | None) -> str:
    if off_s is None or abs(off_s) < 1:
        return "Its time is doubtful: it does not fit to when it was taken and came in."
    return f"Its time is doubtful: the bench's clock was {span(abs(off_s))} {'ahead' if off_s > 0 else 'behind'}."


def _bench_clock_off(off_s: float) -> str:
    apart = f"{span(abs(off_s))} {'ahead of' if off_s > 0 else 'behind'} the server's"
    return f"Its clock is {apart}: times of its passes are doubtful. Let the machine keep its time by the network."


SENTENCES: Mapping[str, Callable[..., str]] = {
    "time_doubtful": _time_doubtful,
    "bench_clock_off": _bench_clock_off,
}
