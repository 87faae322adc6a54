"""The errors of the computing core: each says what is wrong, where, and what to do."""


class MethodError(ValueError):
    """The data cannot be computed on as asked."""


class BadFrames(MethodError):
    """A frame series holds values that cannot be frame times.

    Attributes
    ----------
    positions : list of int
        0-based positions of the first offending values (at most ten).
    """

    def __init__(self, message: str, positions: list[int] | None = None) -> None:
        super().__init__(message)
        self.positions = positions or []


class BadSample(MethodError):
    """The values of passes cannot be compared as asked."""


class BadQuantity(MethodError):
    """A value cannot be what it is given as.

    Attributes
    ----------
    field : str
        Key of the field that the value was given for.
    """

    def __init__(self, field: str, message: str) -> None:
        super().__init__(message)
        self.field = field


class BadSlots(MethodError):
    """A slot map, or what sits in it, cannot be.

    Attributes
    ----------
    slot : str
        The slot at fault; empty when it is the map as a whole.
    """

    def __init__(self, message: str, slot: str = "") -> None:
        super().__init__(message)
        self.slot = slot


class BadPlan(MethodError):
    """A plan contradicts itself."""
