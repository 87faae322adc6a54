"""The imports app."""

from django.apps import AppConfig


class ImportsConfig(AppConfig):
    name = "nomothet.server.imports"
    label = "imports"
