"""Making a backup of an installation while it runs."""

import os
import shutil
import subprocess
import tarfile
import tempfile
import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from importlib.metadata import version
from pathlib import Path
from typing import IO, Any

from django.conf import settings
from django.db import DatabaseError, connection
from django.db.migrations.recorder import MigrationRecorder

from nomothet.server.launch.backups.contents import DUMP, FILES, Contents, file_of
from nomothet.server.launch.backups.errors import BackupError
from nomothet.server.launch.backups.sealing import new_key, write

# Rows of these are never deleted.
_GROWING = ("passes_pass", "passes_series", "records_record", "history_event", "people_securityevent", "people_user")
_UNFINISHED = ".unfinished"
_BROKEN_OFF_S = 24 * 3600


@dataclass(frozen=True)
class Made:
    """A backup that was made."""

    folder: Path
    size: int
    took_s: float
    encrypted: bool


def make_backup(into: Path, passphrase: str = "", label: str = "") -> Made:
    """Dump the database as it is at one moment, and keep what belongs to it; nobody who works is held up.

    Parameters
    ----------
    into : path
        The folder of all backups; this one becomes a folder in it, by its moment.
    passphrase : str
        Encrypts the backup; without one, secrets and data lie in it as they are, readable by the owner alone.

    Raises
    ------
    BackupError
        With nothing left behind.
    """
    begun, now = time.monotonic(), datetime.now(UTC)
    name = "-".join(part for part in ("nomothet", now.strftime("%Y%m%dT%H%M%S.%fZ"), label) if part)
    folder = into / (name + _UNFINISHED)
    try:
        _clear_broken_off(into)
        # The folder of all backups may be anybody's; what lies in this one is its owner's alone.
        into.mkdir(parents=True, exist_ok=True)
        folder.mkdir(mode=0o700)
        contents = Contents(
            now.isoformat(), f"nomothet {version('nomothet')}", bool(passphrase), _migrations(), _growing()
        )
        _write(folder, contents, passphrase)
        folder.rename(into / name)
    except OSError as error:
        shutil.rmtree(folder, ignore_errors=True)
        raise BackupError(f"The backup could not be written to {into}: {error.strerror or error}.") from None
    except DatabaseError as error:
        shutil.rmtree(folder, ignore_errors=True)
        raise BackupError(f"The database cannot be read: {error}.") from None
    except BaseException:
        shutil.rmtree(folder, ignore_errors=True)
        raise
    made = into / name
    size = sum(file.stat().st_size for file in made.iterdir())
    return Made(made, size, time.monotonic() - begun, bool(passphrase))


def _clear_broken_off(into: Path) -> None:
    """Delete what a backup left behind that was killed."""
    for left in into.glob(f"nomothet-*{_UNFINISHED}"):
        if time.time() - left.stat().st_mtime > _BROKEN_OFF_S:
            shutil.rmtree(left, ignore_errors=True)


def _write(folder: Path, contents: Contents, passphrase: str) -> None:
    key = new_key(folder, passphrase) if passphrase else None
    with tempfile.TemporaryDirectory(dir=settings.VAR, prefix="backup-") as held:
        # Files of imports come and go: those of before the dump are held by a second name, those after are added.
        _hold(Path(held))
        with _dump() as dump:
            write(dump, folder / DUMP, key)
        _hold(Path(held))
        with _archive(Path(held)) as files:
            write(files, folder / FILES, key)
    files_made = [file_of(path) for path in sorted(folder.iterdir())]
    replace(contents, files=files_made).write(folder)


def _hold(held: Path) -> None:
    if not settings.IMPORTS.exists():
        return
    for path in settings.IMPORTS.rglob("*"):
        to = held / "imports" / path.relative_to(settings.IMPORTS)
        if path.is_dir():
            to.mkdir(parents=True, exist_ok=True)
        elif not to.exists():
            to.parent.mkdir(parents=True, exist_ok=True)
            try:
                os.link(path, to)
            except FileNotFoundError:
                continue
            except OSError:
                shutil.copyfile(path, to)


class _Process:
    """What a program writes, as a stream; at the end its status is looked at."""

    def __init__(self, command: list[str], environment: dict[str, str], failed: Callable[[str], BackupError]) -> None:
        self._errors = tempfile.TemporaryFile()  # noqa: SIM115
        self._failed = failed
        self._process = subprocess.Popen(
            command, env=environment, stdout=subprocess.PIPE, stderr=self._errors, stdin=subprocess.DEVNULL
        )

    def __enter__(self) -> IO[bytes]:
        assert self._process.stdout is not None
        return self._process.stdout

    def __exit__(self, kind: type[BaseException] | None, *_: object) -> None:
        if kind is not None:
            self._process.kill()
        status = self._process.wait()
        self._errors.seek(0)
        said = self._errors.read().decode(errors="replace").strip()
        self._errors.close()
        if kind is None and status != 0:
            raise self._failed(said or f"status {status}")


def _dump() -> _Process:
    database: dict[str, Any] = settings.DATABASES["default"]
    command = [
        "mariadb-dump", "--no-defaults", "--host=127.0.0.1", f"--port={database['PORT']}", f"--user={database['USER']}",
        "--single-transaction", "--quick", "--skip-lock-tables", "--no-tablespaces", "--hex-blob",
        "--default-character-set=utf8mb4", "--max-allowed-packet=1G", "--skip-dump-date", database["NAME"],
    ]  # fmt: skip
    # In the environment nobody else on the machine reads it; among the arguments everybody could.
    environment = {**os.environ, "MYSQL_PWD": str(database["PASSWORD"])}
    return _Process(command, environment, lambda said: BackupError(f"The database could not be dumped: {said}"))


def _archive(held: Path) -> IO[bytes]:
    archive = tempfile.TemporaryFile(dir=held.parent)  # noqa: SIM115
    with tarfile.open(fileobj=archive, mode="w") as tar:
        tar.add((settings.VAR / "secrets.json").resolve(), "secrets.json")
        if (held / "imports").exists():
            tar.add(held / "imports", "imports")
    archive.seek(0)
    return archive


def _migrations() -> list[str]:
    return sorted(f"{app} {name}" for app, name in MigrationRecorder(connection).applied_migrations())


def _growing() -> dict[str, int]:
    there = set(connection.introspection.table_names())
    counts = {}
    with connection.cursor() as cursor:
        for table in _GROWING:
            if table in there:
                cursor.execute(f"SELECT COUNT(*) FROM `{table}`")  # noqa: S608
                counts[table] = int(cursor.fetchone()[0])
    return counts
