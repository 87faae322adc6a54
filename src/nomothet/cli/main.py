"""The `nomothet` command."""

import argparse
import sys
from collections.abc import Sequence

from nomothet.cli import compare, frames
from nomothet.core.errors import MethodError
from nomothet.formats.errors import FormatError


def main(argv: Sequence[str] | None = None) -> int:
    """Run the command line; bad input ends with a message and status 2."""
    parser = argparse.ArgumentParser(prog="nomothet", description="Figures, comparisons and the bench of Nomothet.")
    commands = parser.add_subparsers(title="commands", required=True, metavar="COMMAND")
    given = list(sys.argv[1:] if argv is None else argv)
    frames.add_to(commands)
    compare.add_to(commands)
    _add_check(commands, given)
    _add_analyse(commands, given)
    _add_bench(commands, given)
    arguments = parser.parse_args(given)
    try:
        return int(arguments.run(arguments))
    except (FormatError, MethodError, OSError) as error:
        print(f"nomothet: {error}", file=sys.stderr)
        return 2


def _add_check(commands: "argparse._SubParsersAction[argparse.ArgumentParser]", given: Sequence[str]) -> None:
    if given[:1] == ["check"]:
        from nomothet.cli import check

        check.add_to(commands)
    else:
        commands.add_parser("check", help="work the figures of a published record out again from its package")


def _add_analyse(commands: "argparse._SubParsersAction[argparse.ArgumentParser]", given: Sequence[str]) -> None:
    # All of the core takes a while to load, which the other commands need not wait for.
    if given[:1] == ["analyse"]:
        from nomothet.cli import analyse

        analyse.add_to(commands)
    else:
        commands.add_parser("analyse", help="check a figure with the core: passes, limits, memory …")


def _add_bench(commands: "argparse._SubParsersAction[argparse.ArgumentParser]", given: Sequence[str]) -> None:
    # The bench brings an HTTP client along, which reading a file of frame times must not wait for.
    if given[:1] in (["bench"], ["meter"]):
        from nomothet.bench import command

        command.add_to(commands)
        command.add_meter_to(commands)
    else:
        commands.add_parser("bench", help="run workloads on this machine for a Nomothet server")
        commands.add_parser("meter", help="play a power meter that speaks SCPI, to try a bench with")


if __name__ == "__main__":
    sys.exit(main())
