"""Which backups are kept."""

import re
import shutil
from pathlib import Path

_MADE = re.compile(r"nomothet-\d{8}T\d{6}\.\d{6}Z")


def let_go(folder: Path, keep: int) -> list[Path]:
    """Delete the oldest backups of a schedule beyond `keep`; those with a label stay. Returns what was deleted."""
    made = sorted(path for path in folder.iterdir() if path.is_dir() and _MADE.fullmatch(path.name))
    gone = made[: max(0, len(made) - max(1, keep))]
    for path in gone:
        shutil.rmtree(path)
    return gone
