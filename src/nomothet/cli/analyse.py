"""`nomothet analyse KIND FILE.json`: any figure of a record can be checked with the core, without a server."""

import argparse
import json
from pathlib import Path

from nomothet.formats.analyses import KINDS, analyse
from nomothet.formats.json_files import read_json

_SHAPES = """\
kinds and what FILE.json holds (docs/analyse.md has them in full):
  passes      {"values": [..], "scale": "ratio" or "difference", "others": [[..], ..], "borrowed_sd": n}
  limits      a recording: {"frame_times_ms": [..], "starts_at_s": 0, "length_s": n, "sensors": [{"name", "unit",
              "t_s": [..], "values": [..], "capacity": n}], "from_s": n, "to_s": n,
              "declared": {"cap_fps", "power_w", "temperature_c"}}
  sustained   a recording, as for limits
  overhead    {"tests": {"NAME": {"off": [..], "on": [..], "direction": "higher"}}}
  memory      a recording, as for limits; or {"rate_mts": n, "channels": n, "cas": n, "reading": n}
  comparable  {"a": {..}, "b": {..}, "factors": [..], "accepted": {"KEY": "words"}}
  enough      {"tests": {"NAME": {"values": [..], "capacity": n, "idle": n}}, "sizes": [..], "reserve": 0.2}
  search      {"plan": {"start", "growth", "resolution", "confirm", ..}, "attempts": [{"load", "holds", "hot"}]}
"""


def add_to(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    parser = commands.add_parser(
        "analyse",
        help="check a figure with the core: passes, limits, memory …",
        epilog=_SHAPES,
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )
    parser.add_argument("kind", metavar="KIND", choices=list(KINDS), help=", ".join(KINDS))
    parser.add_argument("file", type=Path, metavar="FILE.json", help="plain data, see below")
    parser.set_defaults(run=_run)


def _run(arguments: argparse.Namespace) -> int:
    print(json.dumps(analyse(arguments.kind, read_json(arguments.file)), indent=2, ensure_ascii=False))
    return 0
