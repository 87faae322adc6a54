"""Whatever has a name, found by words: a review, system, part, workload, record, set, saved standing, person."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import reduce
from operator import and_, or_
from typing import Any
from urllib.parse import urlencode

from django.db.models import Q, QuerySet

from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, may
from nomothet.server.records.models import Record
from nomothet.server.reviews.models import Review
from nomothet.server.shelf.models import Part
from nomothet.server.standings.models import SavedStanding, TestSet
from nomothet.server.systems.models import System
from nomothet.server.workloads.models import Workload

# Of each kind so many; who seeks one more says one more word.
MOST = 6
_MOST_WORDS = 8


@dataclass(frozen=True)
class FoundShape:
    """Something with a name. `kind` is what it is, `path` where it is, `public` that it is a page outside the rest."""

    kind: str
    words: str
    detail: str
    path: str
    public: bool


def find(user: User, text: str) -> list[FoundShape]:
    """What has all of these words in its name, the latest first; nothing without a word."""
    words = text.split()[:_MOST_WORDS]
    return list(_found(user, words)) if words else []


def _found(user: User, words: list[str]) -> Iterator[FoundShape]:
    # Those that were put away come after the others.
    for away in (False, True):
        there = Review.objects.filter(archived_at__isnull=not away).only("question")
        for review in _with(there, words, "question"):
            yield FoundShape(
                "review", review.question, "archived" if away else "", f"/reviews/{review.pk}/matrix", False
            )
    for system in _with(System.objects.filter(archived_at=None).only("name", "description"), words, "name"):
        yield FoundShape("system", system.name, system.description[:80], f"/systems/{system.pk}", False)
    for part in _with(Part.objects.filter(archived_at=None).only("name", "kind"), words, "name"):
        yield FoundShape("part", part.name, part.kind.replace("_", " "), f"/shelf?part={part.pk}", False)
    for workload in _with(Workload.objects.filter(archived_at=None), words, "name", "version"):
        name = f"{workload.name} {workload.version}"
        yield FoundShape("workload", name, workload.get_kind_display(), f"/workloads?workload={workload.pk}", False)
        yield FoundShape("standing", name, "results of all reviews", f"/standings?workload={workload.key}", False)
    for one in _with(TestSet.objects.filter(archived_at=None, replaced_by=None), words, "name"):
        yield FoundShape("set of tests", one.name, f"edition {one.edition}", f"/standings?set={one.pk}", False)
    for saved in _with(SavedStanding.objects.filter(removed_at=None), words, "name"):
        yield FoundShape("saved standing", saved.name, "", f"/standings?{urlencode(saved.query)}", False)
    for record in _with(
        Record.objects.filter(withdrawn_at=None).defer("content").select_related("review"), words, "review__question"
    ):
        detail = f"edition {record.edition}"
        yield FoundShape("record", record.review.question, detail, f"/records/{record.slug}", True)
    if may(user, Act.MANAGE_PEOPLE):
        for person in _with(User.objects.filter(is_active=True), words, "display_name", "username"):
            yield FoundShape("person", person.display_name, person.role, "/people", False)


def _with(found: "QuerySet[Any]", words: list[str], *fields: str) -> "QuerySet[Any]":
    each = (reduce(or_, (Q(**{f"{field}__icontains": word}) for field in fields)) for word in words)
    return found.filter(reduce(and_, each)).order_by("-pk")[:MOST]
