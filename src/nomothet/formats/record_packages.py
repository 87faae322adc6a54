"""Reading the package of a record, and working its figures out again from its captures and readings."""

import csv
import hashlib
import io
import json
import math
import zipfile
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np

from nomothet.core.errors import MethodError
from nomothet.core.frames import checked_frame_times, figures_of_pieces
from nomothet.core.passes import summary
from nomothet.core.segments import Counting, Span, pieces_that_count
from nomothet.formats.errors import FormatError
from nomothet.formats.words import frame_values

ABOUT = "datapackage.json"
# What a package may unpack to; a file that claims more is none of ours.
MOST_BYTES = 8 * 1024**3
# Figures are compared to so many significant digits: further than any is shown.
_DIGITS = 1e-9


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
    changes: int = 0
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
    except (zipfile.BadZipFile, OSError) as error:
        raise FormatError(f"{path.name} cannot be read as a package: {error}") from None
    with archive:
        about = _about(archive, path.name)
        checked = Checked()
        _check_bytes(archive, about, checked)
        named = {one["path"]: one for one in about["resources"]}
        try:
            record = json.loads(archive.read("record.json"))
            figures = _table(archive, "figures.csv")
            comparisons = _table(archive, "comparisons.csv")
            _check_frames(archive, named, record, figures, checked)
            _check_cells(figures, comparisons, record, checked)
            if not checked.centres and any(row["centre"] for row in comparisons):
                checked.wrong.append(Wrong("comparisons.csv", "centres of cells", "no figures that they are made of"))
        except (KeyError, ValueError, TypeError, AttributeError, zipfile.BadZipFile) as error:
            checked.wrong.append(Wrong(path.name, "readable", f"cannot be read any further: {error!r}"))
    return checked


def _about(archive: zipfile.ZipFile, name: str) -> dict[str, Any]:
    try:
        about = json.loads(archive.read(ABOUT))
    except (KeyError, ValueError) as error:
        raise FormatError(f"{name} has no {ABOUT} that can be read: {error}") from None
    resources = about.get("resources") if isinstance(about, dict) else None
    if not isinstance(resources, list) or not all(isinstance(one, dict) and "path" in one for one in resources):
        raise FormatError(f"{ABOUT} in {name} names no files")
    if sum(one.file_size for one in archive.infolist()) > MOST_BYTES:
        raise FormatError(f"{name} would unpack to more than {MOST_BYTES // 1024**3} GiB")
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
        except (zipfile.BadZipFile, OSError, EOFError, ValueError) as error:
            checked.wrong.append(Wrong(path, "as published", f"damaged: {error}"))
            continue
        if f"sha256:{digest.hexdigest()}" != one.get("hash"):
            checked.wrong.append(Wrong(path, "as published", "its bytes are others"))
    for extra in sorted(there - {str(one["path"]) for one in about["resources"]} - {ABOUT}):
        checked.wrong.append(Wrong(extra, "not in the package", "added"))


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


def _figures_again(frame_ms: Sequence[float], rules: Mapping[str, Any]) -> dict[str, float]:
    counting = Counting(rules["skip_s"], rules["end_cut_s"], rules["rule"], tuple(rules["labels"]))
    pieces = pieces_that_count(
        checked_frame_times(np.asarray(frame_ms)),
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


def _column(archive: zipfile.ZipFile, path: str, name: str) -> list[float]:
    with archive.open(path) as file:
        rows: Iterator[dict[str, str]] = csv.DictReader(io.TextIOWrapper(file, "utf-8", newline=""))
        return [float(row[name]) for row in rows]


def _check_cells(
    figures: Sequence[Mapping[str, str]],
    comparisons: Sequence[Mapping[str, str]],
    record: Mapping[str, Any],
    checked: Checked,
) -> None:
    """The centre of every cell from the figures of its passes, and its change against the baseline."""
    baseline = next(
        (one["label"] for one in record["review"]["columns"] if one["id"] == record["matrix"]["baseline"]), ""
    )
    values: dict[tuple[str, ...], list[float]] = {}
    for row in figures:
        if row["metric"] and row["counts"] == "yes" and not row["bound"] and row["thin"] != "yes":
            values.setdefault((*_test(row), row["metric"], row["configuration"]), []).append(float(row["value"]))
    centres = {(*_test(row), row["metric"], row["configuration"]): row["centre"] for row in comparisons}
    definition = record["review"]["low_definition"]
    for row in comparisons:
        key = (*_test(row), _stored(row["metric"], definition), row["configuration"])
        own = values.get(key, [])
        if not row["centre"] or len(own) != int(row["n"]):
            continue
        where = ", ".join(filter(None, (row["test"], row["detail"], row["label"], row["configuration"])))
        scale = "ratio" if row["change_unit"] == "%" else "difference"
        checked.centres += 1
        if not any(_same(float(row["centre"]), summary(own, one).centre) for one in ("ratio", "difference")):
            checked.wrong.append(Wrong(where, row["centre"], f"{summary(own, 'ratio').centre!r}"))
            continue
        base = centres.get((*_test(row), row["metric"], baseline), "")
        if row["change"] and base and row["verdict"]:
            checked.changes += 1
            _check_change(where, row, float(base), scale, checked)


def _check_change(where: str, row: Mapping[str, str], base: float, scale: str, checked: Checked) -> None:
    """A change is that of the centres, but where it was made by rounds or sessions; then it lies in its interval."""
    centre, told = float(row["centre"]), float(row["change"])
    again = 100 * (centre / base - 1) if scale == "ratio" else centre - base
    ends = (row["change_low"], row["change_high"])
    inside = all(ends) and float(ends[0]) - _DIGITS <= again <= float(ends[1]) + _DIGITS
    if not (math.isclose(told, again, rel_tol=1e-6, abs_tol=1e-9) or inside):
        checked.wrong.append(Wrong(f"{where}, change", row["change"], f"{again!r}"))


def _test(row: Mapping[str, str]) -> tuple[str, str, str, str]:
    return row["test"], row["version"], row["detail"], row["settings"]


def _stored(metric: str, definition: str) -> str:
    return f"{metric}_{definition}" if metric in ("low_1pct", "low_01pct") else metric


def _same(published: float, again: float) -> bool:
    return math.isclose(published, again, rel_tol=_DIGITS, abs_tol=1e-12)
