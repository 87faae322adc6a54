"""Ringing at the other processes of an installation when there is something new, so that none has to look all the time.

Each process that has listeners keeps a socket in a folder that all of them know. A ring says nothing: whoever hears it
looks into the database. One that is lost costs a moment, as everybody looks from time to time all the same.
"""

import asyncio
import contextlib
import os
import select
import socket
import time
from collections.abc import Callable
from pathlib import Path

# A socket's address has room for a few more bytes than that on every system.
_LONGEST = 100
_A_RING = 64


class Bell:
    """The socket of this process."""

    def __init__(self, folder: Path) -> None:
        self._path = folder / f"{os.getpid()}.bell"
        self._socket: socket.socket | None = None
        self._loop: asyncio.AbstractEventLoop | None = None

    def hang(self, rung: Callable[[], None]) -> bool:
        """Have something done in this event loop at each ring; False where there can be no such socket."""
        if not self._open():
            return False
        assert self._socket is not None
        self._loop = asyncio.get_running_loop()
        self._loop.add_reader(self._socket, self._hear, rung)
        return True

    def wait(self, seconds: float) -> None:
        """Wait for a ring, so long at most; for a thread that has no event loop. Where there can be no socket, it waits
        that long."""
        if self._socket is None:
            self._open()
        if self._socket is None:
            time.sleep(seconds)
            return
        select.select([self._socket], [], [], seconds)
        self._hear(lambda: None)

    def take_down(self) -> None:
        """Hear nothing any more."""
        if self._socket is None:
            return
        if self._loop is not None:
            self._loop.remove_reader(self._socket)
        self._socket.close()
        self._socket = None
        self._path.unlink(missing_ok=True)

    def _open(self) -> bool:
        if len(os.fsencode(self._path)) > _LONGEST or not hasattr(socket, "AF_UNIX"):
            return False
        try:
            self._socket = socket.socket(socket.AF_UNIX, socket.SOCK_DGRAM)
            self._socket.setblocking(False)
            self._path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
            self._path.unlink(missing_ok=True)
            self._socket.bind(str(self._path))
        except OSError:
            if self._socket is not None:
                self._socket.close()
            self._socket = None
            return False
        return True

    def _hear(self, rung: Callable[[], None]) -> None:
        assert self._socket is not None
        with contextlib.suppress(OSError):
            while self._socket.recv(_A_RING):
                pass
        rung()


def ring(folder: Path) -> None:
    """Ring at all others. A bell whose process is gone is taken away.

    It is called after an act was stored, which a ring that fails must not seem to undo: nothing is raised.
    """
    with contextlib.suppress(OSError):
        _ring(folder)


def _ring(folder: Path) -> None:
    own = f"{os.getpid()}.bell"
    others = [path for path in folder.glob("*.bell") if path.name != own]
    if not others:
        return
    with socket.socket(socket.AF_UNIX, socket.SOCK_DGRAM) as line:
        line.setblocking(False)
        for path in others:
            try:
                line.sendto(b"\n", str(path))
            except ConnectionRefusedError:
                path.unlink(missing_ok=True)
            except OSError:
                # It is full of rings that were not heard yet, or was just taken down.
                continue
