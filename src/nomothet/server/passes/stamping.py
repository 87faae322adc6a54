"""What is stamped on a pass when it comes in: what was run, and what was read off its machine before."""

from collections.abc import Iterable
from typing import Any

from nomothet.server.reviews.models import Column, Test
from nomothet.server.systems.models import Observation


class Stamps:
    """The latest readings of some configurations; one query."""

    def __init__(self, columns: Iterable[Column]) -> None:
        wanted = {column.configuration_id for column in columns}
        self._read: dict[int, dict[str, Any]] = {}
        for one in Observation.objects.filter(configuration__in=wanted).order_by("at", "pk"):
            self._read.setdefault(one.configuration_id, {})[one.key] = one.value

    def on(self, environment: dict[str, Any], test: Test, column: Column) -> dict[str, Any]:
        """The environment of a new pass with workload, version and settings, and the readings of its configuration.

        What a bench has told itself goes before. Later edits of the workload or the configuration change none of it.
        """
        run = {"workload": test.workload.key, "version": test.workload.version, "settings": dict(test.settings)}
        told = environment.get("workload")
        read = self._read.get(column.configuration_id, {})
        return {
            **environment,
            "workload": {**run, **(told if isinstance(told, dict) else {})},
            **({"read": {**read, **environment.get("read", {})}} if read else {}),
        }


def stamped(environment: dict[str, Any], test: Test, column: Column) -> dict[str, Any]:
    """The environment of a single new pass, stamped."""
    return Stamps([column]).on(environment, test, column)
