"""The findings app."""

from django.apps import AppConfig


class FindingsConfig(AppConfig):
    name = "nomothet.server.findings"
    label = "findings"

    def ready(self) -> None:
        from nomothet.server.findings import listening  # noqa: F401
