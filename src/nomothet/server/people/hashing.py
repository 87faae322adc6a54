"""A process hashes one password at a time: each takes 100 MiB, and a storm of sign-ins must not take the machine."""

import threading
from typing import Any

from django.contrib.auth.hashers import Argon2PasswordHasher

from nomothet.server.problems import Problem

AT_ONCE = 1
_LONGEST_WAIT_S = 10.0
_slots = threading.BoundedSemaphore(AT_ONCE)


class BoundedArgon2(Argon2PasswordHasher):
    """Argon2id with a bound on how many are computed at once in this process, each by one thread."""

    parallelism = 1

    def encode(self, password: str, salt: str) -> str:
        with _Slot():
            return str(super().encode(password, salt))

    def verify(self, password: str, encoded: str) -> bool:
        with _Slot():
            return bool(super().verify(password, encoded))


class _Slot:
    def __enter__(self) -> None:
        if not _slots.acquire(timeout=_LONGEST_WAIT_S):
            raise Problem(503, "Busy", "Too many are signing in at once. Try again in a moment.")

    def __exit__(self, *_: Any) -> None:
        _slots.release()
