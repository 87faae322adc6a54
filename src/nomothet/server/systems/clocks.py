"""The clocks of benches, as far as they have told."""

from nomothet.core.notes import Note, note
from nomothet.server.systems.models import Bench

# A message is under way for some seconds at most, and clocks that are kept by the network are apart by less.
MOST_APART_S = 30.0


def clock_doubt(bench: Bench) -> Note | None:
    """What is wrong with the clock of a bench."""
    off_s = bench.clock_off_s
    return note("bench_clock_off", off_s=off_s) if off_s is not None and abs(off_s) > MOST_APART_S else None
