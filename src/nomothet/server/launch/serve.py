"""A server process on a socket that the launcher holds: requests that come while none runs wait there."""

import argparse
import gc
import socket

import uvicorn

from nomothet.server.reading_code import read_later, reading

_GRACEFUL_S = 3
_BACKLOG = 512
# So many objects more than at the last time, circles among them are looked for.
_LOOKED_FOR_AFTER = 20_000


def listening(port: int) -> socket.socket:
    """A socket on loopback for the processes of a server."""
    opened = socket.socket()
    opened.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    opened.bind(("127.0.0.1", port))
    opened.listen(_BACKLOG)
    opened.set_inheritable(True)
    return opened


def main() -> None:
    """Serve until a signal comes."""
    parser = argparse.ArgumentParser(prog="nomothet-server serve")
    parser.add_argument("--fd", type=int, required=True, help="the socket, already listening")
    arguments = parser.parse_args()
    serve(socket.socket(fileno=arguments.fd))


def serve(on: socket.socket) -> None:
    """Answer what comes in on a socket until a signal comes."""
    config = uvicorn.Config(
        "nomothet.server.asgi:application", lifespan="off", access_log=False, log_config=None,
        timeout_graceful_shutdown=_GRACEFUL_S,
    )  # fmt: skip
    with reading():
        config.load()
    # What a request makes is mostly gone with it without being looked for.
    gc.set_threshold(_LOOKED_FOR_AFTER)
    read_later()
    server = uvicorn.Server(config)
    server.run(sockets=[on])


if __name__ == "__main__":
    main()
