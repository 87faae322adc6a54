"""The follow-ups app."""

from django.apps import AppConfig


class FollowUpsConfig(AppConfig):
    name = "nomothet.server.follow_ups"
    label = "follow_ups"
