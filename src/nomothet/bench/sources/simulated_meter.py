"""A simulated power meter: answers SCPI over TCP with watts that follow this machine's load, or a set value."""

import socketserver
import threading

import numpy as np
import psutil


class SimulatedMeter:
    """Serves on a port of the loopback until it is closed.

    Parameters
    ----------
    idle_w, busy_w : float
        What the machine draws doing nothing and everything.
    """

    def __init__(self, port: int = 0, idle_w: float = 11.0, busy_w: float = 46.0, seed: int = 9) -> None:
        self._rng = np.random.default_rng(seed)
        self._idle_w, self._busy_w = idle_w, busy_w
        self._lock = threading.Lock()
        psutil.cpu_percent()
        meter = self

        class Handler(socketserver.StreamRequestHandler):
            def handle(self) -> None:
                for line in self.rfile:
                    answer = meter.answer(line.decode(errors="replace").strip())
                    if answer is not None:
                        self.wfile.write(f"{answer}\n".encode())

        class Server(socketserver.ThreadingTCPServer):
            allow_reuse_address = True
            daemon_threads = True

        self._server = Server(("127.0.0.1", port), Handler)
        self.port = int(self._server.server_address[1])
        self._thread = threading.Thread(target=self._server.serve_forever, name="meter", daemon=True)
        self._thread.start()

    def answer(self, command: str) -> str | None:
        """The answer to one command; a command that is no question has none."""
        if command == "*IDN?":
            return "Nomothet,simulated meter,1,1"
        if command.startswith("MEAS:POW"):
            with self._lock:
                share = psutil.cpu_percent() / 100
                watts = self._idle_w + (self._busy_w - self._idle_w) * share + self._rng.normal(0, 0.1)
            return f"{watts:.3f}"
        return '-113,"Undefined header"' if command.endswith("?") else None

    def wait(self) -> None:
        self._thread.join()

    def close(self) -> None:
        self._server.shutdown()
        self._server.server_close()
