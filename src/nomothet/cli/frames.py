"""`nomothet frames FILE`: the figures of section 1 for a file of frame times."""

import argparse
import dataclasses
import json
from pathlib import Path

from nomothet.core.frames import FrameFigures, Low, cut, frame_figures
from nomothet.formats.frame_table import FrameTable, read_frame_table


def add_to(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    parser = commands.add_parser("frames", help="figures of a file of frame times")
    parser.add_argument("file", type=Path, metavar="FILE", help="CSV: a header line, a column of ms or timestamps")
    parser.add_argument("--json", action="store_true", help="print JSON")
    parser.add_argument("--target", type=_positive, metavar="FPS", help="rate for the time under a target")
    parser.add_argument("--skip", type=_not_negative, default=0.0, metavar="SECONDS", help="warm-up to leave out")
    parser.add_argument("--column", metavar="NAME", help="the column to read")
    parser.add_argument("--unit", choices=["s", "ms", "us", "ns"], help="the column's unit")
    parser.set_defaults(run=_run)


def _positive(text: str) -> float:
    value = float(text)
    if not 0 < value < float("inf"):
        raise argparse.ArgumentTypeError(f"{text} is not above 0")
    return value


def _not_negative(text: str) -> float:
    value = float(text)
    if not 0 <= value < float("inf"):
        raise argparse.ArgumentTypeError(f"{text} is negative or not finite")
    return value


def _run(arguments: argparse.Namespace) -> int:
    table = read_frame_table(arguments.file, column=arguments.column, unit=arguments.unit)
    figures = frame_figures(cut(table.frame_times_ms, arguments.skip), target_fps=arguments.target)
    if arguments.json:
        print(json.dumps(dataclasses.asdict(figures), indent=2))
    else:
        print(_report(figures, table, arguments.target))
    return 0


def _report(figures: FrameFigures, table: FrameTable, target: float | None) -> str:
    lines = [
        ("frames", f"{figures.frames} in {figures.duration_s:.3f} s ({table.kind}, {table.column!r}, {table.unit})"),
        ("average", f"{figures.average_fps:.3f} fps"),
        ("percentiles", _percentiles(figures)),
        ("1 % low", _low(figures.low_1pct)),
        ("0.1 % low", _low(figures.low_01pct)),
        (
            "lowest second",
            "under one second recorded" if figures.lowest_second_fps is None else f"{figures.lowest_second_fps} fps",
        ),
        (
            "hitches",
            f"{figures.hitches}, {figures.hitch_rate_per_min:.2f} per minute, "
            f"{100 * figures.hitch_time_share:.2f} % of the time",
        ),
        ("pacing unevenness", f"{figures.pacing_unevenness_pct:.2f} %"),
        ("held rate", "none" if figures.held_fps is None else f"{figures.held_fps:g} fps"),
    ]
    if figures.under_target_share is not None:
        lines.append((f"under {target:g} fps", f"{100 * figures.under_target_share:.2f} % of the time"))
    if figures.capture_gaps:
        lines.append(("capture gaps", f"{figures.capture_gaps} (a frame over 10 s)"))
    return "\n".join(f"{name:<18} {text}" for name, text in lines)


def _percentiles(figures: FrameFigures) -> str:
    shares = (("50", figures.p50_ms), ("95", figures.p95_ms), ("99", figures.p99_ms), ("99.9", figures.p999_ms))
    return ", ".join(f"{share} %: {value:.3f} ms" for share, value in shares)


def _low(low: Low) -> str:
    text = (
        f"{low.slowest_mean:.3f} fps (mean of the slowest), {low.percentile:.3f} (percentile), "
        f"{low.time_share:.3f} (time share)"
    )
    return text + (", thin tail" if low.thin else "")
