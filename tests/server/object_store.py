"""A stand-in on loopback for a store with an S3 interface: it keeps what is put, and gives it back."""

import threading
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from types import TracebackType


class ObjectStore:
    """Objects by their path, as long as it runs; it can be told to refuse what comes in after some objects."""

    def __init__(self) -> None:
        self.objects: dict[str, bytes] = {}
        self.room: int | None = None
        store = self

        class Handler(BaseHTTPRequestHandler):
            protocol_version = "HTTP/1.1"

            def do_PUT(self) -> None:
                data = self.rfile.read(int(self.headers["Content-Length"]))
                if "aws-chunked" in (self.headers.get("Content-Encoding") or ""):
                    data = _unchunked(data)
                if store.room is not None and len(store.objects) >= store.room:
                    return self.answer(507)
                store.objects[self.path.partition("?")[0]] = data
                return self.answer(200)

            def do_GET(self) -> None:
                found = store.objects.get(self.path.partition("?")[0])
                self.answer(404 if found is None else 200, found or b"")

            def do_HEAD(self) -> None:
                self.do_GET()

            def answer(self, status: int, data: bytes = b"") -> None:
                self.send_response(status)
                self.send_header("Content-Length", str(len(data)))
                self.send_header("ETag", '"x"')
                self.end_headers()
                if self.command != "HEAD":
                    self.wfile.write(data)

            def log_message(self, format: str, *arguments: object) -> None:
                pass

        self._server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
        self.address = f"http://127.0.0.1:{self._server.server_port}"

    def __enter__(self) -> "ObjectStore":
        threading.Thread(target=self._server.serve_forever, daemon=True).start()
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, tb: TracebackType | None) -> None:
        self._server.shutdown()
        self._server.server_close()


def _unchunked(data: bytes) -> bytes:
    """What a body in signed pieces holds."""
    held = b""
    while True:
        head, _, data = data.partition(b"\r\n")
        size = int(head.partition(b";")[0], 16)
        if size == 0:
            return held
        held, data = held + data[:size], data[size + 2 :]
