"""What metrics mean for readers: the team's own words, or the usual ones."""

from collections.abc import Callable, Iterable, Mapping

from django.db import transaction

from nomothet.server.feed.commands import announce
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.versions import content_tag
from nomothet.server.workloads.models import MetricNote
from nomothet.words.for_readers import note_for_readers

LONGEST = 600


def notes_of(metrics: Mapping[str, str]) -> dict[str, str]:
    """What metrics mean, by their key and unit; empty for one that nobody has explained."""
    own = own_words(metrics)
    return {metric: own.get(metric) or note_for_readers(metric, unit) for metric, unit in metrics.items()}


def explained(metrics: Iterable[tuple[str, str]]) -> dict[str, str]:
    """The same without those that nobody has explained."""
    return {metric: words for metric, words in notes_of(dict(metrics)).items() if words}


def note_tag(own: str) -> str:
    """The entity tag of a team's own words, empty where it has none."""
    return content_tag(own)


def own_words(metrics: Iterable[str]) -> dict[str, str]:
    """What the team has said itself, by metric."""
    return dict(MetricNote.objects.filter(metric__in=list(metrics)).values_list("metric", "words"))


def set_note(user: User, metric: str, words: str, agreed: Callable[[str], None]) -> None:
    """Explain a metric in words of one's own; nothing said brings the usual words back.

    `agreed` is called with the own words that stand there, while nobody else can change them, and raises where the
    edit was made on others.
    """
    require(user, Act.EDIT_WORKLOADS)
    with transaction.atomic():
        agreed("".join(MetricNote.objects.select_for_update().filter(metric=metric).values_list("words", flat=True)))
        if words.strip():
            MetricNote.objects.update_or_create(metric=metric, defaults={"words": words.strip(), "by": user})
        else:
            MetricNote.objects.filter(metric=metric).delete()
        announce("workloads")
