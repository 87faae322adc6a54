#!/usr/bin/env python3
"""Twenty simulated benches at once on one server, each playing passes of 300 s in all at the pace of life.

Counted: samples that the benches took, and those that the server holds. Wanted: not one lost. Printed beside it: how
long the server took for a report of progress, as a ratio to a bare answer in the same run.
"""

import argparse
import statistics
import subprocess
import sys
import time

import httpx
from private import PROJECT, private_server

_MAKE = """
from nomothet.server.docket.commands import ask_for_passes
from nomothet.server.people.models import User
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.systems.commands import issue_demo_token
from nomothet.server.systems.models import Configuration, System
from nomothet.server.workloads.models import Workload
editor = User.objects.create_user("editor", password="orchard-lantern-weir-73", role="editor")
review = Review.objects.create(key="many", question="Are twenty benches too many?", editor=editor)
tests = []
for at, key in enumerate(("dome-atlas", "reef-walk")):
    workload = Workload.objects.create(key=key, name=key, version="1", kind="scene", runner="simulated")
    tests.append(Test.objects.create(review=review, position=at, workload=workload, shown=["average_fps"]))
for at in range({benches}):
    system = System.objects.create(key=f"bench-{{at}}", name=f"Bench {{at}}", simulated=True, changes_by="bench")
    settings = {{"graphics_memory_gb": 4, "power_limit_w": 28}}
    made = Configuration.objects.create(system=system, name=f"as it is {{at}}", settings=settings)
    column = Column.objects.create(review=review, position=at, configuration=made, label=str(at), is_baseline=at == 0)
    ask_for_passes(editor, review, [tests[0].pk], [column.pk], {long})
    ask_for_passes(editor, review, [tests[1].pk], [column.pk], {short})
    print(issue_demo_token(system))
"""
_READ = """
from nomothet.formats.series import unpack
from nomothet.server.feed.models import Change
from nomothet.server.passes.models import Pass
held = due = 0
for owner in Pass.objects.exclude(whole_at=None):
    for series in owner.series.filter(kind="sensor"):
        held += len(unpack(bytes(series.blob))["t_s"])
        due += round(owner.duration_s * {rate})
print(Pass.objects.exclude(whole_at=None).count(), held, due, Change.objects.filter(kind="progress").count())
"""
# Samples a second, of which the model's step of a tenth of a second can give every second or fifth one.
RATE_HZ = 5


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--benches", type=int, default=20)
    parser.add_argument("--long", type=int, default=2, help="passes of 120 s for each bench")
    parser.add_argument("--short", type=int, default=1, help="passes of 60 s for each bench")
    arguments = parser.parse_args()
    with private_server() as private:
        wanted = vars(arguments)
        tokens = private.script(_MAKE.format(**wanted)).split()
        began = time.monotonic()
        benches = [
            subprocess.Popen(
                [
                    sys.executable, "-m", "nomothet.cli.main", "bench", "--server", private.address, "--until-idle",
                    "--spool", str(private.var / f"spool-{at}"), "--rate", str(RATE_HZ), "--speed", "1",
                    "--simulate", str(PROJECT / "demo" / "simulated" / "wren.toml"),
                ],
                env={**private.environment, "NOMOTHET_BENCH_TOKEN": token},
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
            )
            for at, token in enumerate(tokens)
        ]  # fmt: skip
        bare: list[float] = []
        with httpx.Client(base_url=private.address, timeout=30) as client:
            while any(bench.poll() is None for bench in benches):
                at = time.perf_counter()
                client.get("/health")
                bare.append(time.perf_counter() - at)
                time.sleep(0.5)
        spent = time.monotonic() - began
        passes, held, due, reports = map(int, private.script(_READ.format(rate=RATE_HZ)).split())
        asked = len(benches) * (arguments.long + arguments.short)
        print(f"{len(benches)} benches for {spent:.0f} s, {passes} passes of {asked}")
        print(f"samples held {held:,}, due {due:,}: {due - held} lost")
        print(f"reports of progress {reports:,}, {reports / spent:.0f} a second")
        middle, slowest = 1000 * statistics.median(bare), 1000 * max(bare)
        print(f"a bare answer meanwhile: median {middle:.1f} ms, slowest {slowest:.0f} ms")
        failed = [bench.returncode for bench in benches if bench.returncode]
        if failed:
            raise SystemExit(f"{len(failed)} benches ended badly")


if __name__ == "__main__":
    main()
