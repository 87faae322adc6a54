"""Which passes are the first run after a start, where a workload keeps these apart (docs/method.md, 2)."""

from datetime import datetime, timedelta

from nomothet.server.docket.models import Changeover
from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Column, Test

# A session of a configuration ends after this long without a pass.
_SESSION = timedelta(hours=6)


def group_of(test: Test, column: Column, at: datetime, but: Pass | None = None) -> str:
    """The group of a pass of a cell that begins at a moment: "first", or "" where the workload does not tell or the
    session has one already. A session ends with a change of configuration or after six hours; two queries at most.

    Parameters
    ----------
    but : Pass, optional
        The pass itself, where it is on record.
    """
    if not test.workload.first_run_apart:
        return ""
    passes = Pass.objects.whole().filter(test=test, column=column, started_at__lt=at, started_at__gt=at - _SESSION)
    if but is not None:
        passes = passes.exclude(pk=but.pk)
    last = passes.order_by("-started_at").values_list("started_at", flat=True).first()
    if last is None:
        return "first"
    system = column.configuration.system_id
    changed = Changeover.objects.filter(system=system, done_at__gt=last, done_at__lte=at).exists()
    return "first" if changed else ""
