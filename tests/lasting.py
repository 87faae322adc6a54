"""What tests of a process share because it takes long to start: closed by who runs them, when all are over."""

from contextlib import ExitStack

LASTING = ExitStack()
