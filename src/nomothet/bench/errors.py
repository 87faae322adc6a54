"""Errors of the bench."""


class BenchError(Exception):
    """The bench cannot go on; the message says why and what to do."""


class Refused(BenchError):
    """The server refused a request for good; repeating it would not help."""

    def __init__(self, status: int, detail: str, received: dict[str, int] | int | None = None) -> None:
        super().__init__(detail)
        self.status = status
        self.received = received


class Unreachable(BenchError):
    """The server cannot be reached just now; `status` is what it answered with, 0 for nothing."""

    def __init__(self, detail: str, status: int = 0) -> None:
        super().__init__(detail)
        self.status = status
