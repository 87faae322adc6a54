"""Reading the server's code at the start of a process."""

import gc
from collections.abc import Iterator
from contextlib import contextmanager


@contextmanager
def reading() -> Iterator[None]:
    """While code is read.

    All that comes then stays, so nothing is looked through for what is no longer needed; nor later, when a copy of the
    process would write to all it shares.
    """
    gc.disable()
    try:
        yield
    finally:
        gc.freeze()
        gc.enable()


def set_up() -> None:
    """Set Django up."""
    with reading():
        import django

        django.setup()
