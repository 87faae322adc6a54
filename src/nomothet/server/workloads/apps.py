"""The workloads app."""

from django.apps import AppConfig


class WorkloadsConfig(AppConfig):
    name = "nomothet.server.workloads"
    label = "workloads"
