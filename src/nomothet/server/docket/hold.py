"""What stops a docket: the machine is not what the plan says."""

from dataclasses import dataclass
from typing import Any

from nomothet.server.docket.models import Release
from nomothet.server.systems.models import System
from nomothet.server.systems.queries import mismatch, observed
from nomothet.server.systems.states import state_of


@dataclass(frozen=True)
class Hold:
    """An observed value that is not what was set, with the ways on."""

    configuration: int
    title: str
    key: str
    wanted: Any
    observed: Any
    words: str
    ways: list[str]


def hold_of(system: System) -> Hold | None:
    """Why nothing runs on a system; None when nothing stops it."""
    if system.on_mismatch != "stop" or system.present is None:
        return None
    configuration = system.present
    settings = state_of(configuration).settings
    released = {(one.key, repr(one.observed)) for one in Release.objects.filter(configuration=configuration)}
    for key, seen in observed([configuration]).get(configuration.pk, {}).items():
        words = mismatch(key, settings.get(key), seen.value)
        if words and (key, repr(seen.value)) not in released:
            return Hold(
                configuration.pk,
                configuration.title,
                key,
                settings.get(key),
                seen.value,
                f"{words} by {seen.source}" if seen.source == "the bench" else words,
                [
                    "Set it again, then read it off once more.",
                    "Go on and say why; the difference stays in sight.",
                    "Mark the configuration as one that cannot be built.",
                ],
            )
    return None
