#!/usr/bin/env python3
"""Many who watch and many benches on several server processes. Wanted: no errors, changes seen within half a second in
the median, under 40 connections to the database, under 600 MB in the server's processes; 50 idle viewers under 5 % of a
core, five waiting benches under 1 %.

Viewers follow the live feed as browsers do; benches wait for work as benches do, and one reports progress. The cost is
processor time of the server's processes and of the database, as a share of one core.
"""

import argparse
import asyncio
import json
import statistics
import sys
import time
from collections import Counter
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path

import httpx
import psutil
from private import Private, private_server

_MAKE = """
import json
from django.conf import settings
from nomothet.server.systems.commands import issue_demo_token
from nomothet.server.systems.models import System
from tests.server.base import BenchClient, Browser, Scene
scene = Scene()
systems = [System.objects.create(key="s" + str(at), name="System " + str(at)) for at in range({benches})]
tokens = [issue_demo_token(system) for system in systems]
scene.owe()
_, job = BenchClient(scene.token).take()
sessions = [Browser("reader").client.cookies[settings.SESSION_COOKIE_NAME].value for _ in range({viewers})]
print(json.dumps({{"tokens": tokens, "sessions": sessions, "running": scene.token, "entry": job["entry"]}}))
"""
_CHANGES_S = 0.2


@dataclass
class Seen:
    """What came of it."""

    lags_s: list[float] = field(default_factory=list)
    by_viewer: Counter[str] = field(default_factory=Counter)
    errors: list[str] = field(default_factory=list)
    connections: int = 0
    memory: int = 0


async def view(address: str, session: str, seen: Seen, sent: dict[int, float]) -> None:
    """Follow the feed; every change that tells its number is timed."""
    cookies = {"sessionid": session}
    async with httpx.AsyncClient(base_url=address, cookies=cookies, timeout=httpx.Timeout(30, read=None)) as client:
        while True:
            try:
                async with client.stream("GET", "/api/feed") as answer:
                    if answer.status_code != 200:
                        seen.errors.append(f"feed {answer.status_code}")
                        return
                    async for line in answer.aiter_lines():
                        if line.startswith("data:") and '"elapsed_s"' in line:
                            number = round(json.loads(line[5:])["progress"]["elapsed_s"])
                            if number in sent:
                                seen.lags_s.append(time.monotonic() - sent[number])
                                seen.by_viewer[session] += 1
            except httpx.HTTPError as error:
                seen.errors.append(f"feed {type(error).__name__}")
                await asyncio.sleep(1)


async def wait_for_work(address: str, token: str, seen: Seen, wait_s: float) -> None:
    """Ask for the next pass again and again, as a bench does."""
    headers = {"Authorization": f"Bench {token}"}
    body = {"pass_id": "0" * 32, "readings": {}, "instance": token[:36], "wait_s": wait_s}
    async with httpx.AsyncClient(base_url=address, headers=headers, timeout=60) as client:
        while True:
            try:
                answer = await client.post("/api/bench/next", json=body)
                if answer.status_code != 204:
                    seen.errors.append(f"next {answer.status_code}")
            except httpx.HTTPError as error:
                seen.errors.append(f"next {type(error).__name__}")
            await asyncio.sleep(1)


async def report(address: str, token: str, entry: int, seen: Seen, sent: dict[int, float], over: float) -> None:
    """Tell progress several times a second; its number is told as its time."""
    headers = {"Authorization": f"Bench {token}"}
    async with httpx.AsyncClient(base_url=address, headers=headers, timeout=30) as client:
        number = 0
        while time.monotonic() < over:
            number += 1
            body = {"phase": "counting", "elapsed_s": float(number), "left_s": None, "readings": {}}
            sent[number] = time.monotonic()
            answer = await client.post(f"/api/bench/docket/{entry}/progress", json=body)
            if answer.status_code != 200:
                seen.errors.append(f"progress {answer.status_code}")
            await asyncio.sleep(_CHANGES_S)


async def look(private: Private, processes: list[psutil.Process], seen: Seen, over: float) -> None:
    """Watch memory and connections."""
    database = next(one for one in psutil.process_iter() if _is_database(one, private.var))
    while time.monotonic() < over:
        with suppress(psutil.Error):
            seen.memory = max(seen.memory, sum(one.memory_info().rss for one in processes))
            open_ones = [one for one in database.net_connections("tcp") if one.status == "ESTABLISHED"]
            seen.connections = max(seen.connections, len(open_ones))
        await asyncio.sleep(0.2)


def _is_database(process: psutil.Process, var: Path) -> bool:
    try:
        return "mariadbd" in process.name() and str(var) in " ".join(process.cmdline())
    except psutil.Error:
        return False


def busy_s(private: Private, processes: list[psutil.Process]) -> float:
    """Processor time that server and database have taken so far."""
    database = [one for one in psutil.process_iter() if _is_database(one, private.var)]
    return sum(sum(one.cpu_times()[:2]) for one in [*processes, *database])


async def crowd(private: Private, made: dict[str, list[str]], seconds: float, viewers: int, benches: int) -> Seen:
    """Viewers and waiting benches for a while, with one bench that reports where anybody is to see it."""
    seen, sent, over = Seen(), {}, time.monotonic() + seconds
    processes = server_processes(private)
    tasks = [view(private.address, one, seen, sent) for one in made["sessions"][:viewers]]
    tasks += [wait_for_work(private.address, one, seen, 20) for one in made["tokens"][:benches]]
    running = [asyncio.create_task(one) for one in tasks]
    await asyncio.sleep(min(5.0, seconds / 4))
    watching = asyncio.create_task(look(private, processes, seen, over))
    await report(private.address, made["running"], made["entry"], seen, sent, over)  # type: ignore[arg-type]
    await watching
    for one in running:
        one.cancel()
    await asyncio.gather(*running, return_exceptions=True)
    return seen


async def idle(private: Private, made: dict[str, list[str]], seconds: float, viewers: int, benches: int) -> float:
    """The cost of those who only wait, as a share of a core."""
    seen, processes = Seen(), server_processes(private)
    tasks = [view(private.address, one, seen, {}) for one in made["sessions"][:viewers]]
    tasks += [wait_for_work(private.address, one, seen, 20) for one in made["tokens"][:benches]]
    running = [asyncio.create_task(one) for one in tasks]
    await asyncio.sleep(4)
    before, began = busy_s(private, processes), time.monotonic()
    await asyncio.sleep(seconds)
    share = (busy_s(private, processes) - before) / (time.monotonic() - began)
    for one in running:
        one.cancel()
    await asyncio.gather(*running, return_exceptions=True)
    if seen.errors:
        print(f"errors while idle: {sorted(set(seen.errors))}")
    return share


def server_processes(private: Private) -> list[psutil.Process]:
    return [psutil.Process(pid) for pid in private.pids]


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--viewers", type=int, default=200)
    parser.add_argument("--benches", type=int, default=50)
    parser.add_argument("--seconds", type=float, default=30)
    parser.add_argument("--processes", type=int, default=2)
    arguments = parser.parse_args()
    with private_server(processes=arguments.processes) as private:
        text = _MAKE.format(viewers=arguments.viewers, benches=arguments.benches)
        made = json.loads(private.script(text).splitlines()[-1])
        nobody = asyncio.run(idle(private, made, arguments.seconds, 0, 0))
        watched = asyncio.run(idle(private, made, arguments.seconds, min(50, arguments.viewers), 0))
        waited = asyncio.run(idle(private, made, arguments.seconds, 0, min(5, arguments.benches)))
        print(f"nobody there                  {nobody:7.1%} of a core")
        print(f"50 idle viewers               {watched - nobody:7.1%} more (wanted under 5 %)")
        print(f"5 waiting benches             {waited - nobody:7.1%} more (wanted under 1 %)")
        seen = asyncio.run(crowd(private, made, arguments.seconds, arguments.viewers, arguments.benches))
    lags = sorted(seen.lags_s) or [float("nan")]
    many = f"{arguments.viewers} viewers, {arguments.benches} benches, {arguments.processes} processes"
    print(f"{many}, {arguments.seconds:.0f} s:")
    print(f"  errors                      {len(seen.errors)} {sorted(set(seen.errors))[:5]}")
    least = min(seen.by_viewer.values(), default=0) if len(seen.by_viewer) == arguments.viewers else 0
    print(f"  changes seen                {len(seen.lags_s)}, {least} at least by each")
    print(f"  lag, median and 95 %        {statistics.median(lags):.3f} s, {lags[int(0.95 * (len(lags) - 1))]:.3f} s")
    print(f"  connections to the database {seen.connections} at most (wanted under 40)")
    print(f"  memory of the server        {seen.memory / 1e6:.0f} MB at most (wanted under 600)")
    return 1 if seen.errors else 0


if __name__ == "__main__":
    sys.exit(main())
