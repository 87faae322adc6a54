"""The shelf app."""

from django.apps import AppConfig


class ShelfConfig(AppConfig):
    name = "nomothet.server.shelf"
    label = "shelf"
