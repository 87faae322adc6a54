"""What metrics mean, in words for readers who know none of the trade."""

from collections.abc import Mapping

# By key of a metric; "low_" stands for every low.
NOTES: Mapping[str, str] = {
    "average_fps": "How many pictures a second the machine drew, over the whole run: pictures divided by time. More is "
    "smoother.",
    "low_1pct": "How fast the slowest hundredth of all pictures came, as a rate. It tells of stutter that an average "
    "hides; more is better.",
    "low_01pct": "The same for the slowest thousandth: single hitches.",
    "hitches_per_min": "How often a minute a picture took so much longer than its neighbours that it can be felt.",
    "held_fps": "The rate at which a cap or the display holds the pictures; beyond it nothing can be told apart.",
}
# By unit, where the metric is not known by itself.
OF_UNITS: Mapping[str, str] = {
    "W": "How much power was drawn, in watts. Less is cheaper and quieter.",
    "J": "How much energy the work took, in joules: power times time.",
    "°C": "How hot it got, in degrees. What matters is how far it stays below the limit of the part.",
    "s": "How long the work took, in seconds. Less is better.",
    "min": "How long the work took, in minutes. Less is better.",
    "dB": "How loud it was. Three decibels less is just heard, ten less sounds about half as loud.",
    "dB(A)": "How loud it was to the ear. Three decibels less is just heard, ten less sounds about half as loud.",
    "points": "A score of the program's own making; only scores of the same version can be compared.",
    "fps": "Pictures a second; more is smoother.",
}


def note_for_readers(metric: str, unit: str) -> str:
    """What a metric means; empty where nobody has said so.

    >>> note_for_readers("duration_s", "s")
    'How long the work took, in seconds. Less is better.'
    """
    return NOTES.get(metric) or NOTES.get("low_1pct" if metric.startswith("low_") else "") or OF_UNITS.get(unit, "")
