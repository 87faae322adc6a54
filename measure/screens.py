#!/usr/bin/env python3
"""Answer times of the addresses that screens are made of, in a running demo, each as a ratio to /health.

With --full, a review of 20 configurations × 60 tests × 5 passes is first made in the database of that demo.
Wanted: 200 ms on the demo, one second on the full review.
"""

import argparse
import os
import statistics
import sys
import time
from pathlib import Path

import httpx

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "scripts"))
from signed_in import session_of

PROJECT = Path(__file__).resolve().parents[1]
KEY = "measure-full"


def make_full_review(database_port: int) -> None:
    """6,000 passes with the figures of a frame series; no captures, since no list reads them."""
    os.environ.setdefault("NOMOTHET_DATABASE_PORT", str(database_port))
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "nomothet.server.settings")
    import django

    django.setup()
    import numpy as np
    from django.utils import timezone

    from nomothet.core.frames import frame_figures
    from nomothet.formats.words import METHOD_VERSION, frame_values
    from nomothet.server.analysis.computing import rules_of
    from nomothet.server.analysis.models import Analysis
    from nomothet.server.passes.models import Figure, Pass
    from nomothet.server.people.models import User
    from nomothet.server.reviews.models import Column, Review, Test
    from nomothet.server.systems.models import Configuration, System
    from nomothet.server.workloads.models import Workload

    if Review.objects.filter(key=KEY).exists():
        return
    editor = User.objects.get(username="mirela")
    system = System.objects.get(key="wren")
    workload = Workload.objects.get(key="reef-walk")
    review = Review.objects.create(key=KEY, question="Is a full review still quick?", editor=editor, position=99)
    columns = []
    for at in range(20):
        configuration = Configuration.objects.create(
            system=system, name=f"{KEY} {at}", settings={"power_limit_w": 10 + at}
        )
        columns.append(
            Column.objects.create(
                review=review, position=at, configuration=configuration, label=f"{10 + at} W", is_baseline=at == 0
            )
        )
    rng = np.random.default_rng(1)
    now = timezone.now()
    # What is found in a pass of the demo stands for what is found in each of these.
    example = Analysis.objects.exclude(summary={}).first()
    found = {name: getattr(example, name) for name in ("content", "summary", "fingerprint")} if example else {}
    template = frame_values(frame_figures(rng.normal(10, 0.5, 2000)))
    for row in range(60):
        test = Test.objects.create(
            review=review, position=row, workload=workload, detail=f"scene {row}", shown=["average_fps", "low_1pct"]
        )
        passes = [
            Pass(
                test=test, column=column, number=number, origin="file", outcome="completed", started_at=now,
                duration_s=60, whole_at=now, method_version=METHOD_VERSION,
            )
            for column in columns
            for number in range(1, 6)
        ]  # fmt: skip
        Pass.objects.bulk_create(passes)
        Figure.objects.bulk_create(
            Figure(
                owner=owner, metric=one.metric.key, unit=one.metric.unit, direction=one.metric.direction,
                scale=one.metric.scale, obtained="computed", value=one.value * float(np.exp(rng.normal(0, 0.01))),
                thin=one.thin, method_version=METHOD_VERSION,
            )
            for owner in passes
            for one in template
        )  # fmt: skip
        Analysis.objects.bulk_create(
            Analysis(owner=owner, method_version=METHOD_VERSION, counted_by=rules_of(test), **found) for owner in passes
        )


def median_ms(client: httpx.Client, path: str, repeats: int) -> tuple[float, int]:
    times = []
    size = 0
    for _ in range(repeats):
        began = time.perf_counter()
        answer = client.get(path)
        times.append(1000 * (time.perf_counter() - began))
        answer.raise_for_status()
        size = len(answer.content)
    return statistics.median(times), size


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--port", type=int, default=8420)
    parser.add_argument("--database-port", type=int, default=8421)
    parser.add_argument("--full", action="store_true")
    parser.add_argument("--repeats", type=int, default=7)
    arguments = parser.parse_args()
    if arguments.full:
        make_full_review(arguments.database_port)
    address = f"http://127.0.0.1:{arguments.port}"
    with httpx.Client(base_url=address, timeout=60, cookies=session_of("mirela")) as client:
        wanted = KEY if arguments.full else "dome-power"
        review = next(r for r in client.get("/api/reviews").json() if r["key"] == wanted)["id"]
        plan = client.get(f"/api/reviews/{review}").json()
        cell = f"/api/reviews/{review}/tests/{plan['tests'][0]['id']}/columns/{plan['columns'][0]['id']}"
        paths = ["/health", "/api/reviews", f"/api/reviews/{review}", f"/api/reviews/{review}/matrix",
                 f"/api/reviews/{review}/docket", cell, f"/api/reviews/{review}/completeness",
                 f"/api/reviews/{review}/figures.csv"]  # fmt: skip
        system = plan["columns"][0]["system_id"]
        paths += [f"/api/reviews/{review}/plan", "/api/parts", "/api/workloads", "/api/systems",
                  f"/api/systems/{system}", f"/api/systems/{system}/docket"]  # fmt: skip
        if not arguments.full:
            first = client.get(cell).json()["passes"][0]["id"]
            paths += [f"/api/passes/{first}/trace", f"/api/passes/{first}/distribution"]
        least, _ = median_ms(client, "/health", arguments.repeats)
        for path in paths:
            took, size = median_ms(client, path, arguments.repeats)
            print(f"{path[:70]:<72} {took:7.1f} ms   {took / least:6.1f} × health   {size / 1000:8.1f} kB")


if __name__ == "__main__":
    main()
