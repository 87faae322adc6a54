"""Reading rules applied again to what a program has written, after somebody has mended them."""

import re
import uuid
from dataclasses import dataclass

from django.db import transaction
from django.shortcuts import get_object_or_404

from nomothet.formats.output import OUTPUT, text_of
from nomothet.formats.reading_rules import MOST_SAMPLE
from nomothet.formats.rule_reading import read_by_rules
from nomothet.formats.words import Metric, MetricValue
from nomothet.server.passes.commands import announce_pass, store_figures
from nomothet.server.passes.models import Pass, Remark, Series
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import unusable

# A figure that the program has told in our own lines goes before what a rule finds.
_SAID = re.compile(r"^figure (\S+) ", re.M)


@dataclass(frozen=True)
class ReadAgainShape:
    """Figures that have changed, by metric: before (null for none) and now; and why a rule found nothing."""

    changed: dict[str, tuple[float | None, float]]
    missed: list[str]


def read_again(user: User, pass_id: uuid.UUID) -> ReadAgainShape:
    """Read the kept output of a pass by the rules that its workload has now; what changes is noted with the pass.

    Raises
    ------
    Problem
        When no output was kept, or no rule finds anything: the figures then stay as they are.
    """
    require(user, Act.RECORD)
    with transaction.atomic():
        owner = get_object_or_404(Pass.objects.select_for_update(), pk=pass_id)
        texts = [
            text_of(one.content).decode(errors="replace")[-MOST_SAMPLE:]
            for one in Series.objects.filter(owner=owner, kind=OUTPUT).order_by("pk")
        ]
        if not texts:
            raise unusable("No output was kept with this pass, so there is nothing to read again.")
        found, missed = read_by_rules(owner.test.workload.rules, texts)
        said = {name for text in texts for name in _SAID.findall(text)}
        values = [_value(metric, found[metric["key"]]) for metric in owner.test.workload.metrics
                  if metric["key"] in found and metric["key"] not in said]  # fmt: skip
        if not values:
            why = "; ".join(missed) or "the workload has no rules"
            raise unusable(f"Nothing was found, and the figures stay as they are: {why}.")
        held = dict(owner.figures.values_list("metric", "value"))
        fresh = [one for one in values if held.get(one.metric.key) != one.value]
        changed = {one.metric.key: (held.get(one.metric.key), one.value) for one in fresh}
        if changed:
            store_figures(owner, fresh, "extracted", "read from output")
            words = ", ".join(
                f"{metric} {'none' if before is None else f'{before:g}'} → {now:g}"
                for metric, (before, now) in changed.items()
            )
            Remark.objects.create(owner=owner, act="read_again", reason=words[:300], by=user)
            announce_pass(owner)
    return ReadAgainShape(changed, missed)


def _value(metric: dict[str, str], value: float) -> MetricValue:
    key = metric["key"]
    return MetricValue(Metric(key, key, metric["unit"], metric["direction"], metric["scale"]), value)  # type: ignore[arg-type]
