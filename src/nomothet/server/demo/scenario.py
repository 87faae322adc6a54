"""Reading the demo's files."""

import tomllib
from dataclasses import dataclass
from pathlib import Path
from typing import Any


@dataclass(frozen=True)
class Person:
    username: str
    display_name: str
    role: str


@dataclass(frozen=True)
class Scenario:
    """People, parts, settings of the team's own, systems, workloads, sets and reviews, as the files have them."""

    people: list[Person]
    parts: list[dict[str, Any]]
    settings: list[dict[str, Any]]
    systems: list[dict[str, Any]]
    workloads: list[dict[str, Any]]
    sets: list[dict[str, Any]]
    reviews: list[dict[str, Any]]

    @classmethod
    def read(cls, folder: Path) -> "Scenario":
        return cls(
            people=[Person(**person) for person in _read(folder / "people.toml")["person"]],
            parts=_read(folder / "shelf.toml")["part"],
            settings=_read(folder / "systems.toml")["setting"],
            systems=_read(folder / "systems.toml")["system"],
            workloads=_read(folder / "workloads.toml")["workload"],
            sets=_read(folder / "sets.toml")["set"],
            reviews=[_read(path) for path in sorted((folder / "reviews").glob("*.toml"), key=_place)],
        )

    @property
    def usernames(self) -> list[str]:
        return [person.username for person in self.people]


def _place(path: Path) -> int:
    """The number that a review's file begins with."""
    return int(path.name.partition("-")[0])


def _read(path: Path) -> dict[str, Any]:
    return tomllib.loads(path.read_text(encoding="utf-8"))
