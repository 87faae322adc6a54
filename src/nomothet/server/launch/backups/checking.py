"""Checking a backup by restoring it beside the installation and looking at what came out."""

import json
import os
import subprocess
import sys
import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from nomothet.server.launch.backups.errors import BackupError
from nomothet.server.launch.backups.restoring import load, opened, unpack_files
from nomothet.server.launch.database import PrivateDatabase
from nomothet.server.launch.ports import free_port
from nomothet.server.launch.secrets import ensure_secrets


@dataclass(frozen=True)
class Checked:
    """What a check found: how much was looked at, and what is wrong, in words."""

    captures: int
    passes: int
    figures: int
    wrong: list[str]


def check_backup(backup: Path, passphrase: str = "", sample: int = 20) -> Checked:
    """Restore a backup into a scratch database, hash every capture, and compute the figures of some passes anew.

    Parameters
    ----------
    sample : int
        How many passes are computed anew, spread over all.

    Raises
    ------
    BackupError, LaunchError
        When it cannot be restored at all.
    """
    contents, key = opened(backup, passphrase)
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True, prefix="nomothet-check-") as folder:
        Path(folder).chmod(0o711)
        var = Path(folder) / "var"
        var.mkdir(mode=0o711)
        unpack_files(backup, var, key)
        database = PrivateDatabase(var / "database", free_port(), ensure_secrets(var))
        database.start()
        try:
            load(backup, database, key)
            found = _look(var, database.port, sample)
        finally:
            database.stop()
    wrong = list(found["wrong"])
    for table, least in contents.at_least.items():
        there = found["rows"].get(table, 0)
        if there < least:
            wrong.append(f"{table} has {there} rows, and had {least} when the backup was begun")
    return Checked(found["captures"], found["passes"], found["figures"], wrong)


def _look(var: Path, port: int, sample: int) -> dict[str, Any]:
    """Look at the restored database from a process of its own: this one may be set up for another."""
    environment = {**os.environ, "NOMOTHET_VAR": str(var), "NOMOTHET_DATABASE_PORT": str(port)}
    environment.pop("NOMOTHET_DATABASE_NAME", None)
    environment["DJANGO_SETTINGS_MODULE"] = "nomothet.server.settings"
    command = [sys.executable, "-m", "nomothet.server.launch.backups.looking", str(sample)]
    done = subprocess.run(command, env=environment, capture_output=True, text=True, check=False)
    if done.returncode != 0:
        raise BackupError(f"What was restored cannot be read: {done.stderr.strip()[-1000:]}")
    return dict(json.loads(done.stdout))
