"""Changing reviews: one file per object."""
