"""What a workload has written: figures read from it by rules, and the text itself, kept with the pass."""

from pathlib import Path
from typing import Any

from nomothet.bench.job import Captured, Job, Reported
from nomothet.formats.output import OUTPUT, bounded, columns_of, without_frames
from nomothet.formats.reading_rules import MOST_SAMPLE
from nomothet.formats.rule_reading import read_by_rules

# A rule reads the end of a longer output, where results usually stand.
_MOST_BYTES = MOST_SAMPLE
# Beyond this a text is not even read to be shortened.
_MOST_READ = 64 << 20


def read_figures(
    job: Job, folder: Path, said: dict[str, float], directory: Path, files: list[str]
) -> tuple[list[Reported], list[str]]:
    """The figures that the workload's metrics declare: what it said in our lines, else what a rule finds.

    Parameters
    ----------
    directory : Path
        Where it ran; `files` are names in there.

    Returns
    -------
    list of Reported
    list of str
        Why a rule found nothing, for the pass's note.
    """
    texts = [_end_of(path) for path in _texts_of(folder, directory, files).values()]
    found, missed = read_by_rules(job.rules, texts)
    declared = {metric["key"]: metric for metric in job.metrics}
    return [_reported(declared[key], value) for key, value in {**found, **said}.items() if key in declared], missed


def kept_texts(folder: Path, directory: Path, files: list[str]) -> list[Captured]:
    """What the program has written, to be kept with the pass; frames stand there as a series already."""
    kept = []
    for name, path in _texts_of(folder, directory, files).items():
        if not path.is_file():
            continue
        text = bounded(without_frames(_read(path)))
        if text.strip():
            kept.append(Captured(name[:80], OUTPUT, columns_of(text), source=path.name[:160]))
    return kept


def _texts_of(folder: Path, directory: Path, files: list[str]) -> dict[str, Path]:
    """By the name under which each is kept."""
    asked = {f"file {name}": path for name, path in zip(files, _asked(directory, files), strict=True) if path}
    return {"output": folder / "output.log", "errors": folder / "errors.log", **asked}


def _asked(directory: Path, files: list[str]) -> list[Path | None]:
    """Files of the working directory; a name that leads out of it is passed over."""
    base = directory.resolve()
    paths = [(base / name).resolve() for name in files]
    return [path if path.is_relative_to(base) else None for path in paths]


def _read(path: Path) -> bytes:
    """A file, or of a very long one its beginning and its end."""
    with path.open("rb") as file:
        size = file.seek(0, 2)
        file.seek(0)
        if size <= _MOST_READ:
            return file.read()
        head = file.read(_MOST_READ // 4)
        file.seek(size - _MOST_READ // 4 * 3)
        return head + f"\n[{size - _MOST_READ:,} bytes are left out here]\n".encode() + file.read()


def _end_of(path: Path) -> str:
    if not path.is_file():
        return ""
    with path.open("rb") as file:
        file.seek(0, 2)
        file.seek(max(0, file.tell() - _MOST_BYTES))
        return file.read().decode(errors="replace")[-MOST_SAMPLE:]


def _reported(metric: dict[str, Any], value: float) -> Reported:
    return Reported(metric["key"], value, metric["unit"], metric["direction"], metric["scale"])
