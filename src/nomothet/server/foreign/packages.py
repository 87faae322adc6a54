"""A package as it is kept: in pieces, read as one file."""

import io
import zipfile
from collections.abc import Iterator
from typing import BinaryIO

from nomothet.server.foreign.models import ForeignRecord, PackagePiece

PIECE = 1 << 20


def keep(record: ForeignRecord, file: BinaryIO) -> None:
    """Store a package piece by piece."""
    for position, data in enumerate(iter(lambda: file.read(PIECE), b"")):
        PackagePiece.objects.create(record=record, position=position, data=data)


def pieces(record: ForeignRecord) -> Iterator[bytes]:
    """The package, byte by byte as it was brought in."""
    for position in record.pieces.values_list("position", flat=True):
        yield bytes(PackagePiece.objects.values_list("data", flat=True).get(record=record, position=position))


def opened(record: ForeignRecord) -> zipfile.ZipFile:
    """The package to read members from; only the pieces that they lie in are fetched."""
    return zipfile.ZipFile(io.BufferedReader(_Pieces(record), PIECE))


class _Pieces(io.RawIOBase):
    """A file whose bytes are in the database."""

    def __init__(self, record: ForeignRecord) -> None:
        self._record, self._at = record, 0
        self._held: tuple[int, bytes] = (-1, b"")

    def readable(self) -> bool:
        return True

    def seekable(self) -> bool:
        return True

    def seek(self, offset: int, whence: int = io.SEEK_SET) -> int:
        start = {io.SEEK_SET: 0, io.SEEK_CUR: self._at, io.SEEK_END: self._record.size}[whence]
        self._at = max(0, start + offset)
        return self._at

    def tell(self) -> int:
        return self._at

    def readinto(self, buffer: memoryview) -> int:  # type: ignore[override]
        position, start = divmod(self._at, PIECE)
        if self._at >= self._record.size:
            return 0
        if self._held[0] != position:
            found = PackagePiece.objects.values_list("data", flat=True).get(record=self._record, position=position)
            self._held = position, bytes(found)
        data = self._held[1][start : start + len(buffer)]
        buffer[: len(data)] = data
        self._at += len(data)
        return len(data)
