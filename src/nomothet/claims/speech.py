"""The words of ordinary speech that the check knows."""

import re
from dataclasses import dataclass
from typing import Literal

# By what a word says which way: the better way, or simply more.
Way = Literal["better", "more"]


@dataclass(frozen=True)
class Direction:
    """A word that says which way something goes.

    `speed` where its amount is one of speed and not of the value; `role` where it can only be about one kind of metric.
    """

    sign: int
    way: Way
    speed: bool = False
    role: str = ""


def _known(words: str, direction: Direction) -> dict[str, Direction]:
    return dict.fromkeys(words.split(), direction)


DIRECTIONS: dict[str, Direction] = {
    **_known("faster quicker fast ahead leads lead leading beats beat wins", Direction(1, "better", True)),
    **_known("slower behind trails trail lags", Direction(-1, "better", True)),
    **_known("better gains gain gaining improves improve improved profits", Direction(1, "better")),
    **_known(
        "worse loses lose losing lost costs cost suffers suffer degrades worsens harms harm", Direction(-1, "better")
    ),
    **_known("more higher rises rise rising increases increase grows climbs", Direction(1, "more")),
    **_known("less lower drops drop dropping falls fall falling decreases decrease", Direction(-1, "more")),
    **_known("sinks fewer saves save", Direction(-1, "more")),
    **_known("quieter", Direction(-1, "more", role="noise")),
    **_known("louder noisier", Direction(1, "more", role="noise")),
    **_known("cooler colder", Direction(-1, "more", role="temperature")),
    **_known("hotter warmer", Direction(1, "more", role="temperature")),
    **_known("longer", Direction(1, "more", role="time")),
    **_known("shorter sooner", Direction(-1, "more", role="time")),
    **_known("smoother evenly steadier", Direction(1, "better", role="low")),
    **_known("stutters stutter jerkier", Direction(-1, "better", role="low")),
}  # fmt: skip

ROLE_WORDS: dict[str, tuple[str, ...]] = {
    "low": (r"1 % lows?", r"0\.1 % lows?", r"lows", r"slowest frames?"),
    "power": (r"power(?! (?:limit|supply|cap))", r"draws?", r"drew", r"consum\w+", r"at the wall", r"energy", r"watts"),
    "temperature": (r"temperatures?", r"°C", r"degrees"),
    "noise": (r"fan noise", r"dB", r"decibels?", r"noise"),
    "time": (r"time", r"seconds", r"finish\w*", r"takes .{0,12}\bs\b"),
    "score": (r"scores?",),
    "average": (r"averages?", r"frame rates?", r"fps", r"on average", r"frames (?:a|per) second"),
}
ROLES = {role: re.compile(r"(?<!\w)(?:" + "|".join(words) + r")(?!\w)", re.I) for role, words in ROLE_WORDS.items()}

LEVEL = re.compile(
    r"\b(?:no (?:measurable |real |visible )?difference|level with|(?:is|are|stays?|be) level|the same|on a par"
    r"|equal(?:ly)?|identical|as (?:fast|quick|good|quiet|smooth) as|does no harm|no harm|no loss"
    r"|(?:loses|costs|gains) nothing|less than what we call a difference|makes no odds)\b",
    re.I,
)
# What also holds where it is ahead.
AT_LEAST_LEVEL = re.compile(r"\b(?:no harm|no loss|loses nothing|costs nothing)\b", re.I)
ENOUGH = re.compile(
    r"\b(?:enough|suffices?|sufficient|will do|would do|(?:would|will) still do|meets? (?:the|every|all) targets?"
    r"|misses (?:the|a) target|too little|too slow|too weak)\b",
    re.I,
)
NOT_ENOUGH = re.compile(r"\b(?:misses (?:the|a) target|too little|too slow|too weak)\b", re.I)
OPEN = re.compile(r"\b(?:is open|cannot be told|can not be told|not settled|unsettled|undecided|cannot tell)\b", re.I)
NOT_RUN = re.compile(
    r"\b(?:(?:does|did|do|will) not (?:start|run)|never starts|crash\w*|hangs?|hung|fails? to start)\b", re.I
)
NOT = re.compile(r"\b(?:not|no|never|nor|neither|isn't|doesn't|don't|won't|without)\b", re.I)

UNIVERSAL = re.compile(
    r"\b(?:all|every|everyone|everybody|always|any|never|everywhere|whatever|in general|generally)\b", re.I
)
# "at all", "after all" and the like say nothing of everything.
IDIOMS = re.compile(r"\b(?:at all|after all|any more|any longer|all the same|all in all|above all|all so far)\b", re.I)
OF_TESTS = re.compile(
    r"\b(?:over|in|across|on)\s+(?:all|every|each)(?:\s+(?:of the|the|our))?"
    r"(?:\s+(?P<count>two|three|four|five|six|seven|eight|nine|ten|\d+))?\s+(?:single\s+)?tests?\b"
    r"(?:\s+(?:that )?we (?:ran|measured))?",
    re.I,
)
OVER_TESTS = re.compile(
    r"\b(?:over|across)\s+(?:all|the|our)?\s*(?P<count>two|three|four|five|six|seven|eight|nine|ten|\d+)?\s*(?:tests)\b"
    r"|\bover all\b",
    re.I,
)
THINGS = re.compile(
    r"\b(?:all|every|any)\s+(?:other\s+|such\s+|small\s+|mini\s+)*(?:machines?|systems?|computers?|pcs?|games?|programs?"
    r"|workloads?|exhibits?|configurations?|cards?|processors?|users?|visitors?|rooms?|resolutions?|settings?)\b",
    re.I,
)
COUNTS = dict(zip("two three four five six seven eight nine ten".split(), range(2, 11), strict=True))

CAUSE = re.compile(
    r"\b(?:because of|because|due to|owing to|caused by|thanks to|the reason is|as a result of|comes from"
    r"|for (?=heat\b|lack of\b|want of\b))",
    re.I,
)
PROMISE = re.compile(
    r"\b(?:will|won't|guarantees?|guaranteed|promises?|for years|in future|in the future"
    r"|next (?:year|version|generation)|future-proof|lasts? for)\b",
    re.I,
)
PRICES = re.compile(
    r"\b(?:prices?|cheap(?:er|est)?|expensive|dearer|value for money|worth (?:it|its|the))\b|€|\beuros?\b", re.I
)
RESOLUTION = re.compile(r"\b(?:[2-9]|1[0-6])K\b|\b\d{3,4}p\b|\b\d{3,4} ?[x×] ?\d{3,4}\b|\bfull HD\b", re.I)
# Verbs after which a number of watts is drawn, and not a setting.
DRAWN = re.compile(r"\b(?:draws?|drew|uses?|used|consum\w+|takes?|saves?|needs?|at the wall|less|more)\b", re.I)
COMPARING = re.compile(r"\b(?:than|against|compared (?:with|to)|versus|over|as|with|behind|ahead of|of)\s*$", re.I)
