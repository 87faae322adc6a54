"""Streams of a backup on their way to disk and back: compressed, and encrypted where a passphrase was given.

Encryption is age (age-encryption.org/v1) by the pyrage library: every backup has a key of its own, so that large files
are sealed as they come, and the passphrase opens the key.
"""

import os
import shutil
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO

import pyrage
import zstandard

from nomothet.server.launch.backups.contents import KEY, SEALED
from nomothet.server.launch.backups.errors import BackupError

_LEVEL = 6


def open_key(folder: Path, passphrase: str) -> pyrage.x25519.Identity:
    """The key of an encrypted backup.

    Raises
    ------
    BackupError
        When the passphrase is another one.
    """
    try:
        kept = pyrage.passphrase.decrypt((folder / KEY).read_bytes(), passphrase)
    except pyrage.DecryptError:
        raise BackupError("The passphrase does not open this backup.") from None
    except OSError as error:
        raise BackupError(f"{KEY} cannot be read ({error.strerror}).") from None
    return pyrage.x25519.Identity.from_str(kept.decode())


def new_key(folder: Path, passphrase: str) -> pyrage.x25519.Identity:
    """A key for a backup, kept in it under a passphrase."""
    key = pyrage.x25519.Identity.generate()
    (folder / KEY).write_bytes(pyrage.passphrase.encrypt(str(key).encode(), passphrase))
    return key


def write(source: IO[bytes], path: Path, key: pyrage.x25519.Identity | None) -> Path:
    """Compress a stream into a file, encrypted where there is a key; returns the file."""
    compressed = zstandard.ZstdCompressor(level=_LEVEL, threads=-1).stream_reader(source)
    written = path if key is None else path.with_name(path.name + SEALED)
    with written.open("wb") as file:
        if key is None:
            shutil.copyfileobj(compressed, file, 1 << 20)
        else:
            pyrage.encrypt_io(compressed, file, [key.to_public()])
        file.flush()
        os.fsync(file.fileno())
    return written


@contextmanager
def reading(path: Path, key: pyrage.x25519.Identity | None) -> Iterator[IO[bytes]]:
    """A file of a backup as it was before it was written.

    Raises
    ------
    BackupError
        When it cannot be opened by the key.
    """
    if key is None:
        with path.open("rb") as file:
            yield zstandard.ZstdDecompressor().stream_reader(file)
        return
    outlet, inlet = os.pipe()
    failed: list[BaseException] = []

    def open_it() -> None:
        try:
            with os.fdopen(inlet, "wb") as into, path.with_name(path.name + SEALED).open("rb") as file:
                pyrage.decrypt_io(file, into, [key])
        except BaseException as error:
            failed.append(error)

    thread = threading.Thread(target=open_it, daemon=True)
    thread.start()
    with open(outlet, "rb") as opened:
        yield zstandard.ZstdDecompressor().stream_reader(opened)
    thread.join()
    if failed and not isinstance(failed[0], BrokenPipeError):
        raise BackupError(f"{path.name} cannot be opened: {failed[0]}") from None
