"""Places of workers. Each worker of an installation holds one as long as it lives, so that a new one knows what of the
work in hand is nobody's any more. The database lets a place go with the connection of whoever held it."""

import uuid

from django.db import DatabaseError, connections

PLACES = 8


class NoPlace(RuntimeError):
    """There are as many workers as an installation may have."""


class Place:
    """A place that this process holds, on a connection of its own; threads may share it.

    Raises
    ------
    NoPlace
    """

    def __init__(self) -> None:
        self._line = connections["default"].copy()
        self._line.inc_thread_sharing()
        self.number = next((number for number in range(1, PLACES + 1) if self._take(number)), 0)
        if not self.number:
            self.free()
            raise NoPlace(f"{PLACES} workers run on this database already")
        self.worker_id = f"{self.number}.{uuid.uuid4().hex[:16]}"

    def hold(self) -> bool:
        """Take the place again where its connection broke; False where another worker has it by now."""
        try:
            return self._ask("IS_USED_LOCK({}) = CONNECTION_ID()", self.number) or self._take(self.number)
        except DatabaseError:
            self._line.close()
            return self._take(self.number)

    def is_alive(self, worker_id: str) -> bool:
        """Whether a worker that took a task up still is there; one of a version without places is not."""
        number, dot, _ = worker_id.partition(".")
        if worker_id == self.worker_id:
            return True
        if not dot or not number.isdigit() or int(number) == self.number:
            return False
        return not self._ask("IS_FREE_LOCK({})", int(number))

    def free(self) -> None:
        """Let it go."""
        self._line.close()

    def _take(self, number: int) -> bool:
        return self._ask("GET_LOCK({}, 0)", number)

    def _ask(self, call: str, number: int) -> bool:
        with self._line.cursor() as cursor:
            cursor.execute("SELECT " + call.format("CONCAT(DATABASE(), %s)"), [f" worker {number}"])
            return bool(cursor.fetchone()[0])
