"""JSONPath (RFC 9535) whose work grows no faster than the document: it comes from people, and runs on the server.

The expressions of `match` and `search` are run by RE2. Beyond the standard's grammar, a path may descend (`..`) once,
a filter holds no filter and asks the root for single values only, and its lists of selectors are short. What these
rules leave takes linear time.
"""

from collections.abc import Iterator
from functools import lru_cache
from typing import Any

import re2
from jsonpath import JSONPathEnvironment, JSONPathError
from jsonpath.filter import BaseExpression, FilterQuery, RootFilterQuery
from jsonpath.function_extensions import ExpressionType, FilterFunction
from jsonpath.path import JSONPath
from jsonpath.segments import JSONPathRecursiveDescentSegment
from jsonpath.selectors import Filter, IndexSelector, NameSelector

LONGEST = 1000
# How often a path may name the same place: the product of its lists of selectors.
_MOST_REPEATED = 64


class BadPath(ValueError):
    """A path that cannot be used; says why."""


class _ByRe2(FilterFunction):
    """`match` and `search` of the standard; an expression that is none of RE2 matches nothing (section 2.4.6)."""

    arg_types = [ExpressionType.VALUE, ExpressionType.VALUE]
    return_type = ExpressionType.LOGICAL

    def __init__(self, whole: bool) -> None:
        self._whole = whole

    def __call__(self, value: object, pattern: object) -> bool:
        if not isinstance(value, str) or not isinstance(pattern, str):
            return False
        compiled = _expression(pattern)
        if compiled is None:
            return False
        return bool(compiled.fullmatch(value) if self._whole else compiled.search(value))


@lru_cache(maxsize=64)
def _expression(pattern: str) -> Any:
    options = re2.Options()
    options.log_errors = False
    options.max_mem = 8 << 20
    try:
        return re2.compile(pattern, options)
    except re2.error:
        return None


class _Environment(JSONPathEnvironment):
    def setup_function_extensions(self) -> None:
        super().setup_function_extensions()
        self.function_extensions["match"] = _ByRe2(whole=True)
        self.function_extensions["search"] = _ByRe2(whole=False)


_ENVIRONMENT = _Environment(strict=True)


def compile_path(expression: str) -> JSONPath:
    """A path that is safe to follow.

    Raises
    ------
    BadPath
    """
    if len(expression) > LONGEST:
        raise BadPath(f"it is longer than {LONGEST} characters")
    try:
        path = _ENVIRONMENT.compile(expression)
    except (JSONPathError, RecursionError) as error:
        # Its first argument is the reason; as a string it shows the place too, which fails at the end of a path.
        raise BadPath(str(error.args[0]) if isinstance(error, JSONPathError) else "it is nested too deeply") from None
    if not isinstance(path, JSONPath):
        raise BadPath("it is several paths; a rule takes one")
    descents = _look_at(path, in_filter=False)
    if descents > 1:
        raise BadPath("it descends (..) more than once; name the place in between")
    return path


def _look_at(path: JSONPath, *, in_filter: bool) -> int:
    """How often a path descends.

    Raises
    ------
    BadPath
        When it could take longer than the document is large.
    """
    descents, repeated = 0, 1
    for segment in path.segments:
        descents += isinstance(segment, JSONPathRecursiveDescentSegment)
        repeated *= len(segment.selectors)
        for selector in segment.selectors:
            if isinstance(selector, Filter):
                if in_filter:
                    raise BadPath("it has a filter within a filter")
                descents += sum(_of_query(query) for query in _queries(selector.expression))
    if repeated > _MOST_REPEATED:
        raise BadPath(f"it names the same places more than {_MOST_REPEATED} times")
    return descents


def _of_query(query: FilterQuery) -> int:
    single = all(
        len(segment.selectors) == 1
        and isinstance(segment.selectors[0], NameSelector | IndexSelector)
        and not isinstance(segment, JSONPathRecursiveDescentSegment)
        for segment in query.path.segments
    )
    if isinstance(query, RootFilterQuery) and not single:
        raise BadPath("a filter asks the root ($) for more than a single value")
    return _look_at(query.path, in_filter=True)


def _queries(expression: BaseExpression) -> Iterator[FilterQuery]:
    if isinstance(expression, FilterQuery):
        yield expression
        return
    for child in expression.children():
        yield from _queries(child)
