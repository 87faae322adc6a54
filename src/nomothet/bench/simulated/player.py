"""Playing a recording at a chosen speed, as if it were happening."""

from nomothet.bench.job import Control
from nomothet.bench.simulated.model import Recording
from nomothet.bench.simulated.work import STEP_S

_REPORT_S = 0.25


class Player:
    """Tells of recordings one after the other on the clock of one pass.

    Parameters
    ----------
    speed : float
        Seconds of the pass per second of waiting; 0 does not wait at all.
    """

    def __init__(self, control: Control, speed: float) -> None:
        self._control = control
        self._speed = speed
        self.played_s = 0.0

    def play(self, recording: Recording, upto_s: float | None = None, phase: str = "running") -> bool:
        """Play a recording up to a moment, or to its end; returns whether it came so far."""
        length = recording.length_s if upto_s is None else min(upto_s, recording.length_s)
        if self._speed <= 0:
            self.played_s += 0.0 if self._control.over else length
            return not self._control.over
        at = 0.0
        while at < length:
            self._control.report(phase, round(self.played_s + at, 1), round(length - at, 1), readings_at(recording, at))
            if self._control.stop_wanted.wait(_REPORT_S) or self._control.interrupted.is_set():
                self.played_s += at
                return False
            at += _REPORT_S * self._speed
        self.played_s += length
        return True


def readings_at(recording: Recording, at_s: float) -> dict[str, float | None]:
    """What a glance at the sensors shows at a moment."""
    step = min(len(recording.t_s) - 1, int(at_s / STEP_S))
    readings: dict[str, float | None] = {
        "temperature": round(recording.die_c[step], 0),
        "power": round(recording.power_w[step], 1),
        "clock": round(recording.clock_mhz[step], 0),
        "processor use": round(recording.processor_pct[step], 0),
        "memory used": round(recording.memory_gb[step], 1),
    }
    if recording.frame_ms:
        upto = max(1, int(step * len(recording.frame_ms) / len(recording.t_s)))
        recent = recording.frame_ms[max(0, upto - 60) : upto]
        readings["frame rate"] = round(1000 * len(recent) / sum(recent), 1)
    return readings
