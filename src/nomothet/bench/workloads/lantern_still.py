"""A still of the lantern room: first a coarse picture, then all of it; and an animation of so many frames."""

import argparse
import hashlib
import sys
import time

from nomothet.bench.platforms import usable_processors
from nomothet.bench.workloads.lantern_room import Room

_COARSE = 8


def still(width: int, height: int, detail: int, samples: int) -> tuple[float, float]:
    """Seconds until the first, coarse picture and until the last of `samples` full ones, each a little moved."""
    begin = time.perf_counter()
    bands = len(usable_processors())
    Room(width // _COARSE, height // _COARSE, detail, bands).draw(0)
    first = time.perf_counter() - begin
    print("phase refining", flush=True)
    room = Room(width, height, detail, bands)
    total = room.draw(0)
    for sample in range(1, samples):
        total = total + room.draw(sample)
        done = sample / samples
        spent = time.perf_counter() - begin
        print(f"left {spent / done - spent:.1f}", flush=True)
    digest = hashlib.sha256(total.tobytes()).hexdigest()[:12]
    print(f"picture {digest}", flush=True)
    return first, time.perf_counter() - begin


def animation(width: int, height: int, detail: int, frames: int) -> float:
    """Seconds for so many frames, with a line for each."""
    room = Room(width, height, detail, len(usable_processors()))
    begin = before = time.perf_counter()
    for frame in range(frames):
        room.draw(frame)
        now = time.perf_counter()
        print(f"frame {1000 * (now - before):.4f}", flush=frame % 5 == 0)
        before = now
        if frame % 5 == 0:
            spent = now - begin
            print(f"left {spent / (frame + 1) * (frames - frame - 1):.1f}", flush=True)
    return before - begin


def main() -> int:
    """Draw a still or an animation and write its times."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--size", default="640x360")
    parser.add_argument("--detail", type=int, default=4)
    parser.add_argument("--samples", type=int, default=12)
    parser.add_argument("--frames", type=int, default=0, help="draw an animation instead")
    arguments = parser.parse_args()
    width, height = (int(side) for side in arguments.size.split("x"))
    print("phase drawing", flush=True)
    if arguments.frames:
        print(f"figure finished_s {animation(width, height, arguments.detail, arguments.frames):.4f}", flush=True)
        return 0
    first, finished = still(width, height, arguments.detail, arguments.samples)
    print(f"figure first_picture_s {first:.4f}", flush=True)
    print(f"figure finished_s {finished:.4f}", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
