"""The upkeep app."""

from django.apps import AppConfig


class UpkeepConfig(AppConfig):
    name = "nomothet.server.upkeep"
    label = "upkeep"

    def ready(self) -> None:
        # Its receivers connect themselves when they are read.
        import nomothet.server.upkeep.listening  # noqa: F401
