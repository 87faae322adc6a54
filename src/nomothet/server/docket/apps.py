"""The docket app."""

from django.apps import AppConfig


class DocketConfig(AppConfig):
    name = "nomothet.server.docket"
    label = "docket"
