"""Tables that people paste: cut into blocks, and each row and column understood by what its labels name."""

from nomothet.formats.pasted.blocks import Block, Correction, Line, numbered, read_blocks, with_unit
from nomothet.formats.pasted.grids import MOST_VALUES, cells_by_line
from nomothet.formats.pasted.labels import Labels, Name, Says

__all__ = [
    "MOST_VALUES",
    "Block",
    "Correction",
    "Labels",
    "Line",
    "Name",
    "Says",
    "cells_by_line",
    "numbered",
    "read_blocks",
    "with_unit",
]
