"""Computing passes anew, and setting ranges of time aside."""

import uuid
from collections.abc import Iterable, Sequence

from django.db import transaction
from django.utils import timezone

from nomothet.core.pass_analysis import PassAnalysis
from nomothet.formats.plain import stored
from nomothet.formats.words import METHOD_VERSION, MetricValue, frame_values
from nomothet.server.analysis.claims import claims_of
from nomothet.server.analysis.computing import Computed, aside_of, captures_of, compute, declared_of, rules_of, spans_of
from nomothet.server.analysis.fingerprint import fingerprint_of
from nomothet.server.analysis.models import Analysis, AsideRange
from nomothet.server.analysis.own_figures import own_values
from nomothet.server.analysis.summary import summary_of
from nomothet.server.passes.commands import announce_pass, store_figures
from nomothet.server.passes.models import Pass
from nomothet.server.passes.searches import SEARCHED
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.systems.states import ConfigurationState, state_of


def recompute(owner: Pass, state: ConfigurationState | None = None) -> Computed:
    """Compute figures and findings of a pass from its captures and store them; raw data is only read.

    Parameters
    ----------
    state : ConfigurationState, optional
        That of the pass's configuration, where the caller has it already.
    """
    own = state or state_of(owner.column.configuration)
    declared = declared_of(owner.test, owner, own)
    captures, spans, aside = captures_of(owner), spans_of(owner), aside_of(owner)
    found = compute(owner.test, owner, captures, spans, aside, declared)
    own_figures = own_values(owner.test, captures, spans, aside, owner.duration_s or 0.0) if owner.test.metrics else []
    store_computed(owner, found, own, own_figures)
    return found


def store_computed(
    owner: Pass, found: Computed, state: ConfigurationState | None = None, own_figures: Sequence[MetricValue] = ()
) -> None:
    """Replace the computed figures and findings of a pass; what somebody typed stays."""
    if owner.outcome == "completed":
        owner.figures.filter(obtained="computed").exclude(method=SEARCHED).delete()
        typed = set(owner.figures.filter(obtained="typed").values_list("metric", flat=True))
        values = [*(frame_values(found.figures) if found.figures is not None else []), *own_figures]
        store_figures(owner, [one for one in values if one.metric.key not in typed], "computed")
    content = stored(found.analysis)
    state = state or state_of(owner.column.configuration)
    if content["limits"]:
        # The bands say the same in fewer words.
        del content["limits"]["seconds"]
    told = {
        "method_version": METHOD_VERSION,
        "content": content,
        "summary": summary_of(content) | claims_of(owner, state),
        "fingerprint": fingerprint_of(owner, found.source, found.analysis, state),
        "counted_by": rules_of(owner.test),
        "no_figures": found.no_figures[:300],
    }
    Analysis.objects.bulk_create([Analysis(owner_id=owner.pk, **told)], update_conflicts=True, update_fields=list(told))


def store_fingerprints(passes: Iterable[tuple[Pass, ConfigurationState]]) -> None:
    """How new passes without captures were run: typed figures have a machine too."""
    empty = PassAnalysis(0, 0, None, (), None, None)
    Analysis.objects.bulk_create(
        Analysis(
            owner=owner,
            method_version=METHOD_VERSION,
            summary=claims_of(owner, state),
            fingerprint=fingerprint_of(owner, "", empty, state),
        )
        for owner, state in passes
    )


def set_range_aside(user: User, pass_id: uuid.UUID, start_s: float, end_s: float, reason: str) -> AsideRange:
    """Leave a range of time of a pass out of every figure, with a reason; it stays on record."""
    require(user, Act.SET_ASIDE)
    if not reason.strip():
        raise unusable("Say why this range is set aside.", field="reason")
    with transaction.atomic():
        owner = _locked(pass_id)
        if not 0 <= start_s < end_s:
            raise unusable("A range ends after it begins.", field="end_s")
        if owner.duration_s is not None and start_s >= owner.duration_s:
            raise unusable(f"The pass is over after {owner.duration_s:.1f} s.", field="start_s")
        if owner.ranges.filter(back_at=None, start_s__lte=start_s, end_s__gte=end_s).exists():
            raise conflict("This range is set aside already; somebody may have been faster. Nothing was changed.")
        kept = AsideRange.objects.create(owner=owner, start_s=start_s, end_s=end_s, reason=reason.strip(), by=user)
        found = recompute(owner)
        if found.no_figures and owner.outcome == "completed":
            raise unusable(f"{found.no_figures[:1].upper()}{found.no_figures[1:]}. Set the whole pass aside instead.")
        announce_pass(owner)
    return kept


def take_range_back(user: User, kept: AsideRange) -> None:
    """Count a range again that was set aside; that it was stays on record."""
    require(user, Act.SET_ASIDE)
    with transaction.atomic():
        owner = _locked(kept.owner_id)
        locked = AsideRange.objects.select_for_update().get(pk=kept.pk)
        if locked.back_at is not None:
            raise conflict("This range counts again already; somebody may have been faster. Nothing was changed.")
        locked.back_by, locked.back_at = user, timezone.now()
        locked.save(update_fields=["back_by", "back_at"])
        recompute(owner)
        announce_pass(owner)


def recompute_marked(owner: Pass) -> None:
    """After a change of a pass's marks: its figures follow where the test counts by spans or has metrics of parts, its
    window in a soak."""
    if owner.test.counts or owner.test.metrics or owner.test.workload.kind == "soak":
        recompute(owner)


def _locked(pass_id: uuid.UUID) -> Pass:
    found = Pass.objects.select_for_update().filter(pk=pass_id).first()
    if found is None or found.whole_at is None:
        raise unusable("There is no such pass, or it is not in yet.")
    return Pass.objects.select_related("test__review", "test__workload", "column__configuration").get(pk=pass_id)
