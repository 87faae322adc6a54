"""Putting the captures of an archived review away, packed and compressed together, and getting them out again.

Each pack is one transaction: it can be broken off at any time and begun again, and what it holds is compared with what
it was made of before the captures' own bytes are let go.
"""

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass

import zstandard
from django.db import transaction
from django.db.models import QuerySet, Sum

from nomothet.server.passes.file_pass import keep_blob
from nomothet.server.passes.models import PIECE, Chunk, Pack, PackPiece, Series
from nomothet.server.passes.packed import PACKED
from nomothet.server.reviews.models import Review

# Captures come compressed, and what is gained lies in what they have in common: level 19 gains 1 % more in seven times
# the time.
_LEVEL = 12


@dataclass
class PutAway:
    """How many captures were put away or got out, their bytes, and the bytes of their packs; `wrong` ones, which are
    not what was announced, stay where they are."""

    captures: int = 0
    held: int = 0
    size: int = 0
    wrong: int = 0


def put_away(review: int) -> PutAway:
    """Pack the captures of an archived review that are not packed yet, until it is brought back."""
    told = PutAway()
    for batch in list(_batches(review)):
        with transaction.atomic():
            if not Review.objects.select_for_update().filter(pk=review, archived_at__isnull=False).exists():
                break
            _pack(review, batch, told)
    return told


def get_out(review: int) -> PutAway:
    """Keep the captures of a review by themselves again, until it is archived."""
    told = PutAway()
    for pack in Pack.objects.filter(review=review).order_by("pk"):
        with transaction.atomic():
            if not Review.objects.select_for_update().filter(pk=review, archived_at=None).exists():
                break
            for series in Series.objects.select_for_update().filter(pack=pack):
                data = series.content
                series.pack, series.pack_offset = None, 0
                keep_blob(series, data)
                told.captures += 1
            told.held += pack.held
            told.size += pack.size
            pack.delete()
    return told


def reviews_to_tidy() -> tuple[list[int], list[int]]:
    """Archived reviews with captures that lie about, and others with captures that are still packed."""
    loose = _loose().filter(owner__test__review__archived_at__isnull=False)
    packed = Pack.objects.filter(review__archived_at=None)
    return (
        sorted(loose.values_list("owner__test__review", flat=True).distinct()),
        sorted(packed.values_list("review", flat=True).distinct()),
    )


def put_away_of(reviews: list[int]) -> dict[int, tuple[int, int]]:
    """By review, the bytes of the captures that were put away, and those of their packs; no query for none."""
    if not reviews:
        return {}
    found = Pack.objects.filter(review__in=reviews).values("review").annotate(held=Sum("held"), size=Sum("size"))
    return {row["review"]: (row["held"], row["size"]) for row in found.order_by()}


def _loose() -> QuerySet[Series]:
    return Series.objects.filter(pack=None, stored_as="", owner__whole_at__isnull=False, size__gt=0)


def _batches(review: int) -> Iterator[list[int]]:
    """Captures that go into one pack: as many as it may hold, or a single longer one; those of a cell together."""
    of_review = _loose().filter(owner__test__review=review)
    order = ("owner__test", "owner__column", "owner__number", "name")
    batch: list[int] = []
    held = 0
    for pk, size in of_review.order_by(*order).values_list("pk", "size"):
        if batch and held + size > PACKED:
            yield batch
            batch, held = [], 0
        batch.append(pk)
        held += size
    if batch:
        yield batch


def _pack(review: int, batch: list[int], told: PutAway) -> None:
    held = {one.pk: one for one in Series.objects.select_for_update().filter(pk__in=batch, pack=None, stored_as="")}
    contents: dict[int, bytes] = {}
    for pk in (pk for pk in batch if pk in held):
        data = held[pk].content
        if hashlib.sha256(data).hexdigest() == held[pk].sha256:
            contents[pk] = data
        else:
            told.wrong += 1
    if not contents:
        return
    together = b"".join(contents.values())
    frame = zstandard.compress(together, _LEVEL)
    if zstandard.decompress(frame) != together:
        raise RuntimeError("what was packed is not what comes out again")
    pack = Pack.objects.create(review_id=review, held=len(together), size=len(frame))
    for at in range(0, len(frame), PIECE):
        PackPiece.objects.create(pack=pack, offset=at, data=frame[at : at + PIECE])
    at = 0
    for pk, data in contents.items():
        Series.objects.filter(pk=pk).update(pack=pack, pack_offset=at, blob=None)
        at += len(data)
    Chunk.objects.filter(series__in=list(contents)).delete()
    told.captures += len(contents)
    told.held += len(together)
    told.size += len(frame)
