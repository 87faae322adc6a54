"""Figures that people type in: looked at first, then stored as passes of their cells; never silently, never as zero."""

from nomothet.server.intake.typing_in.cells import NOBODY_ELSE, Hands, Landing, Looked, Typed, typed_of
from nomothet.server.intake.typing_in.corrections import correct, remember_method
from nomothet.server.intake.typing_in.looking import look
from nomothet.server.intake.typing_in.storing import store, take_back_batch

__all__ = [
    "NOBODY_ELSE",
    "Hands",
    "Landing",
    "Looked",
    "Typed",
    "correct",
    "look",
    "remember_method",
    "store",
    "take_back_batch",
    "typed_of",
]
