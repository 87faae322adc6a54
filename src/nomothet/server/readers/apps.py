"""The readers app."""

from django.apps import AppConfig


class ReadersConfig(AppConfig):
    name = "nomothet.server.readers"
    label = "readers"

    def ready(self) -> None:
        from nomothet.server.readers import listening  # noqa: F401 - connects it to the page
