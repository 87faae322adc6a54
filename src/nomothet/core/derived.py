"""Section 19 of the method: small figures that follow from others."""


def evenness(low_1pct_fps: float, average_fps: float) -> float:
    """1 % low over average.

    >>> evenness(45.0, 60.0)
    0.75
    """
    return low_1pct_fps / average_fps


def clock_retention(sustained_mhz: float, rated_mhz: float) -> float:
    """Sustained clock over rated clock.

    >>> round(clock_retention(3680.0, 4600.0), 2)
    0.8
    """
    return sustained_mhz / rated_mhz


def temperature_margin(limit_c: float, peak_c: float) -> float:
    """What is left to the part's limit at the peak, in K.

    >>> temperature_margin(95.0, 88.0)
    7.0
    """
    return limit_c - peak_c


def pixel_ratio(a: tuple[int, int], b: tuple[int, int]) -> float:
    """Pixels of b over those of a, to be told beside a ratio of resolutions.

    >>> pixel_ratio((1920, 1080), (3840, 2160))
    4.0
    """
    return b[0] * b[1] / (a[0] * a[1])
