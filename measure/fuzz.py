#!/usr/bin/env python3
"""What people drop, paste, type and write as rules, made at random. Wanted, of 100,000 cases and 10 million bytes: no
failure but the errors that are meant, none longer than 2 s, under 400 MB of memory more than at the start.

Cases are drawn by Hypothesis from grammars that come near to what is meant, and mutated. Each reader is tried by
itself; an error that is not one of ours is a failure and is printed with its case.
"""

import argparse
import io
import resource
import sys
import tempfile
import time
import zipfile
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis import strategies as st

from nomothet.core.errors import MethodError
from nomothet.core.quantities import read_value
from nomothet.core.settings import own_key, read_setting, setting_of
from nomothet.formats.archives import BROKEN
from nomothet.formats.column_maps import ColumnMap
from nomothet.formats.column_proposals import look_at
from nomothet.formats.errors import FormatError
from nomothet.formats.frame_table import read_frame_table
from nomothet.formats.pasted.blocks import read_blocks
from nomothet.formats.pasted.labels import Labels, Name
from nomothet.formats.reading_rules import Rule, apply_rule, check_rule, number_in
from nomothet.formats.record_packages import about_package
from nomothet.formats.recordings import read_recording
from nomothet.formats.series import unpack

MEANT = (FormatError, MethodError, *BROKEN)
LONGEST_S, MOST_BYTES = 2.0, 400e6
_NUMBERS = st.one_of(
    st.integers(-(10**9), 10**9).map(str),
    st.floats(allow_nan=True, allow_infinity=True).map(str),
    st.sampled_from(
        ["", "-", "1,5", "1 234.5", "1e999", "∞", "0x1F", "12:30:01.5", "2026-05-04T10:00:00Z", "NaN", "١٢"]
    ),
)
_WORDS = st.one_of(
    st.sampled_from("frame_ms time t_s clock [MHz] fps Power (W) temperature °C x ; = @ μs".split(" ")),
    st.text(max_size=8),
)
_CELLS = st.one_of(_NUMBERS, _WORDS, st.text(max_size=12))


@st.composite
def tables(draw: st.DrawFn) -> bytes:
    """Delimited text, more or less; sometimes with bytes of another encoding, or none at all."""
    if draw(st.integers(0, 9)) == 0:
        return draw(st.binary(max_size=400))
    delimiter = draw(st.sampled_from([",", ";", "\t", " ", "|"]))
    columns = draw(st.integers(1, 6))
    rows = [delimiter.join(draw(st.lists(_WORDS, min_size=columns, max_size=columns)))]
    row = draw(st.lists(_CELLS, min_size=1, max_size=columns + 1))
    rows += [delimiter.join(row)] * draw(st.integers(0, 40))
    rows += [
        delimiter.join(draw(st.lists(_NUMBERS, min_size=1, max_size=columns))) for _ in range(draw(st.integers(0, 6)))
    ]
    text = draw(st.sampled_from(["\n", "\r\n", "\r"])).join(rows)
    encoded = text.encode(draw(st.sampled_from(["utf-8", "utf-16", "utf-8-sig"])), errors="surrogatepass")
    cut = draw(st.integers(0, len(encoded)))
    return encoded[:cut] if draw(st.booleans()) else encoded


@st.composite
def series(draw: st.DrawFn) -> bytes:
    """Bytes that begin as a series does."""
    return b"NMS1" + draw(st.binary(max_size=300))


_MEMBERS = st.sampled_from(["datapackage.json", "record.json", "../x", "a/b", "ä"])
_CONTENTS = st.one_of(st.binary(max_size=200), st.sampled_from([b"{}", b"[]", b'{"a":1e999}', b'{"record_format": 7}']))


@st.composite
def packages(draw: st.DrawFn) -> bytes:
    """A ZIP archive with odd content, sometimes damaged."""
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as archive:
        for name in draw(
            st.lists(st.sampled_from(["datapackage.json", "record.json", "../x", "a/b", "ä"]), max_size=3)
        ):
            archive.writestr(
                name, draw(st.one_of(st.binary(max_size=200), st.sampled_from([b"{}", b"[]", b'{"a":1e999}'])))
            )
    content = bytearray(held.getvalue())
    for _ in range(draw(st.integers(0, 4))):
        content[draw(st.integers(0, len(content) - 1))] = draw(st.integers(0, 255))
    return bytes(content)


_PARTS = ["$", "..", "*", "[?", "]", "@.a", "[0:9:2]", "match(", "search(", "(a+)+", "{9,99}"]
_EXPRESSIONS = st.one_of(
    st.text("ab(?P<m>\\d+)[]{},*+.|^$\\w$@?!'\"=&:- 0123456789", max_size=40),
    st.lists(st.sampled_from(_PARTS), max_size=9).map("".join),
)
_SAMPLES = st.one_of(
    st.text(max_size=200),
    st.recursive(st.integers(), lambda inner: st.lists(inner, max_size=3), max_leaves=20).map(str),
    st.sampled_from(["[" * 3000, '{"a":' * 900, "a" * 5000, '{"a": [1, 2, {"b": "x"}]}']),
)
_KEYS = st.sampled_from(
    ["memory_mts", "power_limit_w", "fan_profile", "resolution", "own.system.system.Mode", "nothing"]
)
_LISTS = st.lists(st.integers(), max_size=3)
_GIVEN = st.one_of(st.none(), st.booleans(), st.integers(), st.floats(), st.text(max_size=20), _LISTS)
_LABELS = Labels([Name("metric", "average_fps", ("average", "avg fps")), Name("column", 1, ("35 W",))])


def dropped(content: bytes, folder: Path) -> None:
    """A file of a recorder, looked at and read as it is proposed; then as frame times."""
    path = folder / "dropped"
    path.write_bytes(content)
    try:
        _, seen = look_at(path)
        read_recording(path, ColumnMap([one.use for one in seen]))
    except MEANT:
        pass
    read_frame_table(path)


def ruled(kind: Any, expression: str, sample: str) -> None:
    """A reading rule that somebody writes, and what it reads."""
    rule = Rule(kind, expression, "m")
    check_rule(rule)
    apply_rule(rule, sample)


def typed(key: str, given: Any) -> None:
    """A value of a setting, and a key of the team's own."""
    read_setting(key, given)
    read_value(setting_of(key).spec, given)
    own_key(str(given), "system", "system")


def packed(content: bytes) -> None:
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        about_package(archive, "it", 1 << 30, 1 << 28)


class Tried:
    """How a reader fared."""

    def __init__(self, name: str) -> None:
        self.name = name
        self.cases = self.bytes = self.refused = 0
        self.longest_s = 0.0
        self.failures: Counter[str] = Counter()
        self.first: dict[str, str] = {}

    def call(self, size: int, run: Callable[[], None], case: object) -> None:
        self.cases += 1
        self.bytes += size
        # Of the processor: a busy machine is no fault of the reader.
        began = time.process_time()
        try:
            run()
        except MEANT:
            self.refused += 1
        except Exception as error:
            key = f"{type(error).__name__}: {str(error)[:80]}"
            self.failures[key] += 1
            self.first.setdefault(key, repr(case)[:300])
        took = time.process_time() - began
        self.longest_s = max(self.longest_s, took)
        if took > LONGEST_S:
            self.failures[f"took {took:.1f} s"] += 1
            self.first.setdefault(f"took {took:.1f} s", repr(case)[:300])


def main() -> int:
    """Try every reader; the status is 1 when something is not as wanted."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--cases", type=int, default=100_000, help="of all readers together")
    parser.add_argument("--seed", type=int, default=1)
    arguments = parser.parse_args()
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        readers: dict[str, tuple[st.SearchStrategy[Any], Callable[[Any], tuple[int, Callable[[], None]]]]] = {
            "dropped files": (tables(), lambda case: (len(case), lambda: dropped(case, folder))),
            "series": (series(), lambda case: (len(case), lambda: unpack(case))),
            "packages": (packages(), lambda case: (len(case), lambda: packed(case))),
            "reading rules": (
                st.tuples(st.sampled_from(["text", "json", "table"]), _EXPRESSIONS, _SAMPLES),
                lambda case: (len(case[1]) + len(case[2]), lambda: ruled(*case)),
            ),
            "typed numbers": (_CELLS, lambda case: (len(case), lambda: number_in(case))),
            "pasted tables": (
                tables().map(lambda content: content.decode("utf-8", errors="replace")),
                lambda case: (len(case), lambda: read_blocks(case, _LABELS)),
            ),
            "settings": (st.tuples(_KEYS, _GIVEN), lambda case: (len(repr(case)), lambda: typed(*case))),
        }
        each = arguments.cases // len(readers) + 1
        results = [tried(name, *reader, each, arguments.seed) for name, reader in readers.items()]
    more = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024 - before
    bad = more > MOST_BYTES
    for one in results:
        bad = bad or bool(one.failures)
        print(f"{one.name:<16} {one.cases:>7} cases {one.bytes:>10} bytes {one.refused:>7} refused, "
              f"longest {one.longest_s:.2f} s, {one.failures.total()} failures")  # fmt: skip
        for key, count in one.failures.most_common(5):
            print(f"  {count} × {key}: {one.first[key]}")
    cases, size = sum(one.cases for one in results), sum(one.bytes for one in results)
    print(f"{cases} cases, {size / 1e6:.1f} MB; {more / 1e6:.0f} MB of memory more than at the start")
    return 1 if bad else 0


def tried(name: str, cases: Any, prepared: Any, count: int, number: int) -> Tried:
    """Draw cases for a reader and count how it fares."""
    found = Tried(name)

    @seed(number)
    @settings(
        max_examples=count,
        deadline=None,
        database=None,
        phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )
    @given(cases)
    def one(case: Any) -> None:
        size, run = prepared(case)
        found.call(size, run, case)

    one()
    return found


if __name__ == "__main__":
    sys.exit(main())
