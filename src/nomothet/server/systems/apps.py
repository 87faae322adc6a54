"""The systems app."""

from django.apps import AppConfig


class SystemsConfig(AppConfig):
    name = "nomothet.server.systems"
    label = "systems"
