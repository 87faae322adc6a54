"""What changed between two editions of a record: figures, verdicts, passes and words."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from nomothet.words.numbers import with_unit

# So many are listed; the rest is counted.
MOST_LISTED = 200


@dataclass(frozen=True)
class CorrectionShape:
    """Something that is otherwise than in the edition before: a figure, a verdict, a pass or the text."""

    kind: str
    what: str
    before: str
    after: str


def changes(before: Mapping[str, Any], after: Mapping[str, Any]) -> list[CorrectionShape]:
    """The changes from one content of a record to another."""
    found = [*_words(before, after), *_passes(before, after), *_figures(before, after)]
    if len(found) > MOST_LISTED:
        rest = len(found) - MOST_LISTED
        found = [*found[:MOST_LISTED], CorrectionShape("more", f"{rest} more changes", "", "")]
    return found


def _words(before: Mapping[str, Any], after: Mapping[str, Any]) -> Iterable[CorrectionShape]:
    old, new = before["verdict"], after["verdict"]
    if old["answer"] != new["answer"]:
        yield CorrectionShape("text", "the answer", old["answer"], new["answer"])
    texts = [{use["name"] or "in all": _text(use) for use in verdict["uses"]} for verdict in (old, new)]
    for name in dict.fromkeys([*texts[0], *texts[1]]):
        was, now = texts[0].get(name, ""), texts[1].get(name, "")
        if was != now:
            yield CorrectionShape("text", f"for {name}" if name != "in all" else name, was, now)
    for field, words in (("question", "the question"), ("disclosure", "interests"), ("skill_note", "limits")):
        if before["review"].get(field) != after["review"].get(field):
            yield CorrectionShape("text", words, before["review"].get(field) or "", after["review"].get(field) or "")


def _text(use: Mapping[str, Any]) -> str:
    return " ".join("".join(one["text"] for one in paragraph) for paragraph in use["paragraphs"])


def _passes(before: Mapping[str, Any], after: Mapping[str, Any]) -> Iterable[CorrectionShape]:
    old = {one["id"]: one for one in before["passes"]}
    new = {one["id"]: one for one in after["passes"]}
    added = sum(key not in old for key in new)
    if added:
        yield CorrectionShape("passes", "passes added", "", str(added))
    for key, one in new.items():
        was = old.get(key)
        if was is not None and was["set_aside"] != one["set_aside"]:
            told = ["set aside" if each["set_aside"] else "kept" for each in (was, one)]
            yield CorrectionShape(
                "passes", f"pass {one['number']} of {_cell(after, one['test'], one['column'])}", *told
            )


def _figures(before: Mapping[str, Any], after: Mapping[str, Any]) -> Iterable[CorrectionShape]:
    old = {row["key"]: row for row in before["matrix"]["rows"]}
    for row in after["matrix"]["rows"]:
        was = old.get(row["key"])
        if was is None:
            yield CorrectionShape("figure", f"{_test(after, row['test'])}, {row['label']}", "not in it", "added")
            continue
        for column in dict.fromkeys([*was["cells"], *row["cells"]]):
            told = [_told(each["cells"].get(column), row["unit"]) for each in (was, row)]
            if told[0] != told[1]:
                where = f"{_cell(after, row['test'], int(column))}, {row['label']}"
                yield CorrectionShape("figure", where, told[0], told[1])
    gone = set(old) - {row["key"] for row in after["matrix"]["rows"]}
    for key in sorted(gone):
        yield CorrectionShape("figure", f"{_test(before, old[key]['test'])}, {old[key]['label']}", "in it", "taken out")


def _told(cell: Mapping[str, Any] | None, unit: str) -> str:
    """A cell as far as its changes are told: its centre, and what it is against the baseline."""
    if cell is None:
        return "not measured"
    comparison = cell.get("comparison")
    against = f", {comparison['told']}, {comparison['verdict']}" if comparison else ""
    return f"{with_unit(cell['centre'], unit)}{against}"


def _test(content: Mapping[str, Any], test: int) -> str:
    found = next((one for one in content["review"]["tests"] if one["id"] == test), None)
    return ", ".join(filter(None, (found["name"], found["short"]))) if found else "a test"


def _cell(content: Mapping[str, Any], test: int, column: int) -> str:
    found = next((one for one in content["review"]["columns"] if one["id"] == column), None)
    return f"{_test(content, test)} on {found['label'] if found else 'a configuration'}"
