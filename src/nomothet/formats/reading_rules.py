"""Reading rules: how figures are found in what a program has written.

Three kinds: an RE2 expression with named groups over text, a JSONPath (RFC 9535) into JSON, and a column of a CSV table
(RFC 4180). None of them can run code or take exponential time.
"""

import csv
import io
import json
import re
from dataclasses import dataclass
from typing import Any, Literal

import re2
from jsonpath import JSONPathError

from nomothet.formats.errors import FormatError
from nomothet.formats.json_paths import BadPath, compile_path

Kind = Literal["text", "json", "table"]
MOST_SAMPLE = 1_000_000
_OPENING = re.compile(r"^[ \t]*([{\[])", re.M)
_MOST_BEGINNINGS = 200
_MOST_MATCHES = 200
_MOST_READ_IN_VAIN = 3
_NUMBER = re.compile(r"[-+]?\d+(?:[.,]\d+)?(?:[eE][-+]?\d+)?")


@dataclass(frozen=True)
class Rule:
    """One rule. For text, each named group is a metric; otherwise `metric` names it."""

    kind: Kind
    expression: str
    metric: str = ""


@dataclass(frozen=True)
class Match:
    """A figure that a rule has found, with its place in the text as it was given; -1 where it has none."""

    metric: str
    text: str
    value: float | None
    start: int
    end: int


class BadRule(FormatError):
    """A rule that cannot be used; says why and what would do."""


def check_rule(rule: Rule) -> None:
    """Refuse a rule that cannot be used.

    Raises
    ------
    BadRule
    """
    if not rule.expression.strip():
        raise BadRule("The rule is empty; write an expression, a path or the name of a column.")
    if rule.kind == "text":
        groups = list(_compiled(rule.expression).groupindex)
        if not groups:
            raise BadRule(f"{rule.expression!r} names no group; write (?P<metric>…) around what is to be read.")
    elif not rule.metric:
        raise BadRule("Say which metric this rule reads.")
    elif rule.kind == "json":
        _path(rule.expression)


def apply_rule(rule: Rule, sample: str) -> list[Match]:
    """What a rule finds in a sample, at most 200 figures.

    Raises
    ------
    BadRule
        When the rule cannot be used, or the sample is not what the rule reads.
    """
    check_rule(rule)
    if len(sample) > MOST_SAMPLE:
        raise BadRule(f"The sample is longer than {MOST_SAMPLE:,} characters; paste a part of it.")
    find = {"text": _in_text, "json": _in_json, "table": _in_table}[rule.kind]
    return find(rule, sample)[:_MOST_MATCHES]


def number_in(text: str) -> float | None:
    """The number that a text is, with a decimal point or comma; None when it is none."""
    found = _NUMBER.fullmatch(text.strip())
    return float(found[0].replace(",", ".")) if found else None


def _compiled(expression: str) -> Any:
    options = re2.Options()
    options.log_errors = False
    # Patterns are many and sent by people: bounded memory keeps one of them from filling the server.
    options.max_mem = 8 << 20
    try:
        return re2.compile(f"(?m){expression}", options)
    except re2.error as error:
        reason = error.args[0].decode() if isinstance(error.args[0], bytes) else str(error)
        raise BadRule(f"{expression!r} is no expression of RE2: {reason}.") from None


def _in_text(rule: Rule, sample: str) -> list[Match]:
    matches = []
    for found in _compiled(rule.expression).finditer(sample):
        for metric, number in found.re.groupindex.items():
            text = found.group(number)
            if text is not None:
                start, end = found.span(number)
                matches.append(Match(metric, text, number_in(text), start, end))
        if len(matches) >= _MOST_MATCHES:
            break
    return sorted(matches, key=lambda match: match.start)


def _path(expression: str) -> Any:
    try:
        return compile_path(expression)
    except BadPath as error:
        raise BadRule(f"{expression!r} is no JSONPath that can be followed: {error}.") from None


def _in_json(rule: Rule, sample: str) -> list[Match]:
    path = _path(rule.expression)
    document = _document(sample)
    if isinstance(document, str):
        # The library takes a text for JSON that is still to be read.
        raise BadRule("The sample is one text in quotes, and no object or list that a path leads into.")
    matches = []
    try:
        for found in path.finditer(document):
            text = _told(found.value)
            start, end = _place(sample, text)
            matches.append(Match(rule.metric, text, number_in(text), start, end))
            if len(matches) >= _MOST_MATCHES:
                break
    except (JSONPathError, RecursionError) as error:
        raise BadRule(f"{rule.expression!r} cannot be followed: {error}.") from None
    return matches


def _told(value: Any) -> str:
    """A value as text; of what holds others, what it is: to write it out would cost more than to find it."""
    if isinstance(value, dict | list):
        return f"({'object' if isinstance(value, dict) else 'list'} of {len(value)})"
    return value if isinstance(value, str) else json.dumps(value)


def _document(sample: str) -> Any:
    """The JSON of a sample: all of it, or what begins with a bracket at the beginning of a line, after a banner."""
    try:
        return json.loads(sample)
    except (ValueError, RecursionError) as error:
        first = f"The sample is no JSON: {error}."
    decoder = json.JSONDecoder()
    found = None
    # What is read in vain, so that many beginnings of a long text do not cost its length each.
    spare = _MOST_READ_IN_VAIN * len(sample)
    for begin in list(_OPENING.finditer(sample))[:_MOST_BEGINNINGS]:
        if found is not None and begin.start(1) < found[1]:
            continue
        try:
            document, end = decoder.raw_decode(sample, begin.start(1))
        except (ValueError, RecursionError) as error:
            spare -= getattr(error, "pos", len(sample)) - begin.start(1)
            if spare < 0:
                break
            continue
        # The longest is the result; a banner may hold a small object of its own.
        if isinstance(document, dict | list) and (found is None or end - begin.start(1) > found[2]):
            found = (document, end, end - begin.start(1))
    if found is None:
        raise BadRule(first)
    return found[0]


def _place(sample: str, text: str) -> tuple[int, int]:
    """Where a value stands in the sample, when it stands there only once."""
    if sample.count(text) != 1:
        return -1, -1
    start = sample.index(text)
    return start, start + len(text)


def _in_table(rule: Rule, sample: str) -> list[Match]:
    dialect: type[csv.Dialect] | str
    try:
        dialect = csv.Sniffer().sniff(sample[:4096], delimiters=",;\t|")
    except csv.Error:
        dialect = "excel"
    lines = sample.splitlines(keepends=True)
    if not lines:
        raise BadRule("The sample is empty.")
    header = next(csv.reader(io.StringIO(lines[0]), dialect))
    names = [name.strip() for name in header]
    if rule.expression.strip() not in names:
        raise BadRule(f"The table has no column {rule.expression!r}; its columns are {', '.join(names)}.")
    at = names.index(rule.expression.strip())
    matches, offset = [], len(lines[0])
    for line in lines[1:]:
        cells = next(csv.reader(io.StringIO(line), dialect), [])
        if at < len(cells) and cells[at].strip():
            start = _cell_start(line, cells, at)
            text = cells[at].strip()
            found = line.find(text, start)
            place = (offset + found, offset + found + len(text)) if found >= 0 else (-1, -1)
            matches.append(Match(rule.metric, text, number_in(text), *place))
        offset += len(line)
    return matches


def _cell_start(line: str, cells: list[str], at: int) -> int:
    """Where a cell begins at the earliest: after the text of the cells before it."""
    start = 0
    for cell in cells[:at]:
        start = line.find(cell, start) + len(cell)
    return start
