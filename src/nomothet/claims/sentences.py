"""Text in paragraphs and sentences, with the marks of findings in it."""

import re
from dataclasses import dataclass

_PARAGRAPH = re.compile(r"\n\s*\n")
_END = re.compile(r"(?<=[.!?])\s+(?=[\[(“\"'A-Z0-9])")
# "[3]", "[3 amount]" and "[3 interval]": a finding by its number, and what it says.
MARK = re.compile(r"\[(\d{1,4})(?: (amount|interval))?\]")
# A sentence that is longer is read no further.
LONGEST = 2000


@dataclass(frozen=True)
class Sentence:
    """A sentence of a text, with the paragraph that it stands in."""

    paragraph: int
    text: str


def sentences_of(text: str) -> list[Sentence]:
    """The sentences of a text.

    >>> [one.text for one in sentences_of("28 W costs 1.9 % [1]. It is enough.\\n\\nNobody heard it.")]
    ['28 W costs 1.9 % [1].', 'It is enough.', 'Nobody heard it.']
    """
    return [
        Sentence(at, sentence.strip()[:LONGEST])
        for at, paragraph in enumerate(_PARAGRAPH.split(text.strip()))
        for sentence in _END.split(" ".join(paragraph.split()))
        if sentence.strip()
    ]


def marked(text: str) -> list[int]:
    """The numbers of the findings that a text names, each once.

    >>> marked("28 W costs [1 amount] [1] and is enough [2].")
    [1, 2]
    """
    return list(dict.fromkeys(int(mark[1]) for mark in MARK.finditer(text)))
