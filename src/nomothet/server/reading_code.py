"""Reading the server's code at the start of a process."""

import gc
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from importlib import import_module

# By then whoever opened the first page has it.
_SETTLED_S = 3.0


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


def read_answers() -> None:
    """Read all that answers, with the part of SciPy that most of it computes with, before the first who asks would wait
    for it."""
    from django.conf import settings

    import_module(settings.ROOT_URLCONF)
    import_module("scipy.special")


def read_later() -> None:
    """Read what the first pass that comes in would wait for, once this process has settled."""
    from nomothet.core.sustained import read_ahead

    later = threading.Timer(_SETTLED_S, read_ahead)
    later.daemon = True
    later.start()
