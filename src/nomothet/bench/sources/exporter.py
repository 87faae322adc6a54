"""Sensors of an exporter that speaks OpenMetrics text over HTTP."""

from collections.abc import Iterator
from urllib.parse import urldefrag

import httpx
from prometheus_client import Metric
from prometheus_client.openmetrics.parser import text_string_to_metric_families as parse_openmetrics
from prometheus_client.parser import text_string_to_metric_families as parse_text

from nomothet.bench.errors import BenchError
from nomothet.bench.sampling import Sensor
from nomothet.bench.sources.polled import PolledSource
from nomothet.formats.addresses import shown_address, without_credentials

MOST_SENSORS = 64
_UNITS = {"celsius": "°C", "watts": "W", "hertz": "Hz", "bytes": "B", "ratio": "", "percent": "%", "volts": "V",
          "amperes": "A", "rpm": "1/min", "seconds": "s", "joules": "J"}  # fmt: skip
_ACCEPT = "application/openmetrics-text; version=1.0.0, text/plain;q=0.5"


class ExporterSource(PolledSource):
    """Gauges and counters of one exporter.

    Parameters
    ----------
    address : str
        ``http://host:9100/metrics``, and after a ``#`` the names wanted, parted by commas; all up to 64 without.
    """

    def __init__(self, address: str, rate_hz: float, transport: httpx.BaseTransport | None = None) -> None:
        url, wanted = urldefrag(address)
        # The address may hold a password: it is asked with it, and never shown or kept with it.
        self._url, self._shown = url, shown_address(url)
        self._wanted = [name for name in wanted.split(",") if name]
        self._http = httpx.Client(timeout=2, headers={"Accept": _ACCEPT}, transport=transport)
        try:
            first = dict(self._samples())
        except (httpx.HTTPError, ValueError) as error:
            raise BenchError(f"the exporter at {self._shown} cannot be read: {_told(error)}") from None
        if not first:
            raise BenchError(f"the exporter at {self._shown} has none of {', '.join(self._wanted) or 'its metrics'}")
        self._keys = list(first)[:MOST_SENSORS]
        super().__init__([first[key][0] for key in self._keys], rate_hz)

    def _ask(self) -> list[float]:
        now = dict(self._samples())
        return [now[key][1] if key in now else float("nan") for key in self._keys]

    def _samples(self) -> Iterator[tuple[str, tuple[Sensor, float]]]:
        answer = self._http.get(self._url)
        answer.raise_for_status()
        for family in _families(answer):
            if self._wanted and family.name not in self._wanted:
                continue
            for sample in family.samples:
                if family.type not in ("gauge", "counter", "unknown") or sample.name.endswith("_created"):
                    continue
                labels = ", ".join(f"{key} {value}" for key, value in sorted(sample.labels.items()))
                name = f"{family.name} {labels}".strip()[:80]
                unit = _UNITS.get(family.unit or family.name.rsplit("_", 1)[-1], family.unit)
                yield name, (Sensor(name, unit[:20], labels[:80] or "exporter", self._shown[:160]), float(sample.value))


def _told(error: Exception) -> str:
    """What went wrong, without the address, which some errors repeat."""
    if isinstance(error, httpx.HTTPStatusError):
        return f"it answered with status {error.response.status_code}"
    return without_credentials(str(error)) or type(error).__name__


def _families(answer: httpx.Response) -> Iterator[Metric]:
    """OpenMetrics when the exporter says that it is, its older text otherwise."""
    if "openmetrics" in answer.headers.get("Content-Type", ""):
        return iter(parse_openmetrics(answer.text))  # type: ignore[no-untyped-call]
    return iter(parse_text(answer.text))
