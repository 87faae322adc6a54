"""`nomothet bench`: connect a machine to a server."""

import argparse
import os
import signal
from dataclasses import replace
from pathlib import Path

import structlog

from nomothet.bench.agent import Agent
from nomothet.bench.clean_environment import pass_on
from nomothet.bench.client import ServerClient
from nomothet.bench.errors import BenchError
from nomothet.bench.job import Machine
from nomothet.bench.machine import RealMachine
from nomothet.bench.platforms import hide_from_others
from nomothet.bench.sampling import SensorSource
from nomothet.bench.simulated.faults import FlakyTransport, lost_seconds, read_fault
from nomothet.bench.simulated.machine import SimulatedMachine
from nomothet.bench.simulated.parameters import read_parameters
from nomothet.bench.sources.exporter import ExporterSource
from nomothet.bench.sources.meter import MeterSource
from nomothet.bench.sources.simulated_meter import SimulatedMeter
from nomothet.bench.spool import Spool

log = structlog.get_logger(__name__)


def add_to(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    parser = commands.add_parser("bench", help="run workloads on this machine for a Nomothet server")
    parser.add_argument("--server", required=True, metavar="URL", help="address of the server")
    parser.add_argument(
        "--token", help="bench token from the Systems page; better given as NOMOTHET_BENCH_TOKEN in the environment"
    )
    parser.add_argument(
        "--spool",
        type=Path,
        default=Path(os.environ.get("XDG_STATE_HOME", Path.home() / ".local" / "state")) / "nomothet" / "spool",
        metavar="DIR",
        help="where passes wait until the server has them",
    )
    parser.add_argument("--rate", type=_rate, default=4.0, metavar="HZ", help="samples a second, 1 to 50 (default 4)")
    parser.add_argument(
        "--exporter",
        action="append",
        default=[],
        metavar="URL",
        help="an exporter of OpenMetrics text to read sensors from, with the names wanted after a #; may be repeated",
    )
    parser.add_argument(
        "--meter",
        action="append",
        default=[],
        metavar="tcp://HOST:PORT",
        help="a power meter that speaks SCPI over TCP; may be repeated",
    )
    parser.add_argument(
        "--allow-commands",
        action="store_true",
        help="run workloads that are commands, where an admin has approved them for this system",
    )
    parser.add_argument(
        "--pass-environment",
        action="append",
        default=[],
        metavar="NAME",
        help="a variable that workloads get besides those that every program needs; may be repeated",
    )
    parser.add_argument("--simulate", type=Path, metavar="FILE.toml", help="play the machine that the file describes")
    parser.add_argument(
        "--fault",
        action="append",
        default=[],
        metavar="FAULT",
        help="of a simulated machine, something that goes wrong with every pass: crashed@40, stuck:temperature …",
    )
    parser.add_argument(
        "--speed",
        type=float,
        default=1.0,
        metavar="X",
        help="how much faster than life a simulated pass runs; 0 does not wait",
    )
    parser.add_argument("--until-idle", action="store_true", help="end when nothing is owed")
    parser.set_defaults(run=_run)


def _rate(text: str) -> float:
    value = float(text)
    if not 1 <= value <= 50:
        raise argparse.ArgumentTypeError("the rate must be 1 to 50 samples a second")
    return value


def _run(arguments: argparse.Namespace) -> int:
    token = arguments.token or os.environ.get("NOMOTHET_BENCH_TOKEN")
    pass_on(arguments.pass_environment)
    hide_from_others()
    try:
        if not token:
            raise BenchError("a token is needed: set NOMOTHET_BENCH_TOKEN or give --token; Systems issues it")
        agent = Agent(
            _machine(arguments),
            Spool(arguments.spool),
            ServerClient(arguments.server, token, _transport(arguments)),
            until_idle=arguments.until_idle,
        )
        for number in (signal.SIGINT, signal.SIGTERM):
            signal.signal(number, lambda _number, _frame: agent.end_by_signal())
        agent.run()
    except BenchError as error:
        log.error("the bench ends", reason=str(error))
        return 2
    return 0


def add_meter_to(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    parser = commands.add_parser("meter", help="play a power meter that speaks SCPI, to try a bench with")
    parser.add_argument("--port", type=int, default=5025)
    parser.set_defaults(run=_play_meter)


def _play_meter(arguments: argparse.Namespace) -> int:
    meter = SimulatedMeter(arguments.port)
    print(f"A simulated meter answers at tcp://127.0.0.1:{meter.port}; Ctrl-C ends it.", flush=True)
    try:
        meter.wait()
    except KeyboardInterrupt:
        meter.close()
    return 0


def _sources(arguments: argparse.Namespace) -> list[SensorSource]:
    exporters = [ExporterSource(address, arguments.rate) for address in arguments.exporter]
    return [*exporters, *(MeterSource(address, arguments.rate) for address in arguments.meter)]


def _machine(arguments: argparse.Namespace) -> Machine:
    if arguments.simulate is None:
        return RealMachine(
            rate_hz=arguments.rate, sources=_sources(arguments), commands_allowed=arguments.allow_commands
        )
    parameters = read_parameters(arguments.simulate)
    faults = [read_fault(text) for text in arguments.fault if lost_seconds(text) is None]
    parameters = replace(parameters, events=[*parameters.events, *faults])
    return SimulatedMachine(parameters, speed=arguments.speed, rate_hz=arguments.rate)


def _transport(arguments: argparse.Namespace) -> FlakyTransport | None:
    lost = [seconds for text in arguments.fault if (seconds := lost_seconds(text)) is not None]
    return FlakyTransport(lost[0]) if lost else None
