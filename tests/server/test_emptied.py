"""Emptying the tables after a test, while a server of the test still writes."""

from unittest import mock

from django.core.management import CommandError
from django.db import OperationalError, connection
from django.db.backends.mysql.operations import DatabaseOperations

from nomothet.server.people.models import User
from nomothet.server.standings.models import LastTold
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

    def test_what_a_request_keeps_behind_it_is_emptied_too(self) -> None:
        really = DatabaseOperations.execute_sql_flush

        def execute(operations: DatabaseOperations, statements: list[str]) -> None:
            really(operations, statements)
            with connection.cursor() as cursor:
                cursor.execute("SET FOREIGN_KEY_CHECKS = 0")
                cursor.execute(
                    "INSERT INTO standings_lasttold (system_id, `key`, value, at) VALUES (7, 'image', '1', NOW())"
                )
                cursor.execute("SET FOREIGN_KEY_CHECKS = 1")

        with mock.patch.object(DatabaseOperations, "execute_sql_flush", autospec=True, side_effect=execute):
            self._fixture_teardown()
        self.assertFalse(LastTold.objects.exists())

    def test_anything_else_is_told_at_once(self) -> None:
        execute = self.met(1146, 1)
        with self.assertRaises(CommandError):
            self._fixture_teardown()
        self.assertEqual(execute.call_count, 1)
