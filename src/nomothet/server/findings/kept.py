"""Findings as they are kept until something that they depend on changes."""

import hashlib
from collections.abc import Sequence
from dataclasses import replace
from functools import cache as once
from pathlib import Path

import msgspec
from django.core.cache import cache
from django.db.models import Count, Max, Sum

import nomothet.core
import nomothet.server.matrix
import nomothet.words
from nomothet.server.analysis.models import Pair, Untrusted
from nomothet.server.docket.models import Entry, State
from nomothet.server.findings.choice import PROPOSED, Choice
from nomothet.server.findings.finding import Kind, Ranked, Use
from nomothet.server.findings.gathered import Gathered, gathered
from nomothet.server.findings.kinds import (
    blind,
    bursts,
    chains,
    crossovers,
    energies,
    expected,
    frontiers,
    grids,
    headrooms,
    load_ladders,
    not_settled,
    over_all,
    over_time,
    pacing,
    paired,
    scaling,
    sweeps,
    targets,
    versus,
)
from nomothet.server.findings.shapes import ExpectedShape, FindingShape
from nomothet.server.reviews.models import Review, Test
from nomothet.server.shelf.models import Part, Price
from nomothet.server.systems.models import Bundle, Configuration

KINDS: tuple[Kind, ...] = tuple(
    one.KIND
    for one in (
        expected, over_all, sweeps, chains, grids, load_ladders, scaling, crossovers, versus, targets, frontiers,
        energies, bursts, headrooms, pacing, paired, over_time, blind, not_settled,
    )
)  # fmt: skip
_KEPT_S = 14 * 24 * 3600


def kept(state: str, choice: Choice = PROPOSED, kind: str = "") -> list[FindingShape] | None:
    """Findings as they were kept in a state of their review; None where something has changed since."""
    packed = cache.get(_key(state, choice, kind))
    return None if packed is None else msgspec.msgpack.decode(packed, type=list[FindingShape])


def last_kept(review: Review) -> list[FindingShape]:
    """What was last proposed, whatever has changed since; nothing where it never was."""
    packed = cache.get(_last(review))
    return [] if packed is None else msgspec.msgpack.decode(packed, type=list[FindingShape])


def work_out(review: Review, state: str = "") -> list[FindingShape]:
    """Work out what the program proposes, and keep it.

    Parameters
    ----------
    state : str
        That of the review, where the caller knows it already.
    """
    key = _key(state or state_of(review), PROPOSED, "")
    shapes = ranked(gathered(review), KINDS)
    packed = msgspec.msgpack.encode(shapes)
    cache.set_many({key: packed, _last(review): packed}, _KEPT_S)
    return shapes


def drawn(review: Review, state: str, kind: Kind, choice: Choice) -> list[FindingShape]:
    """One kind about what somebody has chosen, kept like the rest."""
    known = kept(state, choice, kind.key)
    if known is not None:
        return known
    shapes = ranked(gathered(review, choice), [kind])
    cache.set(_key(state, choice, kind.key), msgspec.msgpack.encode(shapes), _KEPT_S)
    return shapes


def ranked(found: Gathered, kinds: Sequence[Kind]) -> list[FindingShape]:
    """Findings in the order of their use: about all tests before single ones, decided before undecided, larger before
    smaller; what contradicts the expectation comes first.
    """
    made = [one for kind in kinds for one in kind.make(kind, found)]
    return [one.finding for one in sorted((_with_expected(found, one) for one in made), key=lambda one: one.place)]


def _with_expected(found: Gathered, one: Ranked) -> Ranked:
    """A finding over all tests says what it means for the expectation, and is raised where it contradicts it."""
    if one.finding.kind != over_all.KIND.key:
        return one
    speaks = [
        (expectation, held)
        for expectation, held, _ in found.judged
        if expectation.test is None
        and {expectation.column, expectation.of} == set(one.finding.columns)
        and one.finding.key.split("-")[1] == expectation.role
    ]
    if not speaks:
        return one
    shapes = [ExpectedShape(expected.words_of(found, own), held) for own, held in speaks]
    shape = replace(one.finding, expected=shapes)
    use = Use.AGAINST_EXPECTATION if any(held == "not held" for _, held in speaks) else one.use
    return Ranked(shape, use, one.size, one.order)


def _last(review: Review) -> str:
    return f"findings-last-{review.pk}"


def state_of(review: Review) -> str:
    """A mark of everything that a review's findings depend on.

    Plan, evidence, docket, prices and parts, what is not trusted, the code.
    Noise may be borrowed from passes of the same workloads in other reviews.
    """
    tests = list(review.tests.order_by("pk").values_list("pk", "stamp", "workload__edit", "workload"))
    elsewhere = Test.objects.filter(workload__in={workload for *_, workload in tests}).exclude(review=review)
    depends = (
        _code(), review.pk, review.version, tests,
        elsewhere.aggregate(Sum("stamp"), Count("pk")),
        Price.objects.aggregate(Max("pk"), Count("pk"), Sum("amount")),
        Part.objects.aggregate(Sum("version"), Count("pk")),
        Configuration.objects.filter(system__configurations__column__review=review).aggregate(
            Sum("version"), Count("pk")
        ),
        list(Bundle.objects.values_list("pk", "name")),
        Untrusted.objects.aggregate(Max("pk"), Count("pk")),
        Pair.objects.filter(review=review).aggregate(Max("pk"), Count("pk")),
        list(review.caveats.values_list("pk", "words")),
        # A pass that is taken by a bench is still owed; only asking and coming in change what would mend something.
        Entry.objects.filter(test__review=review, state__in=(State.OWED, State.RUNNING)).count(),
    )  # fmt: skip
    return hashlib.sha256(repr(depends).encode()).hexdigest()


def _key(state: str, choice: Choice, kind: str) -> str:
    return f"findings-{hashlib.sha256(repr((state, choice, kind)).encode()).hexdigest()}"


@once
def _code() -> str:
    """A mark of the code that findings are made by."""
    modules = (nomothet.core.__file__, nomothet.words.__file__, nomothet.server.matrix.__file__, __file__)
    folders = [Path(str(one)).parent for one in modules]
    files = [file for folder in [*folders, folders[-1] / "kinds"] for file in sorted(folder.glob("*.py"))]
    return hashlib.sha256(b"".join(file.read_bytes() for file in files)).hexdigest()
