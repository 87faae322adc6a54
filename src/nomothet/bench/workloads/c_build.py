"""Building a made-up C program of many files with the machine's own compiler, so many at a time."""

import argparse
import random
import shutil
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from nomothet.bench.platforms import usable_processors

# Exit status for a requirement that the machine does not meet (EX_UNAVAILABLE of sysexits).
UNAVAILABLE = 69


def source(number: int, functions: int = 60) -> str:
    """One file of made-up arithmetic; the same for a number."""
    rng = random.Random(number)
    lines = ["#include <stdint.h>"]
    for at in range(functions):
        a, b, c = (rng.randrange(1, 1 << 20) for _ in range(3))
        lines.append(
            f"uint64_t f{number}_{at}(uint64_t x) {{ uint64_t s = {a};"
            f" for (uint64_t i = 0; i < (x & 63); i++) s = s * {b} + (x ^ i) % {c}; return s; }}"
        )
    return "\n".join(lines) + "\n"


def main() -> int:
    """Write the files, build them and write how long it took."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--files", type=int, default=40)
    arguments = parser.parse_args()
    compiler = shutil.which("cc")
    if compiler is None:
        print("there is no C compiler (cc) on this machine", file=sys.stderr)
        return UNAVAILABLE
    jobs = len(usable_processors())
    with tempfile.TemporaryDirectory(dir=".") as folder:
        paths = []
        for number in range(arguments.files):
            path = Path(folder) / f"part{number}.c"
            path.write_text(source(number))
            paths.append(path)

        def build(path: Path) -> None:
            subprocess.run([compiler, "-O2", "-c", str(path), "-o", str(path.with_suffix(".o"))], check=True)

        print(f"phase building, {jobs} at a time", flush=True)
        begin = time.perf_counter()
        with ThreadPoolExecutor(jobs) as pool:
            for done, _ in enumerate(pool.map(build, paths), start=1):
                spent = time.perf_counter() - begin
                print(f"left {spent / done * (len(paths) - done):.1f}", flush=True)
        print(f"figure build_s {time.perf_counter() - begin:.4f}", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
