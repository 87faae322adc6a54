"""What a clause says, as far as words and numbers tell: about what, how much, which way, and how far it goes."""

import itertools
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from nomothet.claims import speech
from nomothet.claims.amounts import Amount, Quantity, amounts_of, quantities_of, without_intervals
from nomothet.claims.facts import Configuration, Facts, Found
from nomothet.claims.sentences import MARK
from nomothet.claims.speech import Direction
from nomothet.core.notes import Note, note

_CLAUSE = re.compile(r"[;:]\s+|,\s+(?=(?:and|but|while|whereas|yet|because)\b)")
_LOWS = re.compile(r"0?[.,]?1\s*(?:%|per ?cent)\s*lows?\b", re.I)
_WORD = re.compile(r"[A-Za-z]+")
# A letter of a seal stands after one of these; "A" by itself is an article.
_SEAL = r"(?:(?<=configuration )|(?<=seal )|(?<=than )|(?<=against )|(?<=behind )|(?<=with )|(?<=ahead of )|(?<=as ))"
# So far before a word its negation may stand.
_REACH = 24
# Words that say more or less of whatever follows them.
_MEASURES = ("more", "less", "fewer")
# A setting of a test is known by its words if they are at least so long.
_TELLING = 4


@dataclass(frozen=True)
class Said:
    """A word of direction where it stands, and whether it is denied."""

    at: int
    word: str
    direction: Direction
    denied: bool


@dataclass(frozen=True)
class Clause:
    """What a clause says. `own` is held against `base`; `beyond` is what goes further than was measured."""

    text: str
    at: int
    marks: tuple[int, ...]
    own: int | None
    base: int | None
    mentioned: tuple[int, ...]
    tests: tuple[int, ...]
    over_all: bool
    each_test: bool
    role: str
    amounts: tuple[Amount, ...]
    quantities: tuple[Quantity, ...]
    said: tuple[Said, ...]
    level: bool
    at_least_level: bool
    enough: bool | None
    open: bool
    not_run: bool
    cause: str
    beyond: tuple[Note, ...]

    @property
    def claims(self) -> bool:
        """Whether there is anything to be held against the data."""
        return bool(
            self.amounts or self.quantities or self.said or self.level or self.open or self.not_run or self.beyond
        ) or (self.enough is not None)


# From so many letters on a label is known however its first letter is written.
_LONG_LABEL = 4


def clauses_of(sentence: str, facts: Facts) -> list[Clause]:
    """The clauses of a sentence that say something by themselves; each takes from the one before what it leaves out."""
    found: list[Clause] = []
    for at, text in _pieces(sentence, facts):
        one = _read(at, text, facts)
        if found and one.own is None:
            one = replace(one, own=found[-1].own, base=one.base or found[-1].base)
        if found and not one.tests and not one.over_all:
            one = replace(one, tests=found[-1].tests, over_all=found[-1].over_all)
        found.append(one)
    return found


def _pieces(sentence: str, facts: Facts) -> list[tuple[int, str]]:
    """Where a sentence can be cut so that each piece says something; a piece that does not goes with the one before."""
    cuts = [0, *(found.end() for found in _CLAUSE.finditer(sentence)), len(sentence)]
    pieces: list[tuple[int, str]] = []
    for start, end in itertools.pairwise(cuts):
        text = sentence[start:end]
        alone = _read(start, text, facts)
        whole = bool(alone.claims and (alone.own is not None or alone.marks or alone.amounts))
        if pieces and not (whole and not text.lower().startswith("because")):
            pieces[-1] = (pieces[-1][0], pieces[-1][1] + text)
        else:
            pieces.append((start, text))
    return pieces


def _read(at: int, text: str, facts: Facts) -> Clause:
    marks = tuple(dict.fromkeys(int(mark[1]) for mark in MARK.finditer(text)))
    live = [_live(mark, facts) for mark in MARK.finditer(text) if mark[2]]
    plain = MARK.sub(lambda found: " " * len(found[0]), text)
    plain = _LOWS.sub(lambda found: f"{'lows':>{len(found[0])}}", plain)
    spoken, cause = _without_cause(plain)
    spoken = speech.IDIOMS.sub(_blank, spoken)
    spoken, mentions = _mentions(spoken, facts.configurations)
    beyond = [*_elsewhere(spoken, facts), *_resolutions(spoken, facts)]
    spoken, tests = _tests(spoken, facts)
    over_all = bool(speech.OVER_TESTS.search(spoken))
    each = speech.OF_TESTS.search(spoken)
    scope = each and _whole_scope(each, facts)
    claims_all = speech.OVER_TESTS.sub(_blank, speech.OF_TESTS.sub(_blank, spoken) if scope else spoken)
    spoken = speech.OVER_TESTS.sub(_blank, spoken)
    bare = without_intervals(spoken)
    amounts = (*amounts_of(bare), *(one for group in live for one in group))
    quantities, unmeasured = _quantities(bare, facts, marks)
    said = _directions(spoken, amounts, quantities)
    own, base = _sides(mentions)
    role = next((word.direction.role for word in said if word.direction.role), "") or _role(spoken)
    level = bool(speech.LEVEL.search(spoken)) and not any(one.kind == "times" for one in amounts)
    clause = Clause(
        text=plain,
        at=at,
        marks=marks,
        own=own,
        base=base,
        mentioned=tuple(dict.fromkeys(key for _, key in mentions)),
        tests=tests,
        over_all=over_all,
        each_test=bool(scope) and not over_all,
        role=role,
        amounts=amounts,
        quantities=quantities,
        said=() if level and not amounts else _telling(said, amounts, quantities, role, base),
        level=level,
        at_least_level=bool(speech.AT_LEAST_LEVEL.search(spoken)),
        enough=_enough(spoken),
        open=bool(speech.OPEN.search(spoken)),
        not_run=bool(speech.NOT_RUN.search(spoken)),
        cause=cause,
        beyond=(),
    )
    about = clause.claims or bool(mentions)
    beyond += unmeasured
    if speech.THINGS.search(claims_all) or (about and speech.UNIVERSAL.search(claims_all)):
        word = (speech.THINGS.search(claims_all) or speech.UNIVERSAL.search(claims_all))[0]  # type: ignore[index]
        beyond.append(note("claim_universal", word=word.lower()))
    promise = speech.PROMISE.search(spoken)
    if promise and (about or speech.PRICES.search(spoken)):
        beyond.append(note("claim_promise", word=promise[0].lower()))
    return replace(clause, beyond=tuple(beyond))


def _blank(found: re.Match[str]) -> str:
    return " " * len(found[0])


def _live(mark: re.Match[str], facts: Facts) -> list[Amount]:
    """The amount that a mark puts into the text; it follows its finding."""
    found = facts.numbers.get(int(mark[1]))
    told = amounts_of(found.told) if found else []
    return [replace(one, at=mark.start(), low=abs(one.low), high=abs(one.high), signed=False) for one in told]


def _without_cause(text: str) -> tuple[str, str]:
    found = speech.CAUSE.search(text)
    if not found:
        return text, ""
    # A cause ends with its clause.
    end = text.find(",", found.end())
    after = re.search(r"\b(?:after|at|over)\b", text[found.end() :])
    stops = [place for place in (end, found.end() + after.start() if after else -1) if place >= 0]
    stop = min(stops, default=len(text))
    return text[: found.start()] + " " * (stop - found.start()) + text[stop:], text[found.end() : stop].strip(" .")


def _mentions(text: str, configurations: Sequence[Configuration]) -> tuple[str, list[tuple[int, int]]]:
    """Where configurations are named, and the text without them."""
    names: dict[str, int] = {one.label: one.key for one in configurations}
    systems = [one.system for one in configurations]
    names |= {one.system: one.key for one in configurations if one.system and systems.count(one.system) == 1}
    found: list[tuple[int, int]] = []
    for name in sorted(names, key=len, reverse=True):
        spelled = r"[\s -]?".join(_spelled(part) for part in name.split())
        first, rest = spelled[0], spelled[1:]
        if first.isalpha():
            spelled = f"[{first.upper()}{first.lower()}]{rest}"
        for one in list(re.finditer(rf"(?<![\w.,−-]){spelled}(?!\w)", text)):
            # A short label may be a common word; it begins with a capital letter where its sentence does.
            if one[0][0] != name[0] and len(name) < _LONG_LABEL and text[: one.start()].strip():
                continue
            if re.match(r"\d", name) and re.search(
                r"\b(?:draws?|drew|uses?|consumes?|saves?)\s+(?:\w+\s+)?$", text[: one.start()]
            ):
                continue
            found.append((one.start(), names[name]))
            text = text[: one.start()] + " " * len(one[0]) + text[one.end() :]
    for configuration in configurations:
        if configuration.letter:
            for one in re.finditer(rf"(?i:{_SEAL}){configuration.letter}(?![\w'])", text):
                found.append((one.start(), configuration.key))
    return text, sorted(found)


def _spelled(part: str) -> str:
    """A part of a label as people write it: "28 W" is also "28-watt"."""
    return r"(?:W|[Ww]atts?)" if part == "W" else re.escape(part)


def _sides(mentions: Sequence[tuple[int, int]]) -> tuple[int | None, int | None]:
    """Which configuration a clause is about, and against which: the one named first, and the next one."""
    keys = list(dict.fromkeys(key for _, key in mentions))
    own = keys[0] if keys else None
    base = keys[1] if len(keys) > 1 else None
    return own, base


def _tests(text: str, facts: Facts) -> tuple[str, tuple[int, ...]]:
    """The tests that are named, by workload or by words of their settings, and the text without their names."""
    by_name = {one.name for one in facts.tests if _names(text, one.name)}
    by_setting = {
        one.key
        for one in facts.tests
        for words in one.settings
        if len(words) >= _TELLING and not speech.RESOLUTION.fullmatch(words) and _names(text, words)
    }
    named = [one for one in facts.tests if one.name in by_name] or [one for one in facts.tests if one.key in by_setting]
    narrowed = [one for one in named if one.key in by_setting]
    for words in [*by_name, *(words for one in facts.tests for words in one.settings)]:
        text = re.sub(rf"(?<!\w){re.escape(words)}(?!\w)", _blank, text, flags=re.I)
    return text, tuple(one.key for one in narrowed or named)


def _names(text: str, words: str) -> bool:
    return bool(words) and re.search(rf"(?<!\w){re.escape(words)}(?!\w)", text, re.I) is not None


def _elsewhere(text: str, facts: Facts) -> list[Note]:
    own = {one.label for one in facts.configurations} | {one.system for one in facts.configurations}
    return [note("claim_elsewhere", name=name) for name in sorted(facts.elsewhere - own) if _names(text, name)]


def _resolutions(text: str, facts: Facts) -> list[Note]:
    measured = {words.lower() for one in facts.tests for words in one.settings}
    named = dict.fromkeys(found[0] for found in speech.RESOLUTION.finditer(text))
    return [
        note("claim_resolution", resolution=one) for one in named if not any(one.lower() in words for words in measured)
    ]


def _whole_scope(found: re.Match[str], facts: Facts) -> bool:
    """Whether "in all four tests" speaks of the tests that were measured."""
    count = found["count"]
    if count is None:
        return True
    number = int(count) if count.isdigit() else speech.COUNTS[count.lower()]
    return number <= len(facts.tests)


def _quantities(text: str, facts: Facts, marks: Sequence[int]) -> tuple[tuple[Quantity, ...], list[Note]]:
    """Numbers with units that are figures, and those that are levels which nobody measured.

    A number that a named finding tells is a figure, whatever its unit.
    """
    told = [one for mark in marks if mark in facts.numbers for one in quantities_of(_said_by(facts.numbers[mark]))]
    levels = {level.unit: level for level in facts.levels}
    figures, beyond = [], []
    for one in quantities_of(text):
        level = levels.get(one.unit)
        around = text[max(0, one.at - 30) : one.at] + " " + text[one.end : one.end + 22]
        known = any(other.unit == one.unit and abs(other.value - one.value) <= one.spare for other in told)
        if level is None or known or (one.unit == "W" and speech.DRAWN.search(around)):
            figures.append(one)
        elif not any(abs(one.value - value) < 1e-9 for value in level.values):
            beyond.append(
                note("claim_level", value=one.value, unit=one.unit, name=level.name, least=min(level.values),
                     most=max(level.values))
            )  # fmt: skip
    return tuple(figures), beyond


def _said_by(found: Found) -> str:
    return " · ".join((found.sentence, found.told, *found.texts))


def _directions(text: str, amounts: Sequence[Amount], quantities: Sequence[Quantity]) -> tuple[Said, ...]:
    bounds = [*(one.at for one in amounts), *(one.at for one in quantities)]
    many = any(isinstance(one, Amount) and one.kind == "times" for one in amounts)
    levels = [] if many else [found.span() for found in speech.LEVEL.finditer(text)]
    found = []
    for word in _WORD.finditer(text):
        direction = speech.DIRECTIONS.get(word[0].lower())
        if direction is None or any(start <= word.start() < end for start, end in levels):
            continue
        before, after = text[max(0, word.start() - _REACH) : word.start()], text[word.end() :]
        if word[0].lower() in ("more", "less") and (
            re.match(r"\s+(?:than\s+(?:an?\b|half|twice|\d)|evenly|even)", after) or word.start() in bounds
        ):
            continue
        if word[0].lower() in _MEASURES and not (_counted(before) or _measured(after)):
            continue
        if word[0].lower() in ("costs", "cost") and re.match(r"\s+(?:\w+\s+)?[\d.,]+\s*(?:€|euro|EUR)", after):
            continue
        if word[0].lower() == "longer" and re.search(r"\bno\s+$", before):
            continue
        if word[0].lower() == "fast" and not re.search(r"\bas\s+$", before):
            continue
        found.append(Said(word.start(), word[0].lower(), direction, bool(speech.NOT.search(before))))
    return tuple(found)


def _telling(
    said: tuple[Said, ...],
    amounts: Sequence[Amount],
    quantities: Sequence[Quantity],
    role: str,
    base: int | None,
) -> tuple[Said, ...]:
    """Words such as "lower" say nothing by themselves: of what, by how much or than what must be told."""
    if amounts or quantities or role or base is not None:
        return said
    return tuple(one for one in said if one.direction.way == "better" or one.direction.role)


def _counted(before: str) -> bool:
    """Whether an amount stands right before a word: "9 % less", "a fifth more"."""
    return bool(re.search(r"(?:%|\d|th|third|half|quarter|dB|°C|W|fps)\s+$", before))


def _measured(after: str) -> bool:
    """Whether what follows says of what there is more or less, or than what; "more money" is no figure of ours."""
    following = after.lstrip()
    if not following or not following[0].isalpha() or following.startswith("than"):
        return True
    return any(words.match(following) for words in speech.ROLES.values())


def _role(text: str) -> str:
    return next((role for role, words in speech.ROLES.items() if words.search(text)), "")


def _enough(text: str) -> bool | None:
    found = speech.ENOUGH.search(text)
    if not found:
        return None
    denied = bool(speech.NOT_ENOUGH.fullmatch(found[0])) or bool(
        speech.NOT.search(text[max(0, found.start() - _REACH) : found.start()])
    )
    return not denied
