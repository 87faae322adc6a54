"""The text of a verdict, sentence by sentence, with what came of holding each against the data."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from nomothet.claims import Checked, check, sentences_of
from nomothet.claims.facts import Facts
from nomothet.server.findings.shapes import OwedCell
from nomothet.server.verdicts.content import Use
from nomothet.server.verdicts.models import Reply
from nomothet.words import says
from nomothet.words.claims import REMARKS, STATUS_WORDS, backed_words

# The answer stands before all uses.
ANSWER = "answer"


@dataclass(frozen=True)
class ReplyShape:
    id: int
    kind: str
    words: str
    by: str


@dataclass(frozen=True)
class SentenceShape:
    """A sentence with what came of its check.

    `use` is the key of its use, or "answer". `text` is as it is written, with marks such as [3]. `offers` are the keys
    of findings that would carry it; `instead` is the sentence with the figure of the data.
    """

    use: str
    paragraph: int
    text: str
    status: str
    status_words: str
    says: list[str]
    backed_by: list[int]
    offers: list[str]
    instead: str
    passes: int | None
    # The passes, cell by cell, that would settle it.
    owed: list[OwedCell]
    reply: ReplyShape | None


def checked_sentences(
    answer: str,
    uses: Sequence[Use],
    facts: Facts,
    replies: Mapping[str, Reply],
    keys: Mapping[int, str],
    owed: Callable[[Checked], list[OwedCell]],
) -> list[SentenceShape]:
    """Every sentence of a verdict with its check.

    Parameters
    ----------
    replies : mapping of str to Reply
        What people have answered, by sentence.
    keys : mapping of int to str
        The keys of findings by their numbers.
    owed : callable
        The passes that would settle what is open.
    """
    texts = [(ANSWER, answer), *((use.key, use.text) for use in uses)]
    return [
        _sentence(key, one.paragraph, one.text, facts, replies.get(one.text), keys, owed)
        for key, text in texts
        for one in sentences_of(text)
    ]


def _sentence(
    use: str,
    paragraph: int,
    text: str,
    facts: Facts,
    reply: Reply | None,
    keys: Mapping[int, str],
    owed: Callable[[Checked], list[OwedCell]],
) -> SentenceShape:
    judged = reply is not None and reply.kind == Reply.Kind.JUDGEMENT
    found = check(text, facts, judged=judged)
    told = says(found.notes)
    if found.status == "backed":
        remarks = dict.fromkeys(one for number in found.backed_by for one in facts.numbers[number].remarks)
        told = [", ".join([backed_words(list(found.backed_by)), *(REMARKS[one] for one in remarks)])]
    return SentenceShape(
        use=use,
        paragraph=paragraph,
        text=text,
        status=found.status,
        status_words=STATUS_WORDS[found.status],
        says=told,
        backed_by=list(found.backed_by),
        offers=_offers(found, keys),
        instead=found.instead,
        passes=found.passes,
        owed=owed(found) if found.status == "unsettled" else [],
        reply=ReplyShape(reply.pk, reply.kind, reply.words, reply.by.display_name) if reply else None,
    )


def _offers(found: Checked, keys: Mapping[int, str]) -> list[str]:
    return [keys[number] for number in found.offers if number in keys]
