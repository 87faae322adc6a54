"""Spans of time in words."""


def duration_words(seconds: float) -> str:
    """A span of time as people say it.

    >>> duration_words(44), duration_words(150), duration_words(24000)
    ('44 s', '3 min', '6 h 40 min')
    """
    if seconds < 60:
        return f"{seconds:.0f} s"
    minutes = round(seconds / 60)
    hours, rest = divmod(minutes, 60)
    return f"{hours} h {rest} min" if hours else f"{minutes} min"
