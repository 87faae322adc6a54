"""A power meter that speaks SCPI (IEEE 488.2 and SCPI-1999) over a TCP socket."""

from typing import Any
from urllib.parse import urlsplit

import pyvisa

from nomothet.bench.errors import BenchError
from nomothet.bench.sampling import Sensor
from nomothet.bench.sources.polled import PolledSource
from nomothet.formats.addresses import shown_address

_TIMEOUT_MS = 1500
_ASK_POWER = "MEAS:POW?"


class MeterSource(PolledSource):
    """Watts at the wall, or wherever the meter sits.

    Parameters
    ----------
    address : str
        ``tcp://host:port``, with ``?MEAS:POW:ACT?`` behind it for a meter that asks otherwise.
    """

    def __init__(self, address: str, rate_hz: float) -> None:
        parts = urlsplit(address)
        if parts.scheme != "tcp" or not parts.hostname or not parts.port:
            raise BenchError(f"{shown_address(address)!r} is no meter; it looks like tcp://host:5025")
        self._command = parts.query or _ASK_POWER
        self._address = f"TCPIP::{parts.hostname}::{parts.port}::SOCKET"
        self._manager = pyvisa.ResourceManager("@py")
        self._meter: Any = None
        try:
            name = str(self._connected().query("*IDN?")).strip()
        except (pyvisa.Error, OSError, ValueError) as error:
            raise BenchError(f"the meter at {parts.hostname}:{parts.port} does not answer: {error}") from None
        super().__init__([Sensor("power at the meter", "W", "meter", f"SCPI, {name}"[:160])], rate_hz)

    def close(self) -> None:
        super().close()
        self._hang_up()
        self._manager.close()

    def _connected(self) -> Any:
        if self._meter is None:
            self._meter = self._manager.open_resource(
                self._address, read_termination="\n", write_termination="\n", timeout=_TIMEOUT_MS
            )
        return self._meter

    def _hang_up(self) -> None:
        if self._meter is not None:
            self._meter.close()
            self._meter = None

    def _ask(self) -> list[float]:
        try:
            return [float(self._connected().query(self._command))]
        except Exception:
            # Begin anew next time: a half-read answer would be taken for the next one.
            self._hang_up()
            raise
