"""The analysis app."""

from django.apps import AppConfig


class AnalysisConfig(AppConfig):
    name = "nomothet.server.analysis"
    label = "analysis"

    def ready(self) -> None:
        # Its receivers connect themselves when they are read.
        import nomothet.server.analysis.listening  # noqa: F401
