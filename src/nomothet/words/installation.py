"""What is wrong with a part of an installation."""

from collections.abc import Callable, Mapping

from nomothet.words.clocks import span


def _worker_silent(silent_s: float | None) -> str:
    since = "has never been heard" if silent_s is None else f"was last heard {span(silent_s)} ago"
    return f"The worker {since}: imports, checks and figures wait until it runs."


def _backup_old(last: str | None) -> str:
    return f"The last backup is of {last[:16].replace('T', ' ')} UTC." if last else "No backup has been made yet."


SENTENCES: Mapping[str, Callable[..., str]] = {
    "database_not_reached": lambda: "The database is not reached.",
    "schema_newer": lambda unknown: (
        f"The database is of a newer version ({unknown}); run that version of Nomothet, or restore a backup of before."
    ),
    "schema_older": lambda missing: f"The database lacks {missing}; start Nomothet anew, which brings it up to date.",
    "worker_silent": _worker_silent,
    "queue_old": lambda oldest_s, waiting: f"{waiting} tasks wait, the oldest for {span(oldest_s)}.",
    "clock_went_back": lambda ahead_s: (
        f"The clock of this machine went back by {span(ahead_s)}: what is written now looks older than it is."
    ),
    "backup_old": _backup_old,
    "backup_failed": lambda why: f"The last backup failed: {why}",
    "backups_beside": lambda folder: (
        f"Backups lie in {folder}, on the disk of the data, and are lost with it: set NOMOTHET_BACKUPS to another disk."
    ),
    "disk_nearly_full": lambda free_bytes: f"Only {free_bytes / 1024**3:.1f} GiB are free on the disk.",
}
