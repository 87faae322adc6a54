"""The columnar blob in which a series is stored and sent.

Layout: the four bytes `NMS1`, the length of the head (32 bit, little-endian), the head (JSON: the columns' names, types
and counts), then one Zstandard frame (RFC 8878) with the columns one after the other. The bytes of a column are
shuffled (all first bytes, then all second bytes …), which makes slowly changing numbers compress well. Numbers that
were written with a few decimals are kept as whole numbers of their last decimal, where that gives back every bit.
"""

import json
import struct
from collections.abc import Mapping
from typing import Any

import numpy as np
import zstandard
from numpy.typing import NDArray

from nomothet.formats.errors import BadSeries

Column = NDArray[np.generic]

_MAGIC = b"NMS1"
_LEVEL = 1
_MOST_DECIMALS = 6
_SAMPLE = 512
_TYPES = {"<f8", "<f4", "<i8", "<i4", "<u1"}
MOST_BYTES = 1 << 30


def pack(columns: Mapping[str, Column]) -> bytes:
    """Columns as a blob.

    Parameters
    ----------
    columns : mapping of str to (n,) array
        Float or integer columns, all of one length.

    Examples
    --------
    >>> unpack(pack({"frame_ms": np.array([16.5, 17.0])}))["frame_ms"].tolist()
    [16.5, 17.0]
    """
    arrays = {name: np.ascontiguousarray(column) for name, column in columns.items()}
    if len({len(array) for array in arrays.values()}) > 1:
        raise BadSeries("the columns of a series must have one length")
    head = []
    body = []
    for name, array in arrays.items():
        kind = array.dtype.newbyteorder("<").str.replace("|", "<")
        if kind not in _TYPES:
            raise BadSeries(f"column {name!r} has the type {array.dtype}, which a series cannot hold")
        entry: dict[str, Any] = {"name": name, "type": kind, "count": len(array)}
        array = array.astype(kind, copy=False)
        whole = _as_whole_numbers(array.astype(np.float64, copy=False)) if kind == "<f8" else None
        if whole is not None:
            entry["decimals"], array = whole
        head.append(entry)
        body.append(array.view(np.uint8).reshape(-1, array.dtype.itemsize).T.tobytes())
    text = json.dumps(head, separators=(",", ":")).encode()
    return _MAGIC + struct.pack("<I", len(text)) + text + zstandard.compress(b"".join(body), _LEVEL)


def unpack(blob: bytes) -> dict[str, Column]:
    """The columns of a blob.

    Raises
    ------
    BadSeries
        When the blob is damaged, cut short, not a series, or would unpack to over 1 GiB.
    """
    if blob[:4] != _MAGIC:
        raise BadSeries("these bytes are not a series")
    try:
        (length,) = struct.unpack_from("<I", blob, 4)
        head = json.loads(blob[8 : 8 + length])
        sizes = [_stored_type(column).itemsize * int(column["count"]) for column in head]
        if min(sizes, default=0) < 0 or sum(sizes) > MOST_BYTES:
            raise BadSeries("the series claims more than 1 GiB")
        body = zstandard.ZstdDecompressor().decompress(blob[8 + length :], max_output_size=sum(sizes))
    except (struct.error, ValueError, KeyError, TypeError, zstandard.ZstdError) as error:
        raise BadSeries(f"the series is damaged: {error}") from None
    if len(body) != sum(sizes):
        raise BadSeries(f"the series is cut short: {len(body)} of {sum(sizes)} bytes")
    columns: dict[str, Column] = {}
    at = 0
    for column, size in zip(head, sizes, strict=True):
        kind = _stored_type(column)
        raw = np.frombuffer(body, np.uint8, size, at).reshape(kind.itemsize, -1)
        values = np.ascontiguousarray(raw.T).view(kind).reshape(-1)
        if "decimals" in column:
            values = values / 10.0 ** int(column["decimals"])
        columns[column["name"]] = values
        at += size
    return columns


def _as_whole_numbers(values: NDArray[np.float64]) -> tuple[int, Column] | None:
    """Decimals and whole numbers from which a column of floats can be had back to the last bit; None without such."""
    sample = values[:_SAMPLE]
    if not len(sample) or not np.isfinite(sample).all():
        return None
    for decimals in range(_MOST_DECIMALS + 1):
        scale = 10.0**decimals
        if np.array_equal(np.rint(sample * scale) / scale, sample):
            break
    else:
        return None
    scaled = values * scale
    np.rint(scaled, out=scaled)
    # A comparison with NaN or infinity is false, so such values end here too.
    if not (scaled.min() >= -(2**31) and scaled.max() < 2**31):
        return None
    whole = scaled.astype("<i4")
    # Minus zero is the one number that a whole number cannot hold.
    same = np.array_equal(whole / scale, values) and not (np.signbit(values) & (values == 0)).any()
    return (decimals, whole) if same else None


def _stored_type(column: dict[str, Any]) -> np.dtype[Any]:
    kind = str(column["type"])
    if kind not in _TYPES:
        raise BadSeries(f"the type {kind!r} is not one that a series holds")
    if "decimals" in column:
        if not 0 <= int(column["decimals"]) <= _MOST_DECIMALS:
            raise BadSeries(f"a series cannot have {column['decimals']} decimals")
        return np.dtype("<i4")
    return np.dtype(kind)
