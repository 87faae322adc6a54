"""The history app."""

from django.apps import AppConfig


class HistoryConfig(AppConfig):
    name = "nomothet.server.history"
    label = "history"
