"""The talk app."""

from django.apps import AppConfig


class TalkConfig(AppConfig):
    name = "nomothet.server.talk"
    label = "talk"
