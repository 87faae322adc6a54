"""Looking at a restored database: rows, digests of captures, and figures computed anew."""

import hashlib
import json
import sys
from typing import Any

from django.db import connection, transaction

from nomothet.server.reading_code import set_up

_FAR = 1e-9


def main() -> None:
    """Print what is there and what is wrong, as JSON."""
    set_up()
    sample = int(sys.argv[1])
    wrong: list[str] = []
    captures = _captures(wrong)
    passes, figures = _recomputed(sample, wrong)
    told = {"captures": captures, "passes": passes, "figures": figures, "wrong": wrong, "rows": _rows()}
    print(json.dumps(told))


def _rows() -> dict[str, int]:
    counts = {}
    with connection.cursor() as cursor:
        for table in connection.introspection.table_names():
            cursor.execute(f"SELECT COUNT(*) FROM `{table}`")  # noqa: S608
            counts[table] = int(cursor.fetchone()[0])
    return counts


def _captures(wrong: list[str]) -> int:
    """Hash every capture that is whole; returns how many."""
    from nomothet.server.passes.models import Series
    from nomothet.server.passes.outside import StoreAway

    count = 0
    whole = Series.objects.exclude(owner__whole_at=None).select_related("owner")
    for pk in whole.values_list("pk", flat=True):
        series = whole.get(pk=pk)
        try:
            blob = series.content
        except StoreAway as error:
            wrong.append(f"the capture {series.name} of pass {series.owner_id} is in no backup: {error.detail}")
            continue
        if len(blob) != series.size or hashlib.sha256(blob).hexdigest() != series.sha256:
            wrong.append(f"the capture {series.name} of pass {series.owner_id} is not as it came in")
        count += 1
    return count


def _recomputed(sample: int, wrong: list[str]) -> tuple[int, int]:
    """Compute figures of passes anew and compare them with those kept; returns how many passes and figures."""
    from nomothet.core.errors import MethodError
    from nomothet.formats.errors import FormatError
    from nomothet.formats.words import METHOD_VERSION
    from nomothet.server.analysis.commands import recompute
    from nomothet.server.passes.models import Pass
    from nomothet.server.passes.outside import StoreAway

    counted = Pass.objects.filter(figures__obtained="computed", figures__method_version=METHOD_VERSION)
    ids = list(counted.exclude(whole_at=None).order_by("pk").values_list("pk", flat=True).distinct())
    chosen = ids[:: max(1, len(ids) // max(1, sample))][:sample]
    figures = 0
    for pk in chosen:
        with transaction.atomic():
            owner = Pass.objects.select_related("test__review", "test__workload", "column__configuration").get(pk=pk)
            kept = _figures(owner)
            try:
                recompute(owner)
            except (FormatError, MethodError, StoreAway) as error:
                wrong.append(f"pass {pk} cannot be computed anew: {error}")
                continue
            anew = _figures(owner)
            transaction.set_rollback(True)
        figures += len(kept)
        if kept.keys() != anew.keys() or any(abs(kept[key] - anew[key]) > _FAR * abs(kept[key]) for key in kept):
            wrong.append(f"pass {pk} gives other figures than those on record")
    return len(chosen), figures


def _figures(owner: Any) -> dict[str, float]:
    return dict(owner.figures.filter(obtained="computed").values_list("metric", "value"))


if __name__ == "__main__":
    main()
