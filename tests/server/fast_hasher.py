"""Argon2 with the least cost, so that tests do not wait for it."""

from django.contrib.auth.hashers import Argon2PasswordHasher


class FastArgon2(Argon2PasswordHasher):
    time_cost = 1
    memory_cost = 8
    parallelism = 1
