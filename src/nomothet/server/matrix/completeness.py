"""What is missing before a verdict: every hole with its reason, what is not trusted, flags that nobody looked at."""

from collections import Counter, defaultdict
from dataclasses import dataclass

from nomothet.server.analysis.models import Hypothesis, Look
from nomothet.server.matrix.matrix import MatrixShape, matrix
from nomothet.server.matrix.progress import ProgressCell
from nomothet.server.matrix.row_shapes import RowShape
from nomothet.server.reviews.models import Review
from nomothet.words.completeness import hole_remedy


@dataclass(frozen=True)
class HoleShape:
    """A cell, or one of its metrics, that a verdict would have to do without."""

    test: int
    column: int
    metric: str
    reason: str
    words: str
    remedy: str


@dataclass(frozen=True)
class OpenFlagShape:
    """A flag of a cell. `looked` says who has looked at it; empty for nobody."""

    test: int
    column: int
    key: str
    words: str
    looked: str


@dataclass(frozen=True)
class DistrustShape:
    test: int
    metric: str
    label: str
    reason: str


@dataclass(frozen=True)
class CompletenessShape:
    """All that stands between a review and its verdict. `done` when there is no hole and no flag without a look."""

    holes: list[HoleShape]
    flags: list[OpenFlagShape]
    untrusted: list[DistrustShape]
    drift: list[str]
    open_hypotheses: int
    cells: int
    whole: int
    done: bool
    # How many targets are met, met by the average only, missed, and not to be told.
    targets: dict[str, int]


def completeness(review: Review, known: MatrixShape | None = None) -> CompletenessShape:
    """The check of a whole review.

    Parameters
    ----------
    known : MatrixShape, optional
        The matrix of the review, where it was computed already.
    """
    shown = known or matrix(review)
    columns = list(review.columns.select_related("configuration"))
    blocked = {column.pk: column.configuration.blocked for column in columns}
    cells = {(row.test, int(column)): cell for row in shown.progress for column, cell in row.cells.items()}
    rows: dict[int, list[RowShape]] = defaultdict(list)
    for row in shown.rows:
        rows[row.test].append(row)
    holes: list[HoleShape] = []
    whole = 0
    for line in shown.progress:
        test = line.test
        for column in columns:
            cell = cells.get((test, column.pk))
            reason, words = _reason(cell, blocked[column.pk], review.passes_per_test)
            found = [_hole(test, column.pk, "", reason, words)] if reason else []
            found += _failures(cell, test, column.pk, reason)
            if reason in ("", "too few passes"):
                found += _unread(rows[test], test, column.pk)
                found += _untold(rows[test], test, column.pk)
            holes += found
            whole += not found
    looks = {
        (look.test_id, look.column_id, look.flag): look.by.display_name
        for look in Look.objects.filter(test__review=review).select_related("by")
    }
    flags = [
        OpenFlagShape(row.test, int(column), one.key, one.words, looks.get((row.test, int(column), one.key), ""))
        for row in shown.flags
        for column, own in row.cells.items()
        for one in own
    ]
    untrusted = [DistrustShape(row.test, row.metric, row.label, row.untrusted) for row in shown.rows if row.untrusted]
    return CompletenessShape(
        holes=holes,
        flags=flags,
        untrusted=untrusted,
        drift=[one.words for one in shown.returned if one.drifted],
        open_hypotheses=Hypothesis.objects.filter(review=review, status="open").count(),
        cells=len(shown.progress) * len(columns),
        whole=whole,
        done=not holes and all(flag.looked for flag in flags),
        targets=dict(Counter(one.code for row in shown.rows for told in row.targets.values() for one in told)),
    )


def _hole(test: int, column: int, metric: str, reason: str, words: str) -> HoleShape:
    return HoleShape(test, column, metric, reason, words, hole_remedy(reason))


def _reason(cell: ProgressCell | None, blocked: str, wanted: int) -> tuple[str, str]:
    """Why a cell has no figures, or too few passes; nothing where it has enough."""
    kept = [pip for pip in cell.pips if pip.state in ("kept", "flagged")] if cell else []
    if len(kept) >= wanted:
        return "", ""
    if blocked:
        return "blocked", blocked
    if cell is None:
        return "never asked", "no pass was ever asked for"
    count = f"{len(kept)} of {wanted} passes"
    if cell.owed:
        return "owed", f"{count}; {cell.owed} owed"
    if cell.running:
        return "running", f"{count}; one is running"
    failed = [pip.words for pip in cell.pips if pip.state == "failed"]
    if not kept and failed:
        return "failed", failed[-1]
    if not kept and cell.pips:
        return "set aside", "every pass is set aside"
    return ("too few passes", count) if kept else ("never asked", "no pass was ever asked for")


def _failures(cell: ProgressCell | None, test: int, column: int, reason: str) -> list[HoleShape]:
    """What failed in a cell that lacks passes for another reason too: owing more hides no failure."""
    failed = [pip.words for pip in cell.pips if pip.state == "failed"] if cell else []
    if not failed or reason in ("", "failed"):
        return []
    return [_hole(test, column, "", "failed", ", ".join(dict.fromkeys(failed)))]


def _untold(rows: list[RowShape], test: int, column: int) -> list[HoleShape]:
    """Targets that cannot be told though the cell has passes and a figure."""
    return [
        _hole(test, column, row.metric, "target not told", one.words)
        for row in rows
        if str(column) in row.cells
        for one in row.targets.get(str(column), [])
        if one.code == "cannot tell"
    ]


def _unread(rows: list[RowShape], test: int, column: int) -> list[HoleShape]:
    """Metrics of a cell with passes that have no value, or one that cannot be compared."""
    holes = []
    for row in rows:
        cell, label, metric = row.cells.get(str(column)), row.label, row.metric
        if cell is None:
            gap = row.gaps.get(str(column), "")
            words = gap or (
                "only as about, over or under" if row.apart.get(str(column)) else f"{label} was not recorded"
            )
            holes.append(_hole(test, column, metric, "not recorded", words))
        elif cell.thin:
            holes.append(_hole(test, column, metric, "thin tail", f"{label}: thin tail"))
        elif cell.why_not_code in ("held_at", "masked"):
            holes.append(_hole(test, column, metric, "shows nothing", f"{label}: {cell.why_not}"))
        elif cell.comparison is not None and cell.comparison.verdict == "noise unknown":
            holes.append(_hole(test, column, metric, "noise unknown", f"{label}: one pass each"))
    return holes
