"""Errors of reading: each names the place and the remedy."""


class FormatError(ValueError):
    """A file or blob cannot be read."""


class BadSeries(FormatError):
    """A series blob is damaged or not one of ours."""


class BadTable(FormatError):
    """Delimited text that cannot be taken as frame times.

    Attributes
    ----------
    row : int or None
        1-based line of the file, where one line is to blame.
    """

    def __init__(self, problem: str, remedy: str, row: int | None = None) -> None:
        place = f"row {row}: " if row is not None else ""
        super().__init__(f"{place}{problem}. {remedy}")
        self.problem = problem
        self.remedy = remedy
        self.row = row
