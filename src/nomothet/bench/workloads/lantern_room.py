"""A real-time scene: a room of lamp-lit spheres over a chequered floor, ray-cast in software, each frame timed.

The picture is cut into bands that as many threads draw as the process may use processors.
"""

import argparse
import hashlib
import itertools
import sys
import time
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from numpy.typing import NDArray

from nomothet.bench.platforms import usable_processors

Pixels = NDArray[np.float32]

_FOV = 0.9
_LAMPS = 2
_AMBIENT = np.float32(0.12)


class Room:
    """The scene at one size and detail. Positions follow from the frame number alone, so every run draws the same."""

    def __init__(self, width: int, height: int, detail: int, bands: int) -> None:
        self._height = height
        x = np.linspace(-1, 1, width, dtype=np.float32)
        y = np.linspace(1, -1, height, dtype=np.float32) * np.float32(height / width)
        gx, gy = np.meshgrid(x * np.float32(_FOV), y * np.float32(_FOV))
        rays = np.stack([gx, gy, np.ones_like(gx)], axis=-1)
        self._rays = (rays / np.linalg.norm(rays, axis=-1, keepdims=True)).astype(np.float32)
        rng = np.random.default_rng(7)
        count = 2 + 2 * detail
        self._home = rng.uniform((-2.2, -0.4, 3.0), (2.2, 1.4, 7.0), (count, 3)).astype(np.float32)
        self._radius = rng.uniform(0.3, 0.7, count).astype(np.float32)
        self._phase = rng.uniform(0, 2 * np.pi, count).astype(np.float32)
        edges = np.linspace(0, height, bands * 2 + 1).astype(int)
        self._bands = list(itertools.pairwise(edges))
        self._pool = ThreadPoolExecutor(bands)

    def draw(self, frame: int) -> Pixels:
        """Brightness of every pixel, (height, width)."""
        t = np.float32(frame / 60)
        centres = self._home.copy()
        centres[:, 0] += 0.4 * np.cos(t + self._phase)
        centres[:, 1] += 0.3 * np.sin(1.3 * t + self._phase)
        angles = np.arange(_LAMPS, dtype=np.float32) * np.float32(np.pi) + t
        lamps = np.stack([3 * np.cos(angles), np.full(_LAMPS, 3), 5 + 2 * np.sin(angles)], axis=-1).astype(np.float32)
        parts = self._pool.map(lambda band: self._band(self._rays[band[0] : band[1]], centres, lamps), self._bands)
        return np.concatenate(list(parts))

    def _band(self, rays: Pixels, centres: Pixels, lamps: Pixels) -> Pixels:
        nearest = np.full(rays.shape[:2], np.inf, np.float32)
        normal = np.zeros_like(rays)
        for centre, radius in zip(centres, self._radius, strict=True):
            # Written out: a matrix product would bring threads of its own along.
            along = rays[..., 0] * centre[0] + rays[..., 1] * centre[1] + rays[..., 2] * centre[2]
            discriminant = along * along - np.float32(float((centre * centre).sum()) - radius * radius)
            distance = along - np.sqrt(np.maximum(discriminant, 0))
            hit = (discriminant > 0) & (distance > 0) & (distance < nearest)
            nearest = np.where(hit, distance, nearest)
            normal = np.where(hit[..., None], (rays * distance[..., None] - centre) / radius, normal)
        floor = np.where(rays[..., 1] < -1e-3, np.float32(-1) / np.minimum(rays[..., 1], -1e-3), np.inf)
        on_floor = floor < nearest
        nearest = np.where(on_floor, floor, nearest)
        normal = np.where(on_floor[..., None], np.array([0, 1, 0], np.float32), normal)
        seen = np.isfinite(nearest)
        points = rays * np.where(seen, nearest, 0)[..., None]
        chequers = np.where(on_floor & ((np.floor(points[..., 0]) + np.floor(points[..., 2])) % 2 == 0), 0.4, 1.0)
        light = np.full(rays.shape[:2], _AMBIENT)
        for lamp in lamps:
            towards = lamp - points
            length = np.linalg.norm(towards, axis=-1)
            light += np.maximum(0, np.einsum("ijk,ijk->ij", towards, normal)) / (length * (1 + 0.1 * length))
        return np.where(seen, light * chequers, 0).astype(np.float32)


def main() -> int:
    """Draw for the asked time and write one line a frame."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--size", default="240x135")
    parser.add_argument("--detail", type=int, default=3)
    parser.add_argument("--seconds", type=float, default=15)
    arguments = parser.parse_args()
    width, height = (int(side) for side in arguments.size.split("x"))
    room = Room(width, height, arguments.detail, len(usable_processors()))
    write = sys.stdout.write
    write("phase warming up\n")
    for frame in range(5):
        room.draw(frame)
    write("phase drawing\n")
    begin = before = time.perf_counter()
    frame = 0
    while before - begin < arguments.seconds:
        picture = room.draw(frame)
        now = time.perf_counter()
        write(f"frame {1000 * (now - before):.4f}\n")
        if frame % 20 == 0:
            write(f"left {max(0.0, arguments.seconds - (now - begin)):.1f}\n")
            sys.stdout.flush()
        before = now
        frame += 1
    # A digest of the last picture keeps the drawing from being work that nobody needs.
    write(f"last picture {hashlib.sha256(picture.tobytes()).hexdigest()[:12]}\n")
    return 0


if __name__ == "__main__":
    sys.exit(main())
