"""What is said of what is specified against what was measured (method 19)."""


def gap_words(verdict: str, gap: float | None, unit: str) -> str:
    """The verdict with the size of the gap; temperatures differ by K, all else by %.

    >>> gap_words("short", -5.0, "MHz"), gap_words("kept", -12.0, "°C"), gap_words("reached", 0.01, "GB")
    ('5.0 % short', 'kept, 12.0 K under', 'reached, exactly')
    """
    if gap is None:
        return verdict
    size = f"{abs(gap):.1f} {'K' if unit == '°C' else '%'}"
    if verdict in ("short", "over"):
        return f"{size} {verdict}"
    if round(abs(gap), 1) == 0:
        return f"{verdict}, exactly"
    return f"{verdict}, {size} {'under' if gap < 0 else 'over'}"
