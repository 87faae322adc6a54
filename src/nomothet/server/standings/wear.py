"""How worn the storage of a machine was month by month, where a sensor of its passes tells it."""

from collections import defaultdict

import numpy as np

from nomothet.formats.errors import FormatError
from nomothet.formats.series import unpack
from nomothet.server.passes.models import Series
from nomothet.server.systems.models import System

# The months looked at, the latest.
_MOST_MONTHS = 36


def wear_of(system: System) -> dict[str, dict[str, float]]:
    """By month and sensor the last reading of the month in percent; a sensor tells wear by its name and its unit."""
    rows = (
        Series.objects.filter(owner__column__configuration__system=system, owner__whole_at__isnull=False)
        .filter(kind="sensor", name__icontains="wear", unit="%")
        .order_by("owner__started_at", "pk")
        .values_list("owner__started_at", "name", "pk")
    )
    last: dict[tuple[str, str], int] = {(at.strftime("%Y-%m"), name): pk for at, name, pk in rows}
    months = sorted({month for month, _ in last})[-_MOST_MONTHS:]
    wanted = {pk: key for key, pk in last.items() if key[0] in months}
    found: dict[str, dict[str, float]] = defaultdict(dict)
    for series in Series.objects.filter(pk__in=wanted):
        month, name = wanted[series.pk]
        try:
            values = unpack(series.content)["value"].astype(float)
        except FormatError:
            continue
        told = values[np.isfinite(values)]
        if told.size:
            found[month][name] = float(told[-1])
    return found
