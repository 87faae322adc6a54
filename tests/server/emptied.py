"""Tests whose transactions are real: what they leave is deleted after each."""

from django.core.management import call_command
from django.test import TransactionTestCase


class EmptiedTest(TransactionTestCase):
    """Django's own would write content types and permissions anew after each test, which nobody reads here."""

    def _fixture_teardown(self) -> None:
        call_command("flush", verbosity=0, interactive=False, reset_sequences=False, inhibit_post_migrate=True)
