"""Storage: a file written with its data forced out, read back after the system was asked to forget it."""

import argparse
import os
import sys
import tempfile
import time

from nomothet.bench.platforms import forget_file

_BLOCK = os.urandom(1 << 20)


def main() -> int:
    """Write and read so many megabytes and write the two rates."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--megabytes", type=int, default=256)
    arguments = parser.parse_args()
    megabytes = arguments.megabytes
    with tempfile.NamedTemporaryFile(dir=".", prefix="storage-") as file:
        print("phase writing", flush=True)
        begin = time.perf_counter()
        for _ in range(megabytes):
            file.write(_BLOCK)
        file.flush()
        os.fsync(file.fileno())
        wrote = time.perf_counter() - begin
        print(f"figure write_mbs {megabytes * len(_BLOCK) / 1e6 / wrote:.2f}", flush=True)
        print("phase reading", flush=True)
        if not forget_file(file.fileno()):
            print("note read from memory, as this system is not asked to forget a file", flush=True)
        file.seek(0)
        begin = time.perf_counter()
        while file.read(len(_BLOCK)):
            pass
        print(f"figure read_mbs {megabytes * len(_BLOCK) / 1e6 / (time.perf_counter() - begin):.2f}", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
