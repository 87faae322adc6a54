"""The upkeep app."""

from django.apps import AppConfig


class UpkeepConfig(AppConfig):
    name = "nomothet.server.upkeep"
    label = "upkeep"
