"""The passes app."""

from django.apps import AppConfig


class PassesConfig(AppConfig):
    name = "nomothet.server.passes"
    label = "passes"
