"""What workloads are called where several of them stand together."""

from collections import defaultdict
from collections.abc import Iterable

from nomothet.server.workloads.models import Workload


def edition_names(workloads: Iterable[Workload]) -> dict[int, str]:
    """A name for each workload by its id; one of which several editions are there carries its version."""
    versions: dict[str, set[str]] = defaultdict(set)
    found = {workload.pk: workload for workload in workloads}
    for workload in found.values():
        versions[workload.name].add(workload.version)
    return {pk: f"{one.name} {one.version}" if len(versions[one.name]) > 1 else one.name for pk, one in found.items()}
