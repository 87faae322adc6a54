"""The lines that a workload writes to standard output for the bench.

One event a line, fields parted by spaces; any other line is kept with the output and otherwise passed over.

    frame 16.71            a frame that lasted 16.71 ms
    figure NAME VALUE      a figure that the workload's metrics declare
    phase WORDS            what begins now
    left SECONDS           how long it will still take, as far as it knows
    load held              the load of this attempt held
    load broke SECONDS WORDS   it broke after so long, and why
    outcome NAME WORDS     it ended otherwise than well: visual_faults, overloaded, refused
"""

import math
from dataclasses import dataclass, field

# Outcomes that a program can tell better than its exit status does.
SAID_OUTCOMES = ("visual_faults", "overloaded", "refused")


@dataclass(frozen=True)
class LoadOutcome:
    """Whether a load held, and if not, when and why it broke."""

    holds: bool
    after_s: float | None = None
    reason: str = ""


@dataclass
class Tally:
    """What a workload has said so far."""

    frame_ms: list[float] = field(default_factory=list)
    figures: dict[str, float] = field(default_factory=dict)
    phase: str = "starting"
    left_s: float | None = None
    first_frame_line: int | None = None
    lines: int = 0
    load: LoadOutcome | None = None
    outcome: tuple[str, str] | None = None

    def take(self, line: str) -> bool:
        """Take a line; returns whether it was one of ours.

        >>> tally = Tally(); tally.take("frame 16.5"), tally.take("hello"), tally.frame_ms
        (True, False, [16.5])
        """
        self.lines += 1
        word, _, rest = line.strip().partition(" ")
        if word == "frame":
            value = _number(rest)
            if value is None or value <= 0:
                return False
            self.frame_ms.append(value)
            return True
        if word == "figure":
            name, _, text = rest.strip().rpartition(" ")
            value = _number(text)
            if not name or value is None:
                return False
            self.figures[name] = value
            return True
        if word == "phase" and rest:
            self.phase = rest[:60]
            return True
        if word == "left":
            self.left_s = _number(rest)
            return True
        if word == "load":
            return self._take_load(rest)
        if word == "outcome":
            name, _, words = rest.strip().partition(" ")
            if name in SAID_OUTCOMES:
                self.outcome = (name, words[:300])
                return True
        return False

    def _take_load(self, rest: str) -> bool:
        word, _, rest = rest.strip().partition(" ")
        if word == "held":
            self.load = LoadOutcome(True)
            return True
        text, _, reason = rest.partition(" ")
        after = _number(text)
        if word != "broke" or after is None:
            return False
        self.load = LoadOutcome(False, after, reason.strip()[:300])
        return True


def _number(text: str) -> float | None:
    try:
        value = float(text)
    except ValueError:
        return None
    return value if math.isfinite(value) else None
