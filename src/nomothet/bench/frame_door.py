"""Doors for frame times of programs that do not write them to standard output.

A program finds their places in its environment and writes the bench's line format to any of them:

    NOMOTHET_FRAMES   a named pipe; where a system has none, a file that is read as it grows
    NOMOTHET_SOCKET   a stream socket of the local system, where there are such
    NOMOTHET_PORT     a TCP port on 127.0.0.1, where there are none
"""

import os
import selectors
import socket
import sys
import threading
from collections.abc import Callable
from pathlib import Path

from nomothet.bench.platforms import HAS_PIPES

_LONGEST_LINE = 4096
_LOOK_S = 0.2


class FrameDoor:
    """Takes lines from a pipe or a growing file, and from a socket, while a program runs.

    Parameters
    ----------
    take : callable
        Called with each line, from the door's own thread.
    pipes : bool
        Whether to use what only some systems have; a growing file and a port serve everywhere.
    """

    def __init__(self, folder: Path, take: Callable[[str], object], *, pipes: bool = HAS_PIPES) -> None:
        self._take = take
        self._pipe_path = folder / ("frames.pipe" if pipes else "frames.txt")
        self._socket_path = folder / "frames.socket"
        for path in (self._pipe_path, self._socket_path):
            path.unlink(missing_ok=True)
        self._pipe = self._open_pipe() if pipes else None
        self._file = None if pipes else self._pipe_path.open("w+b", buffering=0)
        self._listener = self._listen_locally() if pipes else self._listen_on_port()
        self._rest: dict[int, bytes] = {}
        self._over = threading.Event()
        self._thread = threading.Thread(target=self._loop, name="frames", daemon=True)
        self._thread.start()

    @property
    def environment(self) -> dict[str, str]:
        found = {"NOMOTHET_FRAMES": str(self._pipe_path)}
        if self._listener is None:
            return found
        if self._file is not None:
            return found | {"NOMOTHET_PORT": str(self._listener.getsockname()[1])}
        return found | {"NOMOTHET_SOCKET": str(self._socket_path)}

    def close(self) -> None:
        """Take what is still waiting, then close."""
        self._over.set()
        self._thread.join()
        if self._pipe is not None:
            os.close(self._pipe)
        if self._file is not None:
            self._file.close()
        if self._listener:
            self._listener.close()
        for path in (self._pipe_path, self._socket_path):
            path.unlink(missing_ok=True)

    def _open_pipe(self) -> int | None:
        if sys.platform == "win32":
            return None
        os.mkfifo(self._pipe_path, 0o600)
        # Held open for writing too, so that it does not end when a program closes it and opens it again.
        return os.open(self._pipe_path, os.O_RDWR | os.O_NONBLOCK)

    def _listen_locally(self) -> socket.socket | None:
        if sys.platform == "win32":
            return None
        listener = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
        try:
            listener.bind(str(self._socket_path))
        except OSError:
            # A path over 107 characters cannot be bound; the pipe remains.
            listener.close()
            return None
        return _listening(listener)

    @staticmethod
    def _listen_on_port() -> socket.socket:
        listener = socket.socket(socket.AF_INET, socket.SOCK_STREAM)
        listener.bind(("127.0.0.1", 0))
        return _listening(listener)

    def _loop(self) -> None:
        with selectors.DefaultSelector() as waiting:
            if self._pipe is not None:
                waiting.register(self._pipe, selectors.EVENT_READ)
            if self._listener:
                waiting.register(self._listener, selectors.EVENT_READ)
            callers: list[socket.socket] = []
            while True:
                over = self._over.is_set()
                ready = waiting.select(0 if over else _LOOK_S)
                for key, _ in ready:
                    if self._listener is not None and key.fileobj is self._listener:
                        caller, _ = self._listener.accept()
                        caller.setblocking(False)
                        callers.append(caller)
                        waiting.register(caller, selectors.EVENT_READ)
                    elif not self._read(key.fd, key.fileobj):
                        waiting.unregister(key.fileobj)
                grown = self._read_file()
                if over and not ready and not grown:
                    break
            for caller in callers:
                caller.close()

    def _read(self, fd: int, source: object) -> bool:
        """Take the lines that have come; returns whether more can come."""
        try:
            data = source.recv(1 << 16) if isinstance(source, socket.socket) else os.read(fd, 1 << 16)
        except BlockingIOError:
            return True
        except OSError:
            return False
        if not data:
            return fd == self._pipe
        self._lines(fd, data)
        return True

    def _read_file(self) -> bool:
        """Take what has been added to the file; returns whether there was anything."""
        data = self._file.read() if self._file is not None else b""
        if not data:
            return False
        self._lines(-1, data)
        return True

    def _lines(self, source: int, data: bytes) -> None:
        *lines, rest = (self._rest.get(source, b"") + data).split(b"\n")
        self._rest[source] = rest[:_LONGEST_LINE]
        for line in lines:
            self._take(line[:_LONGEST_LINE].decode(errors="replace").rstrip("\r"))


def _listening(listener: socket.socket) -> socket.socket:
    listener.listen()
    listener.setblocking(False)
    return listener
