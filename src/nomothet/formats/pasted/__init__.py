"""Tables that people paste: cut into blocks, and each row and column understood by what its labels name."""

from nomothet.formats.pasted.blocks import MOST_VALUES, Block, Correction, Line, numbered, read_blocks, with_unit
from nomothet.formats.pasted.labels import SKIP, Labels, Name, Says

__all__ = [
    "MOST_VALUES",
    "SKIP",
    "Block",
    "Correction",
    "Labels",
    "Line",
    "Name",
    "Says",
    "numbered",
    "read_blocks",
    "with_unit",
]
