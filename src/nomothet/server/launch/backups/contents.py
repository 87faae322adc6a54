"""What a backup is: a folder with a list of its files and their digests.

- `backup.json`: what it is, when and by which version it was made, and every other file with size and SHA-256
- `database.sql.zst`: a dump of the database as SQL (zstd, RFC 8878)
- `files.tar.zst`: secrets of the installation and files of imports that wait
- `key.age`: only in an encrypted backup, whose other files end with `.age`: its key, which the passphrase opens
"""

import hashlib
import json
from dataclasses import asdict, dataclass, field
from pathlib import Path

import msgspec

from nomothet.server.launch.backups.errors import BackupError

LIST = "backup.json"
DUMP = "database.sql.zst"
FILES = "files.tar.zst"
KEY = "key.age"
SEALED = ".age"
FORMAT = 1
_PIECE = 1 << 20


@dataclass(frozen=True)
class File:
    """A file of a backup."""

    name: str
    size: int
    sha256: str


@dataclass(frozen=True)
class Contents:
    """The list of a backup. `at_least` are rows of tables that only grow, as there were when it was begun."""

    made_at: str
    made_by: str
    encrypted: bool
    migrations: list[str]
    at_least: dict[str, int]
    files: list[File] = field(default_factory=list)
    format: int = FORMAT

    def write(self, folder: Path) -> None:
        (folder / LIST).write_text(json.dumps(asdict(self), indent=1))


def file_of(path: Path) -> File:
    """A file with its digest."""
    digest, size = hashlib.sha256(), 0
    with path.open("rb") as opened:
        while piece := opened.read(_PIECE):
            digest.update(piece)
            size += len(piece)
    return File(path.name, size, digest.hexdigest())


def read_contents(folder: Path) -> Contents:
    """The list of a backup, after every file was found to be as it says.

    Raises
    ------
    BackupError
    """
    try:
        contents = msgspec.json.decode((folder / LIST).read_bytes(), type=Contents)
    except OSError as error:
        raise BackupError(f"{folder} is no backup: {LIST} cannot be read ({error.strerror}).") from None
    except msgspec.DecodeError as error:
        raise BackupError(f"{folder / LIST} is damaged: {error}.") from None
    if contents.format != FORMAT:
        raise BackupError(f"{folder} is of a newer version of Nomothet; use that one.")
    for told in contents.files:
        if Path(told.name).name != told.name:
            raise BackupError(f"{folder / LIST} names a file outside the backup: {told.name!r}.")
        path = folder / told.name
        if not path.is_file():
            raise BackupError(f"{told.name} is missing in {folder}.")
        if file_of(path) != told:
            raise BackupError(f"{told.name} in {folder} is not as it was written; take another backup.")
    return contents
