"""The standings app."""

from django.apps import AppConfig


class StandingsConfig(AppConfig):
    name = "nomothet.server.standings"
    label = "standings"

    def ready(self) -> None:
        from nomothet.server.standings import listening  # noqa: F401
