"""`nomothet check FILE.zip`: the package of a record, byte by byte and figure by figure."""

import argparse
from pathlib import Path

from nomothet.formats.record_packages import Checked, check_package

# So much that is wrong is listed; the rest is counted.
_LISTED = 20


def add_to(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    parser = commands.add_parser("check", help="work the figures of a published record out again from its package")
    parser.add_argument("file", type=Path, metavar="FILE.zip", help="the data package of a record")
    parser.set_defaults(run=_run)


def _run(arguments: argparse.Namespace) -> int:
    checked = check_package(arguments.file)
    print("\n".join(_told(checked)))
    return 1 if checked.wrong else 0


def _told(checked: Checked) -> list[str]:
    lines = [
        f"{checked.files} files compared with their hashes.",
        f"{checked.figures} figures worked out again from frame times, {checked.centres} centres of cells from the "
        f"figures of their passes, and {checked.comparisons} comparisons with their intervals and verdict words.",
        f"{checked.as_typed} figures were typed in or read from what a program wrote; they are as published.",
    ]
    if not checked.wrong:
        return [*lines, "All of them agree, to the last digit shown."]
    lines.append(f"{len(checked.wrong)} do not agree:")
    lines += [f"  {one.where}: published {one.published}, found {one.found}" for one in checked.wrong[:_LISTED]]
    if len(checked.wrong) > _LISTED:
        lines.append(f"  and {len(checked.wrong) - _LISTED} more")
    return lines
