"""The feed app."""

from django.apps import AppConfig


class FeedConfig(AppConfig):
    name = "nomothet.server.feed"
    label = "feed"
