"""How much room a chart has: that of a page, or of a phone."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Room:
    width: float
    # For labels at the left, and for names at the right.
    label_width: float
    name_width: float
    most_label: int
    most_name: int
    narrow: bool


WIDE = Room(680, 214, 142, 30, 19, narrow=False)
NARROW = Room(400, 132, 92, 15, 11, narrow=True)
