"""What is said of load searches (method 14)."""

from nomothet.core.load_search import Bracket


def bracket_words(bracket: Bracket, unit: str = "") -> str:
    """A bracket in words.

    >>> bracket_words(Bracket(84, 88), "streams")
    '84 streams held, 88 broke'
    """
    unit = f" {unit}" if unit else ""
    if bracket.held is None:
        return "no load held" if bracket.broken is not None else "nothing tried yet"
    above = "nothing tried above" if bracket.broken is None else f"{bracket.broken} broke"
    return f"{bracket.held}{unit} held, {above}"
