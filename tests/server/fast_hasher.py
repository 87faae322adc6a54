"""Argon2 with the least cost, so that tests do not wait for it."""

from nomothet.server.people.hashing import BoundedArgon2


class FastArgon2(BoundedArgon2):
    time_cost = 1
    memory_cost = 8
    parallelism = 1
