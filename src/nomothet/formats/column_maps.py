"""What the columns of a recording are, as a person has confirmed it; kept under a name for the next file."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any, Literal

Role = Literal["time", "frames", "stamps", "sensor", "ignore"]
ROLES: tuple[Role, ...] = ("time", "frames", "stamps", "sensor", "ignore")


@dataclass(frozen=True)
class ColumnUse:
    """What one column is taken for. `name` is what its lane will be called.

    The role "frames" means lengths of frames, "stamps" the moment of each frame.
    """

    column: str
    role: Role
    name: str = ""
    unit: str = ""


@dataclass(frozen=True)
class ColumnMap:
    """How a kind of file is read.

    Attributes
    ----------
    every_s : float or None
        Seconds from row to row, for a file that has no column with a time.
    """

    columns: list[ColumnUse]
    every_s: float | None = None

    def as_dict(self) -> dict[str, Any]:
        return asdict(self)

    @classmethod
    def from_dict(cls, stored: Mapping[str, Any]) -> "ColumnMap":
        return cls([ColumnUse(**one) for one in stored["columns"]], stored.get("every_s"))
