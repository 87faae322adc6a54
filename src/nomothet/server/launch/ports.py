"""Whether a port is free."""

import socket

from nomothet.server.launch.errors import LaunchError


def require_free(port: int, what: str, option: str) -> None:
    """Refuse a port that something else listens on.

    Raises
    ------
    LaunchError
    """
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError as error:
            raise LaunchError(
                f"Port {port}, wanted for {what}, cannot be used ({error.strerror}). Stop what uses it (another "
                f"./start, perhaps), or choose another port with {option} N."
            ) from None


def free_port() -> int:
    """A port that is free just now."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])
