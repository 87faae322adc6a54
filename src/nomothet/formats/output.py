"""What a program has written, as it is kept with a pass: its beginning and its end, within a bound."""

import numpy as np

from nomothet.formats.series import Column, unpack

# The kind of a series that holds text.
OUTPUT = "output"
_MOST_HEAD, _MOST_TAIL = 128 * 1024, 896 * 1024
_COLUMN = "text"


def bounded(text: bytes) -> bytes:
    """A text, of which the middle is left out where it is longer than a megabyte; that is said in its place.

    >>> bounded(b"all of it")
    b'all of it'
    """
    left = len(text) - _MOST_HEAD - _MOST_TAIL
    if left <= 0:
        return text
    return text[:_MOST_HEAD] + f"\n[{left:,} bytes are left out here]\n".encode() + text[-_MOST_TAIL:]


def without_frames(text: bytes) -> bytes:
    """A program's output without the lines of frames, which are kept as a series of their own.

    >>> without_frames(b"hello\\nframe 16.7\\nbye\\n")
    b'hello\\nbye\\n'
    """
    return b"".join(line for line in text.splitlines(keepends=True) if not line.startswith(b"frame "))


def columns_of(text: bytes) -> dict[str, Column]:
    """A text as the one column of a series."""
    return {_COLUMN: np.frombuffer(text, dtype=np.uint8)}


def text_of(blob: bytes) -> bytes:
    """The text of a stored series.

    Raises
    ------
    BadSeries

    Examples
    --------
    >>> from nomothet.formats.series import pack
    >>> text_of(pack(columns_of(b"score 12")))
    b'score 12'
    """
    return unpack(blob).get(_COLUMN, np.array([], np.uint8)).astype(np.uint8).tobytes()
