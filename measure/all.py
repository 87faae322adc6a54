#!/usr/bin/env python3
"""Every measurement of speed, one after the other, into one table: docs/speed.md.

Run it beside ./start: some of them ask the demo. Each prints its figures beside a reference of the same run; what it
printed stands in the file as it was, with how busy the machine was when it began and how long a sort of a million
numbers took just before. A measurement that fails, or whose figures are not as wanted, is named and the others go on.
"""

import argparse
import os
import platform
import subprocess
import sys
import time
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

import numpy as np

PROJECT = Path(__file__).resolve().parents[1]
# What is measured, by the script and its options.
_MEASURED = {
    "Figures of a series": ["figures.py"],
    "Findings of the demo and of a full review": ["findings.py"],
    "Verdicts and records": ["verdicts.py"],
    "A full plan": ["planning.py"],
    "Answers that screens are made of, with a full review": ["screens.py", "--full"],
    "The first page, and lenses in a browser": ["pages.py"],
    "A cell with long passes": ["cell.py"],
    "Zooming and panning a million frames": ["panning.py"],
    "A log of a million frames": ["import_frames.py", "--repeats", "3"],
    "A pass of a million frames, and a log": ["uploads.py"],
    "From a sample to its picture": ["live.py"],
    "Sampling on a machine": ["sampling.py"],
    "Many who watch, many benches": ["crowd.py"],
    "Standings of a large team": ["standings.py"],
    "Lists and screens of a large team": ["large.py"],
    "A cluster of databases, of which one is killed": ["cluster.py"],
}


@dataclass(frozen=True)
class Ran:
    """What a measurement printed, with its status and what the machine was like."""

    title: str
    command: list[str]
    output: str
    status: int
    took_s: float
    load: float
    sort_ms: float


def run(title: str, command: list[str]) -> Ran:
    """Run one of them to its end."""
    numbers = np.random.default_rng(1).normal(size=1_000_000)
    began = time.monotonic()
    np.sort(numbers)
    sort_ms, load = 1000 * (time.monotonic() - began), os.getloadavg()[0]
    began = time.monotonic()
    done = subprocess.run(
        [sys.executable, str(PROJECT / "measure" / command[0]), *command[1:]],
        cwd=PROJECT, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, check=False,
    )  # fmt: skip
    return Ran(title, command, done.stdout.rstrip(), done.returncode, time.monotonic() - began, load, sort_ms)


def page(ran: list[Ran]) -> str:
    """All of them as a page."""
    lines = [
        "# Speed, as it was measured last",
        "",
        f"Made by `measure/all.py` on {datetime.now(UTC):%d.%m.%Y}: {os.cpu_count()} processors, "
        f"Python {platform.python_version()}. A time means little by itself: read it beside the reference of its run. "
        "*Load* is how many programs wanted a processor when a measurement began, *sort* how long a million numbers "
        "took just before; where it is long, the machine was slow. A status other than 0 says that something failed or "
        "is not as its script wants it.",
        "",
        "| what | script | load | sort | status |",
        "|---|---|---|---|---|",
    ]
    for one in ran:
        lines.append(
            f"| {one.title} | `{' '.join(one.command)}` | {one.load:.1f} | {one.sort_ms:.0f} ms | {one.status} |"
        )
    if left := [title for title in _MEASURED if title not in {one.title for one in ran}]:
        lines += ["", f"Not measured this time: {', '.join(left).lower()}."]
    for one in ran:
        lines += ["", f"## {one.title}", "", f"In {one.took_s:.0f} s:", "", "```", one.output, "```"]
    return "\n".join(lines) + "\n"


def main() -> int:
    """Measure, and write the page; the status is 1 when something is not as wanted."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--only", action="append", help="a script by its name, such as standings; again for more")
    parser.add_argument("--to", type=Path, default=PROJECT / "docs" / "speed.md")
    arguments = parser.parse_args()
    ran = []
    for title, command in _MEASURED.items():
        if arguments.only and command[0].removesuffix(".py") not in arguments.only:
            continue
        print(f"{title} …", flush=True)
        ran.append(run(title, command))
        print(f"{ran[-1].output}\n({ran[-1].took_s:.0f} s, status {ran[-1].status})\n", flush=True)
        arguments.to.write_text(page(ran))
    return int(any(one.status for one in ran))


if __name__ == "__main__":
    raise SystemExit(main())
