"""Moving captures between the database and a store outside; it can be broken off at any time and begun again."""

import hashlib
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime

from django.db import connection, transaction
from django.db.models import QuerySet

from nomothet.server.passes import outside
from nomothet.server.passes.file_pass import keep_blob
from nomothet.server.passes.models import Chunk, PackPiece, Series


@dataclass
class Moved:
    """How many captures were moved, with their bytes, and those that are not what was announced and stayed."""

    captures: int = 0
    size: int = 0
    wrong: int = 0


def move_out(before: datetime | None = None, told: Callable[[Moved], None] = lambda _: None) -> Moved:
    """Move captures of whole passes into the store; those that were put away in packs stay there.

    Parameters
    ----------
    before : datetime, optional
        Of passes that were whole before then only.
    told : callable
        Told after each.

    Raises
    ------
    StoreAway
        The store does not take one; what was moved before is moved.
    """
    outside.require_store()
    wanted = Series.objects.filter(stored_as="", pack=None, owner__whole_at__isnull=False, size__gt=0)
    return _each(wanted.filter(owner__whole_at__lt=before) if before else wanted, _out, told)


def move_back(told: Callable[[Moved], None] = lambda _: None) -> Moved:
    """Move all captures into the database again; the store keeps its copies.

    Raises
    ------
    StoreAway
    """
    return _each(Series.objects.exclude(stored_as=""), _back, told)


def shrink() -> None:
    """Give the room of what was moved out or put away back to the disk; tables are copied, which takes it once more."""
    with connection.cursor() as cursor:
        for model in (Series, Chunk, PackPiece):
            cursor.execute(f"OPTIMIZE TABLE {connection.ops.quote_name(model._meta.db_table)}")
            cursor.fetchall()


def _each(wanted: QuerySet[Series], move: Callable[[Series], bool], told: Callable[[Moved], None]) -> Moved:
    moved = Moved()
    for pk in list(wanted.order_by("pk").values_list("pk", flat=True)):
        with transaction.atomic():
            series = Series.objects.select_for_update().filter(pk=pk).first()
            if series is None:
                continue
            if move(series):
                moved.captures += 1
                moved.size += series.size
            else:
                moved.wrong += 1
        told(moved)
    return moved


def _out(series: Series) -> bool:
    if series.stored_as or series.pack_id is not None:
        return True
    data = series.content
    if hashlib.sha256(data).hexdigest() != series.sha256:
        return False
    Series.objects.filter(pk=series.pk).update(stored_as=outside.put(data), blob=None)
    series.chunks.all().delete()
    return True


def _back(series: Series) -> bool:
    data = series.content
    series.stored_as = ""
    keep_blob(series, data)
    return True
