#!/usr/bin/env python3
"""What goes wrong around an installation while passes run and people write: the network goes away, requests and answers
end in the middle, the disk stalls, clocks jump. Wanted: nothing lost that was answered for, nothing doubled, and all
well again by itself.

The bench speaks to the server through a door of ours, which is shut for the network and cuts for the half-sent
requests. A disk that stalls is played by stopping the database's process for a while. The clocks of the bench and of
the server's processes jump in turn (`jumping_clock.c`; without a C compiler that part is left out).
"""

import argparse
import asyncio
import os
import random
import shutil
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from whole import Whole, whole_installation

from nomothet.server.launch.ports import free_port

_PASSES = 20
_CLOCK = Path(__file__).with_name("jumping_clock.c")


class Door:
    """Passes on what comes on a port to another port, while it is open and as far as it is let."""

    def __init__(self) -> None:
        self.port = free_port()
        self.to = 0
        self.open = True
        # The chance that a piece that passes is the last of its connection.
        self.cuts = 0.0
        self.ended = 0
        self._through: set[asyncio.StreamWriter] = set()
        self._loop = asyncio.new_event_loop()
        threading.Thread(target=self._run, daemon=True).start()

    def shut(self) -> None:
        """Let nothing through any more, and end what is open."""
        self.open = False
        self._loop.call_soon_threadsafe(self._end)

    def _end(self) -> None:
        for writer in list(self._through):
            writer.transport.abort()
            self.ended += 1

    def _run(self) -> None:
        self._loop.run_until_complete(asyncio.start_server(self._come, "127.0.0.1", self.port))
        self._loop.run_forever()

    async def _come(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        if not self.open:
            writer.transport.abort()
            return
        with suppress(OSError):
            behind_reader, behind = await asyncio.open_connection("127.0.0.1", self.to)
            self._through |= {writer, behind}
            await asyncio.gather(self._pump(reader, behind, writer), self._pump(behind_reader, writer, behind))
            self._through -= {writer, behind}

    async def _pump(self, reader: asyncio.StreamReader, to: asyncio.StreamWriter, back: asyncio.StreamWriter) -> None:
        with suppress(OSError):
            while piece := await reader.read(4096):
                if random.random() < self.cuts:
                    to.write(piece[: random.randrange(len(piece))])
                    await to.drain()
                    back.transport.abort()
                    self.ended += 1
                    break
                to.write(piece)
                await to.drain()
        to.close()


def network(whole: Whole, door: Door) -> str:
    """The bench does not reach the server, twelve times for some seconds."""
    for _ in range(12):
        time.sleep(random.uniform(0.5, 3))
        door.shut()
        time.sleep(random.uniform(0.5, 6))
        door.open = True
    return f"12 times away, {door.ended} connections ended"


def halves(whole: Whole, door: Door) -> str:
    """Requests and answers of the bench end in the middle."""
    door.cuts = 0.15
    time.sleep(45)
    door.cuts = 0.0
    return f"{door.ended} connections ended in the middle"


def stalls(whole: Whole, door: Door) -> str:
    """The database stands still, as on a disk that does not answer."""
    for _ in range(10):
        time.sleep(random.uniform(0.5, 3))
        for pid in whole.pids("mariadbd"):
            os.kill(pid, signal.SIGSTOP)
            time.sleep(random.uniform(1, 6))
            os.kill(pid, signal.SIGCONT)
    return "10 times for 1 to 6 s"


def clocks(whole: Whole, door: Door) -> str:
    """The clocks of bench and server jump by up to a day, to and fro."""
    for name in ("bench", "server") * 5:
        hours = random.choice([-24, -2, -1, 1, 2, 24])
        (whole.var.parent / f"{name}-clock").write_text(f"{hours * 3600}\n")
        time.sleep(random.uniform(2, 5))
        (whole.var.parent / f"{name}-clock").write_text("0\n")
    return "10 jumps"


def main() -> int:
    """One fault after the other, each on an installation of its own; the status is 1 when something is lost."""
    parser = argparse.ArgumentParser(description=__doc__)
    faults: dict[str, Callable[[Whole, Door], str]] = {
        "network": network, "halves": halves, "stalls": stalls, "clocks": clocks,
    }  # fmt: skip
    parser.add_argument("--only", choices=list(faults))
    parser.add_argument("--seed", type=int, default=20261)
    arguments = parser.parse_args()
    random.seed(arguments.seed)
    lost = 0
    for name, fault in faults.items():
        if arguments.only in (None, name):
            lost += sum(one_fault(name, fault).values())
    return 1 if lost else 0


def one_fault(name: str, fault: Callable[[Whole, Door], str]) -> dict[str, int]:
    """Run one fault and say what came of it; gives what is not as wanted."""
    if fault is clocks and not shutil.which("cc"):
        print("clocks: left out, as there is no C compiler")
        return {}
    door = Door()

    def before(whole: Whole) -> None:
        door.to, whole.asked_at = whole.port, door.port
        if fault is clocks:
            library = whole.var.parent / "clock.so"
            subprocess.run(["cc", "-shared", "-fPIC", "-O2", "-o", str(library), str(_CLOCK)], check=True)
            for part, clock in (("bench", "bench"), ("launcher", "server")):
                file = whole.var.parent / f"{clock}-clock"
                file.write_text("0\n")
                whole.more[part] = {"LD_PRELOAD": str(library), "JUMPING_CLOCK": str(file)}

    with whole_installation(_PASSES, before) as whole:
        told = fault(whole, door)
        whole.read.set()
        began = time.monotonic()
        whole.wait_until_well()
        back_s = time.monotonic() - began
        print(f"{name}: {told}; well {back_s:.1f} s after it")
        wrong = whole.settle(_PASSES)
    for what, count in wrong.items():
        if count:
            print(f"  {count:>4} {what}")
    if not any(wrong.values()):
        print("  nothing lost, nothing doubled")
    return wrong


if __name__ == "__main__":
    sys.exit(main())
