"""Doors for frame times of programs that do not write them to standard output: a pipe and a socket.

A program finds their places in its environment and writes the bench's line format to either:

    NOMOTHET_FRAMES   a named pipe
    NOMOTHET_SOCKET   a stream socket of the local system
"""

import os
import selectors
import socket
import threading
from collections.abc import Callable
from pathlib import Path

_LONGEST_LINE = 4096
_LOOK_S = 0.2


class FrameDoor:
    """Takes lines from a pipe and a socket while a program runs.

    Parameters
    ----------
    take : callable
        Called with each line, from the door's own thread.
    """

    def __init__(self, folder: Path, take: Callable[[str], object]) -> None:
        self._take = take
        self._pipe_path = folder / "frames.pipe"
        self._socket_path = folder / "frames.socket"
        for path in (self._pipe_path, self._socket_path):
            path.unlink(missing_ok=True)
        os.mkfifo(self._pipe_path, 0o600)
        # Held open for writing too, so that it does not end when a program closes it and opens it again.
        self._pipe = os.open(self._pipe_path, os.O_RDWR | os.O_NONBLOCK)
        self._listener = self._listen()
        self._rest: dict[int, bytes] = {}
        self._over = threading.Event()
        self._thread = threading.Thread(target=self._loop, name="frames", daemon=True)
        self._thread.start()

    @property
    def environment(self) -> dict[str, str]:
        found = {"NOMOTHET_FRAMES": str(self._pipe_path)}
        return found | ({"NOMOTHET_SOCKET": str(self._socket_path)} if self._listener else {})

    def close(self) -> None:
        """Take what is still waiting, then close."""
        self._over.set()
        self._thread.join()
        os.close(self._pipe)
        if self._listener:
            self._listener.close()
        for path in (self._pipe_path, self._socket_path):
            path.unlink(missing_ok=True)

    def _listen(self) -> socket.socket | None:
        listener = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
        try:
            listener.bind(str(self._socket_path))
        except OSError:
            # A path over 107 characters cannot be bound; the pipe remains.
            listener.close()
            return None
        listener.listen()
        listener.setblocking(False)
        return listener

    def _loop(self) -> None:
        with selectors.DefaultSelector() as waiting:
            waiting.register(self._pipe, selectors.EVENT_READ)
            if self._listener:
                waiting.register(self._listener, selectors.EVENT_READ)
            callers: list[socket.socket] = []
            while True:
                over = self._over.is_set()
                ready = waiting.select(0 if over else _LOOK_S)
                for key, _ in ready:
                    if key.fileobj is self._listener:
                        caller, _ = self._listener.accept()
                        caller.setblocking(False)
                        callers.append(caller)
                        waiting.register(caller, selectors.EVENT_READ)
                    elif not self._read(key.fd):
                        waiting.unregister(key.fileobj)
                if over and not ready:
                    break
            for caller in callers:
                caller.close()

    def _read(self, fd: int) -> bool:
        """Take the lines that have come; returns whether more can come."""
        try:
            data = os.read(fd, 1 << 16)
        except BlockingIOError:
            return True
        except OSError:
            return False
        if not data:
            return fd == self._pipe
        *lines, rest = (self._rest.get(fd, b"") + data).split(b"\n")
        self._rest[fd] = rest[:_LONGEST_LINE]
        for line in lines:
            self._take(line[:_LONGEST_LINE].decode(errors="replace"))
        return True
