"""The verdicts app."""

from django.apps import AppConfig


class VerdictsConfig(AppConfig):
    name = "nomothet.server.verdicts"
    label = "verdicts"
