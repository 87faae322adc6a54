"""Computing many passes anew, in the background."""

import uuid
from collections.abc import Iterable

from django.db import transaction
from django_tasks import task

from nomothet.formats.words import METHOD_VERSION
from nomothet.server.analysis.commands import recompute
from nomothet.server.passes.commands import announce_pass
from nomothet.server.passes.models import Pass
from nomothet.server.systems.states import states

_RELATED = ("test__review", "test__workload", "column__configuration")


@task()
def recompute_test(test: int) -> None:
    """All passes of a test, after a change of what counts of them; colleagues see each as it is done."""
    _recompute(Pass.objects.filter(test=test).exclude(whole_at=None).values_list("pk", flat=True))


@task()
def recompute_review(review: int) -> None:
    """All passes of a review, after a change of its target."""
    _recompute(Pass.objects.filter(test__review=review).exclude(whole_at=None).values_list("pk", flat=True))


@task()
def recompute_old() -> None:
    """Passes that were computed by an earlier version of the method, or never looked at."""
    current = Pass.objects.filter(analysis__method_version=METHOD_VERSION)
    old = Pass.objects.exclude(whole_at=None).exclude(pk__in=current.values("pk")).exclude(origin="typed")
    _recompute(old.values_list("pk", flat=True))


def _recompute(ids: Iterable[uuid.UUID]) -> None:
    for pk in list(ids):
        with transaction.atomic():
            Pass.objects.select_for_update().get(pk=pk)
            owner = Pass.objects.select_related(*_RELATED).get(pk=pk)
            configuration = owner.column.configuration
            recompute(owner, states([configuration])[configuration.pk])
            announce_pass(owner)
