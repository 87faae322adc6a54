"""Tests. No property is held to a time: how fast the machine of the day is proves nothing."""

from hypothesis import settings

settings.register_profile("untimed", deadline=None)
settings.load_profile("untimed")
