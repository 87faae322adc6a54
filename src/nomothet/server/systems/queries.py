"""Systems as the screens show them."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from nomothet.server.systems.models import System


@dataclass(frozen=True)
class PartShape:
    kind: str
    name: str


@dataclass(frozen=True)
class ConfigurationShape:
    id: int
    name: str
    note: str
    settings: dict[str, Any]


@dataclass(frozen=True)
class SystemShape:
    """A system with its bench, as of now."""

    id: int
    key: str
    name: str
    description: str
    simulated: bool
    parts: list[PartShape]
    configurations: list[ConfigurationShape]
    has_bench: bool
    token_issued_at: datetime | None
    heard_at: datetime | None
    inventory: dict[str, Any]


def systems() -> list[SystemShape]:
    """All systems; three queries whatever their number."""
    found = System.objects.select_related("bench").prefetch_related("configurations").order_by("simulated", "name")
    return [_shape(system) for system in found]


def _shape(system: System) -> SystemShape:
    bench = getattr(system, "bench", None)
    return SystemShape(
        id=system.pk,
        key=system.key,
        name=system.name,
        description=system.description,
        simulated=system.simulated,
        parts=[PartShape(**part) for part in system.parts],
        configurations=[ConfigurationShape(c.pk, c.name, c.note, c.settings) for c in system.configurations.all()],
        has_bench=bench is not None,
        token_issued_at=bench.issued_at if bench else None,
        heard_at=bench.heard_at if bench else None,
        inventory=bench.inventory if bench else {},
    )
