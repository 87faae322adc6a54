"""Reading captures that were put away in packs; those of a cell lie side by side, so the last packs are held open."""

import functools

import zstandard
from django.apps import apps

# A pack of many captures has no more bytes than this; a longer capture has one of its own, which is not held open.
PACKED = 8 << 20
_HELD_OPEN = 4


def read(pack: int, offset: int, size: int) -> bytes:
    """Some bytes of a pack; none where the pack is gone.

    Raises
    ------
    zstandard.ZstdError
        When the pack is damaged.
    """
    model = apps.get_model("passes", "Pack")
    held = model.objects.filter(pk=pack).values_list("held", flat=True).first()
    if held is None:
        return b""
    opened = _held_open(pack) if held <= PACKED else _opened(pack)
    return opened[offset : offset + size]


def _opened(pack: int) -> bytes:
    pieces = apps.get_model("passes", "PackPiece").objects.filter(pack=pack).order_by("offset")
    frame = b"".join(bytes(data) for data in pieces.values_list("data", flat=True))
    return zstandard.decompress(frame) if frame else b""


# A number is given once and a pack never changes, so what was opened stays right; a rolled-back one is never asked for.
_held_open = functools.lru_cache(maxsize=_HELD_OPEN)(_opened)
