"""Computing many passes anew, in the background."""

import uuid
from collections.abc import Iterable

from django.db import transaction
from django_tasks import task

from nomothet.formats.words import METHOD_VERSION
from nomothet.server.analysis.commands import recompute
from nomothet.server.analysis.computing import rules_of
from nomothet.server.meeting import tried_again
from nomothet.server.passes.commands import announce_pass
from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Test
from nomothet.server.systems.states import states

_RELATED = ("test__review", "test__workload", "column__configuration")


@task()
@tried_again
def recompute_test(test: int) -> None:
    """All passes of a test, after a change of what counts of them; colleagues see each as it is done."""
    _recompute(Pass.objects.filter(test=test).exclude(whole_at=None).values_list("pk", flat=True))


@task()
@tried_again
def recompute_review(review: int) -> None:
    """All passes of a review, after a change of its target."""
    _recompute(Pass.objects.filter(test__review=review).exclude(whole_at=None).values_list("pk", flat=True))


@task()
@tried_again
def recompute_passes(passes: list[str]) -> None:
    """Some passes, after a change of what is believed of their sensors."""
    _recompute(uuid.UUID(one) for one in passes)


@task()
@tried_again
def recompute_old() -> None:
    """Passes that were computed by an earlier version of the method or by other rules, or never looked at."""
    old: list[uuid.UUID] = []
    for test in Test.objects.filter(passes__isnull=False).select_related("review").distinct():
        current = Pass.objects.filter(analysis__method_version=METHOD_VERSION, analysis__counted_by=rules_of(test))
        own = Pass.objects.filter(test=test).exclude(whole_at=None).exclude(origin="typed")
        old += own.exclude(pk__in=current.values("pk")).values_list("pk", flat=True)
    _recompute(old)


def _recompute(ids: Iterable[uuid.UUID]) -> None:
    for pk in list(ids):
        with transaction.atomic():
            Pass.objects.select_for_update().get(pk=pk)
            owner = Pass.objects.select_related(*_RELATED).get(pk=pk)
            configuration = owner.column.configuration
            recompute(owner, states([configuration])[configuration.pk])
            announce_pass(owner)
