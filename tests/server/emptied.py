"""Tests whose transactions are real: what they leave is deleted after each."""

from django.core.management import CommandError, call_command
from django.test import TransactionTestCase

from nomothet.server.meeting import has_met
from nomothet.server.passes.models import Tally, TestNoise
from nomothet.server.standings.models import KeptTest, LastTold, Result

_TRIES = 6


class EmptiedTest(TransactionTestCase):
    """Django's own would write content types and permissions anew after each test, which nobody reads here.

    A server of the test may still be at a request that its page did not wait for; the database may end the emptying
    for its sake, or what it keeps may come behind the emptying of its table, of things that are gone by then.
    """

    def _fixture_teardown(self) -> None:
        for left in reversed(range(_TRIES)):
            try:
                call_command("flush", verbosity=0, interactive=False, reset_sequences=False, inhibit_post_migrate=True)
            except CommandError as error:
                if left and has_met(error.__cause__):
                    continue
                raise
            break
        for kept in (Result, KeptTest, LastTold, TestNoise, Tally):
            kept.objects.all()._raw_delete("default")
