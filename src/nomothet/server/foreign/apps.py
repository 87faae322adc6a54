"""The foreign app: records that others have published, brought in to be read."""

from django.apps import AppConfig


class ForeignConfig(AppConfig):
    name = "nomothet.server.foreign"
    label = "foreign"
