"""Files that the operating system makes anew whenever they are read, kept open.

Opening one takes as long as reading it, and they are read many times a second.
"""

import os
import sys
from functools import cache
from pathlib import Path

_CHUNK = 1 << 16


def content(path: str) -> bytes:
    """All that a file of the system tells now.

    Raises
    ------
    OSError
        When it cannot be opened or read.
    """
    if sys.platform == "win32":
        return Path(path).read_bytes()
    held = _held(path)
    found, more = b"", os.pread(held, _CHUNK, 0)
    # Some are given a page at a time.
    while more:
        found += more
        more = os.pread(held, _CHUNK, len(found))
    return found


@cache
def _held(path: str) -> int:
    """A file that stays open as long as this process lives."""
    return os.open(path, os.O_RDONLY)
