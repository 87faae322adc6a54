"""The people app."""

from django.apps import AppConfig


class PeopleConfig(AppConfig):
    name = "nomothet.server.people"
    label = "people"
