#!/usr/bin/env python3
"""Storms of strangers against two server processes: sign-ins, large bodies, clients that send slowly. Wanted: whoever
is signed in is answered within a second all the while, and the server's memory stays where it was.

Prints, for each storm, how the strangers were answered, how long a page of the API took for somebody signed in (median
and longest), and how much memory the server's processes took at most.
"""

import argparse
import asyncio
import json
import statistics
import sys
import time
from collections import Counter
from collections.abc import Awaitable, Callable
from concurrent.futures import ProcessPoolExecutor
from contextlib import suppress

import httpx
import psutil
from private import Private, private_server

_MAKE = """
import json
from django.conf import settings
from tests.server.base import Browser, Scene
scene = Scene()
print(json.dumps({"session": Browser("reader").client.cookies[settings.SESSION_COOKIE_NAME].value,
    "review": scene.review.pk}))
"""
WANTED_S = 1.0
Storm = Callable[[str, int, float, Counter[str]], Awaitable[None]]


async def sign_ins(address: str, number: int, until: float, told: Counter[str]) -> None:
    """Sign in with wrong passwords, one after the other."""
    async with httpx.AsyncClient(base_url=address, timeout=60) as client:
        token = (await client.get("/api/session")).cookies.get("csrftoken", "")
        while time.monotonic() < until:
            body = {"username": f"somebody{number}", "password": "wrong-" * 5}
            answer = await client.post("/api/session", json=body, headers={"X-CSRFToken": token})
            told[str(answer.status_code)] += 1


async def bodies(address: str, number: int, until: float, told: Counter[str]) -> None:
    """Send bodies of 64 MB without being signed in."""

    async def pieces() -> "object":
        for _ in range(1024):
            yield b"x" * 65_536

    async with httpx.AsyncClient(base_url=address, timeout=60) as client:
        while time.monotonic() < until:
            try:
                answer = await client.put("/api/reviews/1/imports/0", content=pieces())  # type: ignore[arg-type]
                told[str(answer.status_code)] += 1
            except httpx.HTTPError as error:
                told[type(error).__name__] += 1


async def slow_ones(address: str, number: int, until: float, told: Counter[str]) -> None:
    """Begin a request and send a byte of its body each second."""
    host, _, port = address.removeprefix("http://").partition(":")
    while time.monotonic() < until:
        reader, writer = await asyncio.open_connection(host, int(port))
        head = f"POST /api/session HTTP/1.1\r\nHost: {host}\r\nContent-Length: 1000\r\n\r\n"
        writer.write(head.encode())
        with suppress(ConnectionError):
            while time.monotonic() < until and not reader.at_eof():
                writer.write(b"x")
                await writer.drain()
                await asyncio.sleep(1)
        told["ended by the server" if reader.at_eof() else "still open at the end"] += 1
        writer.close()


def storming(storm: Storm, address: str, many: int, until: float) -> Counter[str]:
    """Many strangers at once; gives how they were answered."""
    told = Counter[str]()

    async def together() -> None:
        strangers = [storm(address, at, until, told) for at in range(many)]
        await asyncio.gather(*strangers, return_exceptions=True)

    asyncio.run(together())
    return told


async def ask(private: Private, made: dict[str, object], until: float, took_s: list[float]) -> int:
    """Ask for a review again and again, as somebody who is signed in; gives the most memory that the server took."""
    processes = [psutil.Process(pid) for pid in private.pids]
    most = 0
    async with httpx.AsyncClient(base_url=private.address, cookies={"sessionid": str(made["session"])}) as client:
        while time.monotonic() < until:
            began = time.monotonic()
            answer = await client.get(f"/api/reviews/{made['review']}", timeout=60)
            if answer.status_code != 200:
                raise SystemExit(f"somebody who is signed in was answered {answer.status_code}")
            took_s.append(time.monotonic() - began)
            most = max(most, sum(one.memory_info().rss for one in processes))
            await asyncio.sleep(0.1)
    return most


async def blow(private: Private, made: dict[str, object], storm: Storm | None, many: int, seconds: float) -> bool:
    """One storm; gives whether all was as wanted."""
    until, told, took_s = time.monotonic() + seconds, Counter[str](), list[float]()
    # In a process of their own, so that whoever is signed in does not wait for the strangers' own work.
    with ProcessPoolExecutor(1) as pool:
        strangers = pool.submit(storming, storm, private.address, many, until) if storm else None
        most = await ask(private, made, until, took_s)
        if strangers:
            told = await asyncio.wrap_future(strangers)
    name = storm.__name__.replace("_", " ") if storm else "no storm"
    answered = ", ".join(f"{count} × {what}" for what, count in told.most_common(4))
    print(
        f"{name:<10} {many:>4} at once: signed in {statistics.median(took_s):.3f} s, {max(took_s):.3f} s at most "
        f"of {len(took_s)}; {most / 1e6:.0f} MB; strangers {answered or 'none'}",
        flush=True,
    )
    return max(took_s) < WANTED_S


def main() -> int:
    """All storms in turn; the status is 1 when somebody had to wait for longer than is wanted."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=float, default=20)
    arguments = parser.parse_args()
    storms: list[tuple[Storm | None, int]] = [(None, 0), (sign_ins, 40), (bodies, 20), (slow_ones, 200)]
    with private_server(processes=2) as private:
        made = json.loads(private.script(_MAKE).splitlines()[-1])
        well = [asyncio.run(blow(private, made, storm, many, arguments.seconds)) for storm, many in storms]
    return 0 if all(well) else 1


if __name__ == "__main__":
    sys.exit(main())
