"""Metrics that people add to tests: readings and sensors with their statistic, what is worked out, parts of a run."""

from dataclasses import asdict, dataclass
from typing import Any, Literal

from nomothet.core.compare import Direction
from nomothet.core.lane_statistics import Statistic
from nomothet.core.passes import Scale
from nomothet.core.worked_out import By
from nomothet.formats.words import Metric
from nomothet.server.reviews.models import Test

Kind = Literal["reading", "worked out", "part", "toggle"]
KINDS: dict[Kind, str] = {
    "reading": "a reading, or a statistic of a sensor",
    "worked out": "worked out of two others",
    "part": "another metric within a part of the run",
    "toggle": "a setting switched within the run",
}


@dataclass(frozen=True)
class OwnMetric:
    """A metric of a test.

    Attributes
    ----------
    lane, statistic : str
        Of a reading: the sensor that it is computed from, where one of that name was recorded, and how.
    of, other, by : str
        Worked out of `of` and `other`; a part and a toggle are of `of`.
    label_on, label_off : str
        The marked spans of a toggle; a part is of `label_on`.
    """

    key: str
    label: str
    unit: str
    direction: Direction
    scale: Scale
    kind: Kind
    lane: str = ""
    statistic: Statistic | Literal[""] = ""
    of: str = ""
    other: str = ""
    by: By | Literal[""] = ""
    label_on: str = ""
    label_off: str = ""

    @property
    def metric(self) -> Metric:
        return Metric(self.key, self.label, self.unit, self.direction, self.scale)

    def as_dict(self) -> dict[str, Any]:
        return {key: value for key, value in asdict(self).items() if value != ""} | {"unit": self.unit}


def own_metrics(test: Test) -> list[OwnMetric]:
    """The metrics that were added to a test."""
    return [OwnMetric(**one) for one in test.metrics]


def own_metric(test: Test, key: str) -> OwnMetric | None:
    return next((one for one in own_metrics(test) if one.key == key), None)
