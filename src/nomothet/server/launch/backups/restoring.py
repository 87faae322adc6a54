"""Restoring a backup."""

import contextlib
import json
import shutil
import subprocess
import tarfile
from pathlib import Path

import pyrage

from nomothet.server.launch.backups.contents import DUMP, FILES, Contents, read_contents
from nomothet.server.launch.backups.errors import BackupError
from nomothet.server.launch.backups.sealing import open_key, reading
from nomothet.server.launch.database import PrivateDatabase
from nomothet.server.launch.secrets import ensure_secrets

_ASIDE = ("database", "imports", "secrets.json")


def restore(backup: Path, var: Path, port: int, passphrase: str = "") -> Path | None:
    """Make the installation in `var` that of a backup. What is there is set aside, not deleted.

    Parameters
    ----------
    port : int
        One that is free, for the database while it is filled.

    Returns
    -------
    path or None
        Where what was there lies now.

    Raises
    ------
    BackupError, LaunchError
        With the installation as it was.
    """
    _, key = opened(backup, passphrase)
    var.mkdir(parents=True, exist_ok=True)
    aside = _set_aside(var)
    try:
        unpack_files(backup, var, key)
        database = PrivateDatabase(var / "database", port, ensure_secrets(var))
        database.start()
        try:
            load(backup, database, key)
        finally:
            database.stop()
    except BaseException:
        _put_back(var, aside)
        raise
    # The passes of a fresh demo would be run once more.
    (var / "demo-done").touch()
    return aside


def opened(backup: Path, passphrase: str) -> tuple[Contents, pyrage.x25519.Identity | None]:
    """A backup whose files are as they were written, and its key.

    Raises
    ------
    BackupError
    """
    contents = read_contents(backup)
    if not contents.encrypted:
        return contents, None
    if not passphrase:
        raise BackupError("This backup is encrypted; give the passphrase in NOMOTHET_BACKUP_PASSPHRASE.")
    return contents, open_key(backup, passphrase)


def unpack_files(backup: Path, var: Path, key: pyrage.x25519.Identity | None) -> None:
    """Put secrets and files of imports where they belong."""
    with reading(backup / FILES, key) as stream, tarfile.open(fileobj=stream, mode="r|") as tar:
        tar.extractall(var, filter="data")
    (var / "secrets.json").chmod(0o600)
    json.loads((var / "secrets.json").read_text())


def load(backup: Path, database: PrivateDatabase, key: pyrage.x25519.Identity | None) -> None:
    """Run the dump on an empty database.

    Raises
    ------
    BackupError
        With what the database said.
    """
    client = subprocess.Popen(
        database.client("nomothet"), stdin=subprocess.PIPE, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE
    )
    assert client.stdin is not None
    assert client.stderr is not None
    try:
        # A client that ends early says why below.
        with contextlib.suppress(BrokenPipeError), reading(backup / DUMP, key) as dump:
            shutil.copyfileobj(dump, client.stdin, 1 << 20)
    finally:
        with contextlib.suppress(BrokenPipeError):
            client.stdin.close()
        said = client.stderr.read().decode(errors="replace").strip()
        status = client.wait()
    if status != 0:
        raise BackupError(f"The database does not take the backup: {said}")


def _set_aside(var: Path) -> Path | None:
    there = [var / name for name in _ASIDE if (var / name).exists()]
    if not there:
        return None
    number = 1
    while (var / f"before-restoring-{number}").exists():
        number += 1
    aside = var / f"before-restoring-{number}"
    aside.mkdir(mode=0o700)
    for path in there:
        path.rename(aside / path.name)
    return aside


def _put_back(var: Path, aside: Path | None) -> None:
    for name in _ASIDE:
        path = var / name
        if path.is_dir():
            shutil.rmtree(path, ignore_errors=True)
        else:
            path.unlink(missing_ok=True)
    if aside is not None:
        for path in aside.iterdir():
            path.rename(var / path.name)
        aside.rmdir()
