"""Figures found by several reading rules in several texts: the same at the bench and when they are read again."""

from collections.abc import Mapping, Sequence
from typing import Any

from nomothet.formats.errors import FormatError
from nomothet.formats.reading_rules import Rule, apply_rule


def read_by_rules(rules: Sequence[Mapping[str, Any]], texts: Sequence[str]) -> tuple[dict[str, float], list[str]]:
    """What the rules of a workload find.

    Parameters
    ----------
    rules : sequence of mapping
        As a workload keeps them: kind, expression, metric, name.
    texts : sequence of str
        A rule takes the first text in which it finds anything; its last match there counts.

    Returns
    -------
    dict of str to float
        By metric.
    list of str
        Why a rule found nothing.
    """
    found: dict[str, float] = {}
    missed = []
    for given in rules:
        rule = Rule(given["kind"], given["expression"], given.get("metric", ""))
        problem = _apply(rule, texts, found)
        if problem:
            missed.append(f"{given.get('name') or rule.metric or rule.expression}: {problem}")
    return found, missed


def _apply(rule: Rule, texts: Sequence[str], found: dict[str, float]) -> str:
    problem = "found nothing"
    for text in texts:
        if not text:
            continue
        try:
            matches = [match for match in apply_rule(rule, text) if match.value is not None]
        except FormatError as error:
            problem = str(error)
            continue
        if matches:
            for match in matches:
                if match.value is not None:
                    found[match.metric] = match.value
            return ""
    return problem
