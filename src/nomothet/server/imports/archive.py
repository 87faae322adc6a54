"""The files of an upload: itself, unpacked where it is a gzip file, or the members of a ZIP archive; within bounds."""

import gzip
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import IO, cast

from nomothet.formats.archives import BROKEN
from nomothet.formats.errors import BadTable, FormatError
from nomothet.server.problems import is_full

MOST_FILES = 500
MOST_BYTES = 1 << 30
MOST_IN_ALL = 4 << 30
# A text that packs better than this is no recording, but an archive made to fill a disk.
MOST_RATIO = 250
_PIECE = 1 << 20
_NOISE = ("__MACOSX/", ".DS_Store", "Thumbs.db")


@dataclass(frozen=True)
class Member:
    name: str
    size: int


def members(path: Path, name: str) -> list[Member]:
    """The files to look at.

    Raises
    ------
    BadTable
        When the archive is damaged, locked, too large, or made to burst.
    """
    if _is_gzip(path):
        return [Member(name.removesuffix(".gz"), path.stat().st_size)]
    if not zipfile.is_zipfile(path):
        return [Member(name, path.stat().st_size)]
    try:
        with zipfile.ZipFile(path) as archive:
            infos = [info for info in archive.infolist() if not info.is_dir() and not _is_noise(info.filename)]
    except BROKEN as error:
        raise BadTable(f"the archive cannot be read: {error}", "Pack it again as a ZIP file") from None
    if not infos:
        raise BadTable("the archive is empty", "Pack the folder with its recordings")
    if len(infos) > MOST_FILES:
        raise BadTable(f"the archive has {len(infos)} files", f"Bring in {MOST_FILES} at a time")
    if any(info.flag_bits & 1 for info in infos):
        raise BadTable("the archive is locked with a password", "Pack it without one")
    if sum(info.file_size for info in infos) > MOST_IN_ALL:
        raise BadTable("the archive holds over 4 GB", "Bring in a part of it at a time")
    for info in infos:
        if info.file_size > MOST_RATIO * max(1, info.compress_size) and info.file_size > 10 * _PIECE:
            raise BadTable(f"{info.filename} would unpack to {info.file_size:,} bytes", "This is no recording")
    return [Member(info.filename, info.file_size) for info in infos]


@contextmanager
def opened(path: Path, member: str) -> Iterator[Path]:
    """A file of the upload as a file on disk; never more than a gigabyte, whatever the archive says of itself."""
    packed = _is_gzip(path)
    if not packed and not zipfile.is_zipfile(path):
        yield path
        return
    with TemporaryDirectory() as folder:
        target = Path(folder) / "member"
        try:
            if packed:
                with gzip.open(path) as source:
                    _copy(cast(IO[bytes], source), target, member)
            else:
                with zipfile.ZipFile(path) as archive, archive.open(member) as source:
                    _copy(source, target, member)
        except FormatError:
            raise
        except (KeyError, *BROKEN) as error:
            if is_full(error):
                raise
            raise BadTable(f"{member} cannot be unpacked: {error}", "Pack it again") from None
        yield target


def _copy(source: IO[bytes], target: Path, member: str) -> None:
    written = 0
    with target.open("wb") as out:
        while piece := source.read(_PIECE):
            written += len(piece)
            if written > MOST_BYTES:
                raise BadTable(f"{member} is over 1 GB", "Cut it into runs")
            out.write(piece)


def _is_gzip(path: Path) -> bool:
    with path.open("rb") as file:
        return file.read(2) == b"\x1f\x8b"


def _is_noise(name: str) -> bool:
    return name.startswith(_NOISE[0]) or name.rsplit("/", 1)[-1] in _NOISE[1:]
