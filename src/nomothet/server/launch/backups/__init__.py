"""Backups of an installation: made while it runs, checked by restoring them, restored into an empty one."""
