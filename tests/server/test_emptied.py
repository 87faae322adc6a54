"""Emptying the tables after a test, while a server of the test still writes."""

from unittest import mock

from django.core.management import CommandError
from django.db import OperationalError
from django.db.backends.mysql.operations import DatabaseOperations

from nomothet.server.people.models import User
from tests.server.emptied import EmptiedTest


class Emptying(EmptiedTest):
    def setUp(self) -> None:
        User.objects.create_user("anna", password="a long one for her")

    def met(self, code: int, times: int) -> mock.Mock:
        really = DatabaseOperations.execute_sql_flush
        left = [OperationalError(code, "turned away")] * times

        def execute(operations: DatabaseOperations, statements: list[str]) -> None:
            if left:
                raise left.pop()
            really(operations, statements)

        patched = mock.patch.object(DatabaseOperations, "execute_sql_flush", autospec=True, side_effect=execute)
        self.addCleanup(patched.stop)
        return patched.start()

    def test_it_is_tried_again_when_it_was_turned_away(self) -> None:
        execute = self.met(1213, 2)
        self._fixture_teardown()
        self.assertEqual(execute.call_count, 3)
        self.assertFalse(User.objects.exists())

    def test_anything_else_is_told_at_once(self) -> None:
        execute = self.met(1146, 1)
        with self.assertRaises(CommandError):
            self._fixture_teardown()
        self.assertEqual(execute.call_count, 1)
