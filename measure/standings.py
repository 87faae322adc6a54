#!/usr/bin/env python3
"""Standings of a large team: 1,000 reviews, 2,000 configurations, 10,000 tests, 200,000 results. Wanted: the list, a
standing and its days within 300 ms each, cold and again; beside them a sort of a million numbers in the same run.

The results are written into the tables as `keeping` would make them; no pass stands behind them.
"""

import argparse
import statistics
import sys
import time

import httpx
import numpy as np
from private import private_server

WANTED_S = 0.3
_PATHS = (
    "/api/standings",
    "/api/standings/w3",
    "/api/standings/w3?words=image+41",
    "/api/standings/w3?offset=400",
    "/api/standings/w3?basis=street&prices=then",
    "/api/standings/w3/over-time",
    "/api/standings/w3/facts",
    "/api/reviews/500/measured-before",
    "/api/reviews/500/references",
    "/api/reviews/500/reference-offers",
    "/api/test-sets/1",
)
_MAKE = """
import random
from datetime import timedelta
from django.conf import settings
from django.utils import timezone
from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.standings.models import KeptTest, LastTold, Result
from nomothet.server.systems.models import Configuration, System
from nomothet.server.workloads.models import Workload
from tests.server.base import Browser, Scene
random.seed(3)
scene = Scene()
now = timezone.now()
systems = System.objects.bulk_create(System(key=f"m{{at}}", name=f"Machine {{at}}") for at in range(100))
configurations = Configuration.objects.bulk_create(
    [Configuration(system=systems[at % 100], name=f"at {{10 + at // 100}} W",
                   settings={{"power_limit_w": 10 + at // 100}}) for at in range({configurations})], batch_size=500)
workloads = Workload.objects.bulk_create(
    Workload(key=f"w{{at}}", name=f"Workload {{at}}", version="1", kind="scene") for at in range(10))
reviews = Review.objects.bulk_create(
    [Review(key=f"r{{at}}", question=f"Question {{at}}?", editor=scene.review.editor) for at in range({reviews})],
    batch_size=500)
columns = Column.objects.bulk_create(
    [Column(review=review, configuration=configurations[(at * 20 + place) % len(configurations)], position=place,
            label=f"at {{place}}", is_baseline=place == 0) for at, review in enumerate(reviews) for place in range(20)],
    batch_size=500)
tests = Test.objects.bulk_create(
    [Test(review=review, workload=workloads[at], position=at, settings={{"size": number % 10}}, detail="1080p",
          shown=["average_fps"]) for number, review in enumerate(reviews) for at in range(10)], batch_size=500)
from nomothet.server.standings import keeping
KeptTest.objects.bulk_create(
    [KeptTest(test=test, stamp=0, review_version=1, workload_edit=1, made_by=keeping._MADE_BY,
              key=workloads[test.position].key, settings=keeping.settings_tag(test.settings), settings_words="1080p",
              leading=20) for test in tests],
    batch_size=1000)
def results():
    for number, test in enumerate(tests):
        at = number // 10
        for column in columns[20 * at : 20 * at + 20]:
            numbers = [random.gauss(60, 1) for _ in range(3)]
            system = (at * 20 + column.position) % len(configurations) % 100
            day = now - timedelta(days=random.uniform(0, 365))
            yield Result(
                review_id=test.review_id, test=test, column=column, configuration_id=column.configuration_id,
                system=systems[system], workload_id=test.workload_id, key=workloads[test.position].key,
                settings=keeping.settings_tag(test.settings), settings_words="1080p", metric="average_fps", leads=True,
                label="average", unit="fps", direction="higher", scale="ratio", n=3, centre=sum(numbers) / 3,
                low=58.0, high=62.0, first_at=day, last_at=day,
                content={{"numbers": numbers, "sessions": ["a", "a", f"b{{at}}"], "spread": 0.0, "held": None,
                    "low_definition": "", "power_source": "", "apart": [], "doubts": []}},
                fingerprint={{"workload": workloads[test.position].key, "version": "1", "setting:size": at % 10,
                    "operating system": f"image {{random.choice([41, 42])}}", "graphics driver": "31.4",
                    "processor": f"processor {{system}}", "graphics": f"card {{system}}", "memory": "32 GB",
                    "power_limit_w": 10 + system, "capture": "frames"}})
batch = []
for one in results():
    batch.append(one)
    if len(batch) == 2000:
        Result.objects.bulk_create(batch); batch = []
Result.objects.bulk_create(batch)
from nomothet.server.standings.models import TestSet
TestSet.objects.create(name="Opening night", by=scene.review.editor, items=[
    {{"workload": workloads[at].pk, "settings": {{"size": 0}}, "metric": "average_fps", "weight": 1.0}}
    for at in range(5)])
print(Result.objects.count(), Browser("reader").client.cookies[settings.SESSION_COOKIE_NAME].value)
"""


def main() -> int:
    """Make the tables and ask; the status is 1 when something takes longer than wanted."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--reviews", type=int, default=1000)
    parser.add_argument("--configurations", type=int, default=2000)
    arguments = parser.parse_args()
    numbers = np.random.default_rng(1).normal(size=1_000_000)
    with private_server() as private:
        made = private.script(_MAKE.format(reviews=arguments.reviews, configurations=arguments.configurations))
        count, session = made.split()[-2:]
        began = time.monotonic()
        np.sort(numbers)
        print(f"{count} results; a sort of a million numbers {time.monotonic() - began:.3f} s")
        slow = 0
        with httpx.Client(base_url=private.address, cookies={"sessionid": session}, timeout=120) as client:
            for path in _PATHS:
                took = []
                for _ in range(5):
                    began = time.monotonic()
                    answer = client.get(path)
                    took.append(time.monotonic() - began)
                    if answer.status_code != 200:
                        raise SystemExit(f"{path} was answered {answer.status_code}: {answer.text[:300]}")
                rows = len(answer.json().get("rows", [])) if isinstance(answer.json(), dict) else len(answer.json())
                slow += statistics.median(took) > WANTED_S
                print(
                    f"{path:<46} first {took[0]:.3f} s, then {statistics.median(took[1:]):.3f} s; "
                    f"{len(answer.content) / 1024:.0f} KiB, {rows} rows"
                )
    return 1 if slow else 0


if __name__ == "__main__":
    sys.exit(main())
