"""What differs between the configurations of a review, and what was observed to differ from what is set."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from nomothet.core.differences import Aspect, Row, Table, difference_table
from nomothet.core.quantities import Spec, Value, text_of
from nomothet.core.settings import CATALOGUE, setting_of
from nomothet.server.reviews.models import Column, Review
from nomothet.server.systems.queries import Seen, mismatch, observed, reading_of
from nomothet.server.systems.states import ConfigurationState, aspects_of, states


@dataclass(frozen=True)
class DifferenceRow:
    """One aspect over the columns. `flagged` names the columns whose value is not what the plan says.

    `kind` is factor, accepted, undeclared or observed; `setting` is the setting's key where the row can be edited.
    """

    key: str
    label: str
    kind: str
    group: str
    parents: list[str]
    setting: str
    values: dict[str, str | None]
    flagged: list[int]
    remark: str


@dataclass(frozen=True)
class CaveatShape:
    """An accepted difference; `values` says which columns it is between."""

    aspect: str
    label: str
    words: str
    by: str
    values: dict[str, str | None]


@dataclass(frozen=True)
class Differences:
    rows: list[DifferenceRow]
    constant: list[str]
    caveats: list[CaveatShape]


@dataclass(frozen=True)
class Compared:
    """The columns of a review with their states and the table of what differs."""

    columns: list[Column]
    # By configuration.
    held: Mapping[int, ConfigurationState]
    values: list[dict[str, Value]]
    table: Table
    seen: list[Mapping[str, Seen]]


def compared(review: Review) -> Compared:
    """The states of a review's columns side by side; six queries whatever their number."""
    own = list(review.columns.select_related("configuration__system"))
    held = states([column.configuration for column in own])
    about: dict[str, Aspect] = {}
    values = []
    for column in own:
        one, aspects = aspects_of(held[column.configuration_id], column.configuration.system)
        values.append(one)
        about |= aspects
    declared = [aspect for factor in review.factors for aspect in factor["aspects"]]
    accepted = [caveat.aspect for caveat in review.caveats.all()]
    seen = observed([column.configuration for column in own])
    return Compared(
        own,
        held,
        values,
        difference_table(values, about, declared, accepted),
        [seen.get(column.configuration_id, {}) for column in own],
    )


def differences(review: Review, side_by_side: Compared | None = None) -> Differences:
    """The difference table: what differs, observed values that do not match, caveats, and the rest folded."""
    found = side_by_side or compared(review)
    caveats = {caveat.aspect: caveat.words for caveat in review.caveats.all()}
    rows = [_row(review, found, row, caveats) for row in found.table.rows]
    for row in _observed_rows(found):
        after = next((at for at, one in enumerate(rows) if f"observed.{one.key}" == row.key), len(rows) - 1)
        rows.insert(after + 1, row)
    # Attributes of a part that is the same everywhere go without saying.
    same = {aspect.key for aspect, _ in found.table.constant}
    constant = [
        f"{aspect.label} {_text(aspect, value)}"
        for aspect, value in found.table.constant
        if not aspect.parents or aspect.parents[0] == "system" or aspect.parents[0] not in same
    ]
    return Differences(rows, constant, _caveats(review, found, rows))


def _row(review: Review, found: Compared, row: Row, caveats: Mapping[str, str]) -> DifferenceRow:
    key = row.aspect.key
    family = (key, *row.aspect.parents)
    names = [f["name"] for f in review.factors if set(family) & set(f["aspects"])]
    remark = {
        "factor": f"varied on purpose: {', '.join(names)}",
        "accepted": f"accepted: {next((caveats[one] for one in family if one in caveats), '')}",
        "undeclared": "set on some only" if row.incomplete else "differs, and is not what this review varies",
    }[row.status]
    return DifferenceRow(
        key=key,
        label=row.aspect.label,
        kind=row.status,
        group=row.aspect.group,
        parents=list(row.aspect.parents),
        setting="" if ("." in key and not key.startswith("tweak.")) or key == "system" else key,
        values={str(c.pk): _text(row.aspect, v) for c, v in zip(found.columns, row.values, strict=True)},
        flagged=[found.columns[at].pk for at in row.odd] if row.status == "undeclared" else [],
        remark=remark,
    )


def _observed_rows(found: Compared) -> list[DifferenceRow]:
    """A row for each setting that was observed to be other than what is set."""
    keys = dict.fromkeys(key for seen in found.seen for key in seen)
    rows = []
    for key in keys:
        flagged = [
            column.pk
            for column, values, seen in zip(found.columns, found.values, found.seen, strict=True)
            if key in seen and mismatch(key, values.get(key), seen[key].value)
        ]
        if flagged:
            setting = setting_of(key)
            texts = {
                str(column.pk): _seen_text(key, seen[key].value, values.get(key)) if key in seen else None
                for column, values, seen in zip(found.columns, found.values, found.seen, strict=True)
            }
            label = f"observed {setting.spec.label}"
            remark = "the machine did not take what was set"
            rows.append(
                DifferenceRow(f"observed.{key}", label, "observed", setting.group, [key], "", texts, flagged, remark)
            )
    return rows


def _seen_text(key: str, value: Value, wanted: Value | None) -> str:
    """An observed value; the clock of double data rate is told as the rate that it stands for."""
    spec = setting_of(key).spec
    rate = reading_of(key, value, wanted)
    if rate is not None and rate.halved:
        return f"{text_of(spec, rate.rate_mts)}, read as half"
    return text_of(spec, value)


def _caveats(review: Review, found: Compared, rows: Sequence[DifferenceRow]) -> list[CaveatShape]:
    by_key = {row.key: row for row in rows}
    return [
        CaveatShape(
            caveat.aspect,
            by_key[caveat.aspect].label if caveat.aspect in by_key else caveat.aspect,
            caveat.words,
            caveat.by.display_name,
            by_key[caveat.aspect].values if caveat.aspect in by_key else {},
        )
        for caveat in review.caveats.select_related("by")
    ]


def _text(aspect: Aspect, value: Value | None) -> str | None:
    if value is None:
        return None
    known = CATALOGUE.get(aspect.key)
    return text_of(known.spec if known else Spec(aspect.key, aspect.label, unit=aspect.unit), value)
