"""What goes wrong with backups, in words for the person at the terminal."""


class BackupError(Exception):
    """Making, reading or restoring a backup failed; the message says why and what to do."""
