#!/usr/bin/env python3
"""A large team: 1,000 reviews, 2,000 configurations and 100,000 passes of a year. What every list, search, standing and
a start take on it, beside the same at a quarter of the size, so that it can be seen what grows faster than what is
shown. Wanted: an answer within 200 ms, and one that shows no more takes no more than 1.5 times as long.

Both columns of an answer are the median of five; the first look stands beside them.
"""

import argparse
import json
import statistics
import subprocess
import sys
import time
from dataclasses import dataclass

import httpx
import numpy as np
import psutil
from private import PROJECT, Private, private_server

WANTED_S = 0.2
_GROWS = 1.5
_TIMES = 5
_MAKE = """
import json, sys, time
from django.conf import settings
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.records.models import Record
from nomothet.server.standings.keeping import keep, stale_tests
from nomothet.server.passes.models import Pass
from nomothet.server.systems.models import Configuration, System
from tests.server.base import Browser
from tests.server.large_team import Size, grow, team
made = team(Size())
for line in sys.stdin:
    began = time.monotonic()
    grow(made, int(line))
    grown = time.monotonic()
    wanted = list(stale_tests().values_list("pk", flat=True))
    for at in range(0, len(wanted), 100):
        keep(wanted[at:at + 100])
    kept = time.monotonic()
    review = Review.objects.get(key="review-1")
    print("DONE " + json.dumps({
        "grown_s": grown - began, "kept_s": kept - grown, "tests_kept": len(wanted), "passes": Pass.objects.count(),
        "reviews": Review.objects.count(), "configurations": Configuration.objects.count(),
        "session": Browser("admin").client.cookies[settings.SESSION_COOKIE_NAME].value, "review": review.pk,
        "test": review.tests.first().pk, "column": review.columns.first().pk, "slug": review.records.first().slug,
        "system": System.objects.get(key="machine-1").pk,
    }), flush=True)
"""
# Everything that a screen asks for at once, as an admin.
_ASKED = (
    "/health",
    "/api/session",
    "/api/reviews",
    "/api/systems",
    "/api/workloads",
    "/api/workloads/fitness",
    "/api/parts",
    "/api/settings",
    "/api/benches",
    "/api/messages",
    "/api/follow-ups",
    "/api/inbox",
    "/api/people",
    "/api/security-log",
    "/api/installation",
    "/api/standings",
    "/api/standings/walk-1",
    "/api/standings/walk-1/over-time",
    "/api/test-sets",
    "/api/find?words=machine+17",
    "/api/find?words=does+change+5",
    "/api/systems/{system}",
    "/api/systems/{system}/docket",
    "/api/systems/{system}/log",
    "/api/systems/{system}/book",
    "/api/reviews/{review}",
    "/api/reviews/{review}/plan",
    "/api/reviews/{review}/matrix",
    "/api/reviews/{review}/docket",
    "/api/reviews/{review}/findings",
    "/api/reviews/{review}/verdict",
    "/api/reviews/{review}/talk",
    "/api/reviews/{review}/measured-before",
    "/api/reviews/{review}/reference-offers",
    "/api/history/review/{review}",
    "/records/feed.atom",
    "/records/{slug}",
)


@dataclass(frozen=True)
class Answer:
    """How long one takes, the first time and in the middle of the others, and how much it says."""

    first_s: float
    again_s: float
    size: int
    rows: int


def ask(client: httpx.Client, path: str) -> Answer:
    """One path, several times."""
    took = []
    for _ in range(_TIMES):
        began = time.monotonic()
        answer = client.get(path)
        took.append(time.monotonic() - began)
        if answer.status_code != 200:
            raise SystemExit(f"{path} was answered {answer.status_code}: {answer.text[:300]}")
    return Answer(took[0], statistics.median(took[1:]), len(answer.content), _rows(answer))


def _rows(answer: httpx.Response) -> int:
    """The longest list in what was answered."""
    if "json" not in answer.headers.get("content-type", ""):
        return 0
    said = answer.json()
    lists = [said] if isinstance(said, list) else [value for value in said.values() if isinstance(value, list)]
    return max(map(len, lists), default=0)


def look(private: Private, told: dict[str, object]) -> dict[str, Answer]:
    """Everything, as an admin."""
    cookies = {"sessionid": str(told["session"])}
    with httpx.Client(base_url=private.address, cookies=cookies, timeout=120) as client:
        return {path: ask(client, path.format(**told)) for path in _ASKED}


def main() -> int:
    """Make the team in two steps and ask after each; the status is 1 when something is not as wanted."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--reviews", type=int, default=1000)
    arguments = parser.parse_args()
    numbers = np.random.default_rng(1).normal(size=1_000_000)
    looks = []
    with private_server() as private:
        making = subprocess.Popen(
            [sys.executable, "-c", f"import django; django.setup()\n{_MAKE}"], env=private.environment, cwd=PROJECT,
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
        )  # fmt: skip
        assert making.stdin is not None
        assert making.stdout is not None
        for reviews in (arguments.reviews // 4, arguments.reviews):
            print(reviews, file=making.stdin, flush=True)
            line = next((line for line in making.stdout if line.startswith("DONE ")), "")
            if not line:
                raise SystemExit("the team could not be made")
            told = json.loads(line.removeprefix("DONE "))
            began = time.monotonic()
            np.sort(numbers)
            print(
                f"{told['reviews']} reviews, {told['configurations']} configurations, {told['passes']} passes: made in "
                f"{told['grown_s']:.0f} s; {told['tests_kept']} tests kept for standings in {told['kept_s']:.0f} s; "
                f"a sort of a million numbers {1000 * (time.monotonic() - began):.0f} ms",
                flush=True,
            )
            looks.append(look(private, told))
            used = sum(psutil.Process(pid).memory_info().rss for pid in private.pids) / 2**20
            print(f"the server has {used:.0f} MiB", flush=True)
        making.stdin.close()
        making.wait()
    return _table(*looks)


def _table(quarter: dict[str, Answer], whole: dict[str, Answer]) -> int:
    slow = 0
    print(f"\n{'':46}      a quarter         whole            shows")
    for path, now in whole.items():
        then = quarter[path]
        shown = max(now.size / max(then.size, 1), 1.0)
        bad = [word for word, holds in (
            ("SLOW", now.again_s > WANTED_S), ("GROWS", now.again_s > _GROWS * shown * max(then.again_s, 0.02)),
        ) if holds]  # fmt: skip
        slow += bool(bad)
        print(
            f"{path:46} {then.first_s:6.3f} {then.again_s:6.3f} s  {now.first_s:6.3f} {now.again_s:6.3f} s  "
            f"{now.size / 1024:6.0f} KiB (x {shown:3.1f}), {now.rows:5} rows  {' '.join(bad)}"
        )
    return 1 if slow else 0


if __name__ == "__main__":
    sys.exit(main())
