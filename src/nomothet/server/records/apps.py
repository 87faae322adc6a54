"""The records app."""

from django.apps import AppConfig


class RecordsConfig(AppConfig):
    name = "nomothet.server.records"
    label = "records"
