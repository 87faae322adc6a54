"""Figures read from what a workload has written, by its reading rules."""

from pathlib import Path
from typing import Any

from nomothet.bench.job import Job, Reported
from nomothet.formats.errors import FormatError
from nomothet.formats.reading_rules import MOST_SAMPLE, Rule, apply_rule

# A rule reads the end of a longer output, where results usually stand.
_MOST_BYTES = MOST_SAMPLE


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
    found: dict[str, float] = {}
    missed = []
    texts = [_end_of(path) for path in [folder / "output.log", folder / "errors.log"]]
    texts += [_end_of(path) for path in _asked(directory, files)]
    for given in job.rules:
        rule = Rule(given["kind"], given["expression"], given.get("metric", ""))
        problem = _apply(rule, texts, found)
        if problem:
            missed.append(f"{given.get('name') or rule.metric or rule.expression}: {problem}")
    declared = {metric["key"]: metric for metric in job.metrics}
    return [_reported(declared[key], value) for key, value in {**found, **said}.items() if key in declared], missed


def _apply(rule: Rule, texts: list[str], found: dict[str, float]) -> str:
    """Take what a rule finds in the first text where it finds anything; its last match counts."""
    problem = "found nothing"
    for text in texts:
        if not text:
            continue
        try:
            matches = [match for match in apply_rule(rule, text) if match.value is not None]
        except FormatError as error:
            problem = str(error)
            continue
        if matches:
            for match in matches:
                if match.value is not None:
                    found[match.metric] = match.value
            return ""
    return problem


def _asked(directory: Path, files: list[str]) -> list[Path]:
    """Files of the working directory; a name that leads out of it is passed over."""
    base = directory.resolve()
    paths = [(base / name).resolve() for name in files]
    return [path for path in paths if path.is_relative_to(base)]


def _end_of(path: Path) -> str:
    if not path.is_file():
        return ""
    with path.open("rb") as file:
        file.seek(0, 2)
        file.seek(max(0, file.tell() - _MOST_BYTES))
        return file.read().decode(errors="replace")[-MOST_SAMPLE:]


def _reported(metric: dict[str, Any], value: float) -> Reported:
    return Reported(metric["key"], value, metric["unit"], metric["direction"], metric["scale"])
