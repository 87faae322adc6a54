"""Faults asked for on the command line: one for every pass, or a network that goes and comes."""

import time
from collections.abc import Callable

import httpx

from nomothet.bench.errors import BenchError
from nomothet.bench.simulated.parameters import Event

_OUTCOMES = ("did_not_start", "crashed", "hung", "visual_faults", "overloaded")
_HELP = "crashed@40, visual_faults:90, drift:0.003, loss:0.04, stuck:temperature, profile:4800, limit:18 or network:20"


def read_fault(text: str) -> Event:
    """An event for every pass.

    Raises
    ------
    BenchError
        When the text asks for nothing that is known.

    Examples
    --------
    >>> read_fault("crashed@40").at_s
    40.0
    >>> read_fault("stuck:temperature").stuck
    'temperature'
    """
    for outcome in _OUTCOMES:
        if text == outcome:
            return Event(outcome=outcome, note="asked for")
        if text.startswith(f"{outcome}@"):
            return Event(outcome=outcome, at_s=_number(text, "@"), note="asked for")
    if text.startswith("visual_faults:"):
        return Event(outcome="visual_faults", over_c=_number(text), note="asked for")
    if text.startswith("stuck:"):
        return Event(stuck=text.partition(":")[2])
    if text.startswith("drift:"):
        return Event(drift=_number(text))
    if text.startswith("loss:"):
        return Event(loss=_number(text))
    if text.startswith("profile:"):
        return Event(profile_mts=_number(text))
    if text.startswith("limit:"):
        return Event(limit_w=_number(text))
    raise BenchError(f"{text!r} is no fault that can be asked for; try {_HELP}")


def lost_seconds(text: str) -> float | None:
    """For how long of every minute the network is lost; None where the fault is another."""
    return _number(text) if text.startswith("network:") else None


class FlakyTransport(httpx.HTTPTransport):
    """A network that is lost for some seconds of every minute.

    Parameters
    ----------
    clock : callable
        Seconds that go on.
    """

    def __init__(self, lost_s: float, clock: Callable[[], float] = time.monotonic) -> None:
        super().__init__()
        self._lost_s = lost_s
        self._clock = clock
        self._began = clock()

    def handle_request(self, request: httpx.Request) -> httpx.Response:
        if (self._clock() - self._began) % 60 >= 60 - self._lost_s:
            raise httpx.ConnectError("the network was lost on purpose", request=request)
        return super().handle_request(request)


def _number(text: str, sign: str = ":") -> float:
    try:
        return float(text.partition(sign)[2])
    except ValueError:
        raise BenchError(f"{text!r}: a number is wanted after {sign}; try {_HELP}") from None
