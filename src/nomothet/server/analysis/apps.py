"""The analysis app."""

from django.apps import AppConfig


class AnalysisConfig(AppConfig):
    name = "nomothet.server.analysis"
    label = "analysis"
