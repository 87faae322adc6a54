"""Reading the package of a record, and working its figures out again from its captures and readings."""

import csv
import hashlib
import io
import json
import math
import zipfile
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
import pandas as pd
from numpy.typing import NDArray

from nomothet.core.errors import MethodError
from nomothet.core.frames import checked_frame_times, figures_of_pieces
from nomothet.core.passes import summary
from nomothet.core.segments import Counting, Span, pieces_that_count
from nomothet.formats.archives import BROKEN
from nomothet.formats.errors import FormatError
from nomothet.formats.record_comparisons import comparisons_again
from nomothet.formats.words import frame_values

ABOUT = "datapackage.json"
# What a package may unpack to; a file that claims more is none of ours.
MOST_BYTES = 8 * 1024**3
# Figures are compared to so many significant digits: further than any is shown.
_DIGITS = 1e-9
_HASH_SHOWN = len("sha256:") + 12


# What a damaged, encrypted or oddly packed member ends in.


@dataclass(frozen=True)
class Wrong:
    """Something that is not as it was published."""

    where: str
    published: str
    found: str


@dataclass
class Checked:
    """What came of checking a package."""

    files: int = 0
    figures: int = 0
    centres: int = 0
    comparisons: int = 0
    wrong: list[Wrong] = field(default_factory=list)
    # Figures that no capture of the package tells: typed in, or read from what a program wrote.
    as_typed: int = 0


def check_package(path: Path) -> Checked:
    """Check every byte of a package against its hash, and work its figures out again.

    Raises
    ------
    FormatError
        When the file is no package of a record.
    """
    try:
        archive = zipfile.ZipFile(path)
    except BROKEN as error:
        raise FormatError(f"{path.name} cannot be read as a package: {error}") from None
    with archive:
        return check_archive(archive, path.name, most_bytes=MOST_BYTES, most_read=MOST_BYTES)


def check_archive(archive: zipfile.ZipFile, name: str, *, most_bytes: int, most_read: int) -> Checked:
    """The same for a package that is open.

    Parameters
    ----------
    name : str
        What it is called where it is refused.
    most_bytes, most_read : int
        What the package may unpack to, and what each of its files may.
    """
    about = about_package(archive, name, most_bytes, most_read)
    checked = Checked()
    _check_bytes(archive, about, checked)
    named = {one["path"]: one for one in about["resources"]}
    try:
        record = read_json(archive, "record.json")
        figures = _table(archive, "figures.csv")
        comparisons = _table(archive, "comparisons.csv")
        _check_frames(archive, named, record, figures, checked)
        _check_samples(figures, record, checked)
        _check_centres(figures, comparisons, record, checked)
        _check_comparisons(comparisons, record, checked)
        if not checked.centres and any(row["centre"] for row in comparisons):
            checked.wrong.append(Wrong("comparisons.csv", "centres of cells", "no figures that they are made of"))
    except (LookupError, ValueError, TypeError, AttributeError, RecursionError, MethodError, *BROKEN) as error:
        checked.wrong.append(Wrong(name, "readable", f"cannot be read any further: {error!r}"))
    return checked


def about_package(archive: zipfile.ZipFile, name: str, most_bytes: int, most_read: int) -> dict[str, Any]:
    """What a package says of itself.

    Raises
    ------
    FormatError
        When it is no package of a record, or larger than what is taken.
    """
    sizes = [one.file_size for one in archive.infolist()]
    if sum(sizes) > most_bytes:
        raise FormatError(f"{name} would unpack to more than {most_bytes / 1024**3:.3g} GiB")
    if max(sizes, default=0) > most_read:
        raise FormatError(f"a file in {name} is larger than {most_read / 1024**2:.3g} MiB")
    try:
        about = read_json(archive, ABOUT)
    except (KeyError, ValueError, RecursionError, *BROKEN) as error:
        raise FormatError(f"{name} has no {ABOUT} that can be read: {error}") from None
    resources = about.get("resources") if isinstance(about, dict) else None
    if not isinstance(resources, list) or not all(isinstance(one, dict) and "path" in one for one in resources):
        raise FormatError(f"{ABOUT} in {name} names no files")
    return dict(about)


def _check_bytes(archive: zipfile.ZipFile, about: Mapping[str, Any], checked: Checked) -> None:
    there = set(archive.namelist())
    for one in about["resources"]:
        path = str(one["path"])
        checked.files += 1
        if path not in there:
            checked.wrong.append(Wrong(path, "in the package", "missing"))
            continue
        digest = hashlib.sha256()
        try:
            with archive.open(path) as file:
                for piece in iter(lambda file=file: file.read(1 << 20), b""):  # type: ignore[misc]
                    digest.update(piece)
        except BROKEN as error:
            checked.wrong.append(Wrong(path, "as published", f"damaged: {error}"))
            continue
        found = f"sha256:{digest.hexdigest()}"
        if found != one.get("hash"):
            checked.wrong.append(Wrong(path, str(one.get("hash"))[:_HASH_SHOWN], f"{found[:_HASH_SHOWN]}, other bytes"))
    for extra in sorted(there - {str(one["path"]) for one in about["resources"]} - {ABOUT}):
        checked.wrong.append(Wrong(extra, "not in the package", "added"))


def read_json(archive: zipfile.ZipFile, path: str) -> Any:
    """A file of a package as JSON (RFC 8259: no numbers that are none).

    Raises
    ------
    ValueError, KeyError
        When it is none, or is not there.
    """

    def refuse(word: str) -> None:
        raise ValueError(f"{word} is no number of JSON")

    return json.loads(archive.read(path), parse_constant=refuse)


def _table(archive: zipfile.ZipFile, path: str) -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO(archive.read(path).decode("utf-8"), newline="")))


def _check_frames(
    archive: zipfile.ZipFile,
    named: Mapping[str, Mapping[str, Any]],
    record: Mapping[str, Any],
    figures: Sequence[Mapping[str, str]],
    checked: Checked,
) -> None:
    """The figures of every pass with frames, from its frames."""
    frames = {str(one["pass_id"]): path for path, one in named.items() if one.get("kind") == "frames"}
    published: dict[str, dict[str, str]] = {}
    for row in figures:
        if row["metric"]:
            published.setdefault(row["pass_id"], {})[row["metric"]] = row["value"]
            checked.as_typed += row["pass_id"] not in frames
    for pass_id, rules in record["counted"].items():
        own = published.get(pass_id, {})
        if pass_id not in frames or not own:
            continue
        try:
            again = _figures_again(_column(archive, frames[pass_id], "frame_ms"), rules)
        except MethodError as error:
            checked.wrong.append(Wrong(f"pass {pass_id}", "has figures", str(error)))
            continue
        for metric, value in own.items():
            if metric not in again:
                checked.as_typed += 1
                continue
            checked.figures += 1
            if not _same(float(value), again[metric]):
                checked.wrong.append(Wrong(f"pass {pass_id}, {metric}", value, f"{again[metric]!r}"))


def _figures_again(frame_ms: NDArray[np.float64], rules: Mapping[str, Any]) -> dict[str, float]:
    counting = Counting(rules["skip_s"], rules["end_cut_s"], rules["rule"], tuple(rules["labels"]))
    pieces = pieces_that_count(
        checked_frame_times(frame_ms),
        counting,
        starts_at_s=rules["starts_at_s"],
        spans=[Span(**one) for one in rules["spans"]],
        aside=[Span(**one) for one in rules["aside"]],
    )
    found = figures_of_pieces(
        pieces,
        target_fps=rules["target_fps"],
        declared_cap_fps=rules["cap_fps"],
        median_graphics_use=rules["graphics_use"],
    )
    return {one.metric.key: one.value for one in frame_values(found)}


def _column(archive: zipfile.ZipFile, path: str, name: str) -> NDArray[np.float64]:
    with archive.open(path) as file:
        table = pd.read_csv(file, usecols=[name], dtype=np.float64, float_precision="round_trip")
    return np.ascontiguousarray(table[name])


def _check_samples(figures: Sequence[Mapping[str, str]], record: Mapping[str, Any], checked: Checked) -> None:
    """What comparisons are made of is what the passes show, where it is a figure and not worked out of several."""
    numbers = {(one["test"], one["column"], one["number"]): one["id"] for one in record["passes"]}
    published: dict[tuple[str, str], set[float]] = {}
    for row in figures:
        if row["metric"]:
            published.setdefault((row["pass_id"], row["metric"]), set()).add(float(row["value"]))
    definition = record["review"]["low_definition"]
    for row in record["matrix"]["rows"]:
        metric = _stored(row["metric"], definition)
        for column, sample in record.get("samples", {}).get(row["key"], {}).items():
            for number, value in zip(sample["passes"], sample["numbers"], strict=True):
                own = published.get((numbers.get((row["test"], int(column), number), ""), metric))
                if own is not None and not any(_same(one, value) for one in own):
                    told = " or ".join(repr(one) for one in sorted(own))
                    checked.wrong.append(Wrong(f"{row['label']}, pass {number}", repr(value), told))


def _check_centres(
    figures: Sequence[Mapping[str, str]],
    comparisons: Sequence[Mapping[str, str]],
    record: Mapping[str, Any],
    checked: Checked,
) -> None:
    """The centre of every cell from the figures of its passes."""
    values: dict[tuple[str, ...], list[float]] = {}
    for row in figures:
        if row["metric"] and row["counts"] == "yes" and not row["bound"] and row["thin"] != "yes":
            values.setdefault((*_test(row), row["metric"], row["configuration"]), []).append(float(row["value"]))
    definition = record["review"]["low_definition"]
    for row in comparisons:
        key = (*_test(row), _stored(row["metric"], definition), row["configuration"])
        own = values.get(key, [])
        if not row["centre"] or len(own) != int(row["n"]):
            continue
        where = ", ".join(filter(None, (row["test"], row["detail"], row["label"], row["configuration"])))
        checked.centres += 1
        if not any(_same(float(row["centre"]), summary(own, one).centre) for one in ("ratio", "difference")):
            checked.wrong.append(Wrong(where, row["centre"], f"{summary(own, 'ratio').centre!r}"))


def _check_comparisons(comparisons: Sequence[Mapping[str, str]], record: Mapping[str, Any], checked: Checked) -> None:
    """Changes, intervals and verdict words; a record of an earlier format does not say what they are made of."""
    if not record.get("samples"):
        return
    for one in comparisons_again(record, comparisons):
        checked.comparisons += 1
        if not one.agrees:
            checked.wrong.append(Wrong(one.where, one.published, one.found))


def _test(row: Mapping[str, str]) -> tuple[str, str, str, str]:
    return row["test"], row["version"], row["detail"], row["settings"]


def _stored(metric: str, definition: str) -> str:
    return f"{metric}_{definition}" if metric in ("low_1pct", "low_01pct") else metric


def _same(published: float, again: float) -> bool:
    return math.isclose(published, again, rel_tol=_DIGITS, abs_tol=1e-12)
