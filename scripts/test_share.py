#!/usr/bin/env python3
"""How much of the hand-written code is tests, by part; fails when all of it falls under the share asked for.

Lines that say something are counted: no blank ones, no migrations, no generated API types.
"""

import sys
from pathlib import Path

PROJECT = Path(__file__).resolve().parents[1]
LEAST_PCT = 24.0
# Part, its code, its tests.
PARTS = (
    ("core", ["src/nomothet/core"], ["tests/core"]),
    ("words", ["src/nomothet/words"], ["tests/words"]),
    ("formats, cli", ["src/nomothet/formats", "src/nomothet/cli"], ["tests/formats", "tests/cli"]),
    ("bench", ["src/nomothet/bench"], ["tests/bench"]),
    ("server", ["src/nomothet/server"], ["tests/server", "tests/launch"]),
    ("web", ["web/src"], ["web/tests", "tests/web", "tests/browser"]),
    ("all of it", ["src", "web/src", "scripts", "measure"], ["tests", "web/tests"]),
)
_ENDINGS = (".py", ".ts", ".tsx", ".css", ".sh")


def lines_in(folder: Path) -> int:
    """Lines of the hand-written files under a folder that are not blank."""
    return sum(
        sum(bool(line.strip()) for line in file.read_text(encoding="utf-8").splitlines())
        for file in folder.rglob("*")
        if file.suffix in _ENDINGS and not is_generated(file)
    )


def is_generated(file: Path) -> bool:
    """Whether nobody wrote a file by hand."""
    return "migrations" in file.parts or "node_modules" in file.parts or file.match("web/src/api/types.ts")


def main() -> int:
    """Print a line for each part; 1 when the whole is under the least share."""
    share = 0.0
    for name, code, tests in PARTS:
        of_code = sum(lines_in(PROJECT / one) for one in code)
        of_tests = sum(lines_in(PROJECT / one) for one in tests)
        share = 100 * of_tests / (of_code + of_tests)
        print(f"{name:14} {of_tests:6} of {of_code + of_tests:6} lines are tests: {share:4.1f} %")
    if share < LEAST_PCT:
        print(f"Under {LEAST_PCT:g} % of the code are tests.")
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
