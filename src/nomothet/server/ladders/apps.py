"""The ladders app."""

from django.apps import AppConfig


class LaddersConfig(AppConfig):
    name = "nomothet.server.ladders"
    label = "ladders"

    def ready(self) -> None:
        from nomothet.server.ladders import listening  # noqa: F401
