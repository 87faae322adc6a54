"""What a record tells besides its results: what was compared, how it was measured, and what went wrong."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from nomothet.server.records.page.results import heads_of
from nomothet.words.limits import length_words
from nomothet.words.lists import counted
from nomothet.words.numbers import unbroken

Data = Mapping[str, Any]


@dataclass(frozen=True)
class Group:
    """A heading with what is told under it; empty ones are not shown."""

    title: str
    lines: list[str] = field(default_factory=list)


@dataclass(frozen=True)
class Described:
    """A configuration with all its parts and settings."""

    label: str
    seal: str
    of: str
    rows: list[tuple[str, str]]


@dataclass(frozen=True)
class Step:
    """A step of running it oneself."""

    title: str
    lines: list[str]


def described(content: Data) -> list[Described]:
    """What every configuration is made of."""
    heads = {head.column: head for head in heads_of(content, content["matrix"]["baseline"])}
    return [
        Described(
            heads[one["column"]].label,
            heads[one["column"]].seal,
            f"{one['system']}, {one['configuration']}",
            [(row["name"], row["value"]) for row in (*one["parts"], *one["settings"])],
        )
        for one in content["configurations"]
        if one["column"] in heads
    ]


def differences(content: Data) -> tuple[list[str], list[tuple[str, list[str], str]]]:
    """The table of what differs: its heads, and each row with its values and the remark."""
    columns = content["review"]["columns"]
    rows = [
        (
            row["label"],
            [row["values"].get(str(column["id"])) or "not recorded" for column in columns],
            row.get("remark", ""),
        )
        for row in content["review"]["differences"]["rows"]
    ]
    return [column["label"] for column in columns], rows


def measured(content: Data) -> list[Group]:
    """How it was measured."""
    review, matrix = content["review"], content["matrix"]
    by_metric = {row["margin"] for row in matrix["rows"] if row["margin"] is not None}
    definitions = [
        f"Low: {matrix['low_words']}.",
        f"Differences below {matrix['margin_pct']:g} % are called level." if by_metric else "",
        "Intervals hold with 95 %, for all comparisons of a row together.",
        f"{counted(review['passes_per_test'], 'pass', 'passes')} planned in each cell.",
    ]
    tests = [
        f"{_name(test)}, version {test['version']}: {test['procedure'] or 'procedure not written down'}"
        + (f" The first {test['skip_s']:g} s are not counted." if test["skip_s"] else "")
        for test in review["tests"]
    ]
    return _told(
        Group("Held constant", [review["constant"]] if review["constant"] else []),
        Group("Procedures", tests),
        Group("Sensors and what was recorded", _sensors(content)),
        Group("What words mean here", [one for one in definitions if one]),
        Group("Sessions", _sessions(content)),
        Group("Who measured", content["measured_by"]),
        Group("What took how long", _effort(content)),
    )


def _sensors(content: Data) -> list[str]:
    names = sorted(
        {capture["name"] for one in content["passes"] for capture in one["captures"] if capture["kind"] != "frames"}
    )
    with_frames = sum(one["has_trace"] for one in content["passes"])
    return [
        *([f"Frame times of {counted(with_frames, 'pass', 'passes')}."] if with_frames else []),
        *([", ".join(names)] if names else []),
    ]


def _sessions(content: Data) -> list[str]:
    days = sorted({_day(one["started_at"]) for one in content["passes"] if one["started_at"]})
    if not days:
        return []
    return [f"Measured on {counted(len(days), 'day')}: {days[0]}" + (f" to {days[-1]}." if len(days) > 1 else ".")]


def _day(at: str | datetime) -> str:
    return str(at)[:10]


def _effort(content: Data) -> list[str]:
    one = content["effort"]
    if not one["passes"]:
        return []
    by = [f"{name}: {length_words(seconds)}" for name, seconds in sorted(one["by"].items(), key=lambda x: -x[1])]
    planned = f"Planned: {counted(one['planned_passes'], 'pass', 'passes')}, {length_words(one['planned_s'])} in all."
    return [
        *([planned] if one["planned_passes"] else []),
        f"Measuring: {counted(one['passes'], 'pass', 'passes')}, {length_words(one['measuring_s'])}.",
        f"Changing between configurations: {counted(one['changes'], 'time')}, {length_words(one['changing_s'])}.",
        *([f"By person or bench: {'; '.join(by)}."] if by else []),
    ]


def went_wrong(content: Data) -> list[Group]:
    """What failed, what was set aside, what drifted, and what could not be read."""
    matrix, passes = content["matrix"], content["passes"]
    names = {test["id"]: _name(test) for test in content["review"]["tests"]}
    labels = {str(column["id"]): column["label"] for column in content["review"]["columns"]}

    def cell(test: int, column: object) -> str:
        return f"{names.get(test, 'a test')} on {labels.get(str(column), 'a configuration')}"

    def of_pass(one: Data, words: list[str]) -> str:
        told = ", ".join(filter(None, words))
        return f"{cell(one['test'], one['column'])}, pass {one['number']}: {told}."

    failed = [
        of_pass(one, [one["outcome_words"], one["note"], one["action"], one["fallback"]])
        for one in passes
        if one["outcome"] != "completed"
    ]
    aside = [
        of_pass(one, [one["reason"] or "no reason on record"])
        for one in passes
        if one["set_aside"] and one["outcome"] == "completed"
    ]
    masked = [
        f"{cell(row['test'], column)}: {one['words']}"
        for row in matrix["limits"]
        for column, one in row["masked"].items()
    ]
    flags = [
        f"{cell(row['test'], column)}: {flag['words']}."
        for row in matrix["flags"]
        for column, own in row["cells"].items()
        for flag in own
    ]
    gaps = [
        f"{cell(row['test'], column)}, {row['label']}: {why}."
        for row in matrix["rows"]
        for column, why in row.get("gaps", {}).items()
        if why
    ]
    return _told(
        Group("Open or accepted when it was published", _points(content)),
        Group("Passes that failed", failed),
        Group("Passes set aside", aside),
        Group("Drift", [f"{one['words']}." for one in matrix["returned"] if one["drifted"]]),
        Group("What this test cannot show", masked),
        Group("What was not read", gaps),
        Group(
            "Not trusted",
            [
                f"{names.get(row['test'])}, {row['label']}: {row['untrusted']}."
                for row in matrix["rows"]
                if row["untrusted"]
            ],
        ),
        Group("How passes differed from the baseline's as they ran", _unlike(content, cell)),
        Group("Flags", flags),
    )


def _unlike(content: Data, cell: Callable[[int, object], str]) -> list[str]:
    return [
        f"{cell(row['test'], column)}: {one['words']}" + (f", accepted: {one['accepted']}." if one["accepted"] else ".")
        for row in content["matrix"]["alike"]
        for column, own in row["against"].items()
        for one in own
    ]


def limited(content: Data) -> list[Group]:
    """What limited the runs, test by test."""
    labels = {str(column["id"]): column["label"] for column in content["review"]["columns"]}
    names = {test["id"]: _name(test) for test in content["review"]["tests"]}
    return _told(
        *(
            Group(
                names.get(row["test"], ""),
                [
                    f"{labels.get(column, '')}: {'; '.join(cell['sentences']) or cell['words']}"
                    for column, cell in row["cells"].items()
                    if cell["words"]
                ],
            )
            for row in content["matrix"]["limits"]
        )
    )


def impressions(content: Data) -> list[str]:
    """What testers saw and heard, pass by pass."""
    labels = {column["id"]: column["label"] for column in content["review"]["columns"]}
    names = {test["id"]: _name(test) for test in content["review"]["tests"]}
    return [
        f"{names.get(one['test'], '')} on {labels.get(one['column'], '')}, pass {one['number']}: "
        + ", ".join(filter(None, (mark["label"], mark["grade"], mark["words"])))
        for one in content["passes"]
        for mark in one["marks"]
        if mark["grade"] or mark["words"]
    ]


def recommended(content: Data) -> list[str]:
    """Of ladders of settings, the most demanding that meet the targets."""
    labels = {str(column["id"]): column["label"] for column in content["review"]["columns"]}
    return [
        f"{ladder['name']} on {labels[column]}: {cell['best_name'] or cell['words']}"
        for ladder in content["ladders"]
        for column, cell in ladder["cells"].items()
        if column in labels
    ]


def _points(content: Data) -> list[str]:
    told = []
    for one in content["verdict"]["points"]:
        if one["how"]:
            told.append(f"{one['words']}: {one['how']}, {one['answer']} ({one['by']})")
        else:
            told.append(f"{one['words']} (open)")
    return told


def recipe(content: Data) -> list[Step]:
    """How to run it oneself."""
    review = content["review"]
    machines = [
        f"{one.label} ({one.of}): " + ", ".join(f"{name} {value}" for name, value in one.rows)
        for one in described(content)
    ]
    tests = []
    for test in review["tests"]:
        settings = ", ".join(f"{key.replace('_', ' ')} {value}" for key, value in test["settings"].items())
        tests.append(
            f"{test['name']} {test['version']}{f', {settings}' if settings else ''}: "
            f"{test['procedure'] or 'start it, let it run to its end'}"
        )
    baseline = next((one["label"] for one in review["columns"] if one["id"] == content["matrix"]["baseline"]), "")
    again = (
        [f"Measure {baseline} again at the end: it shows whether the session has drifted."]
        if content["matrix"]["returned"]
        else []
    )
    return [
        Step("Set up the machines", machines),
        Step("Hold the rest constant", [review["constant"] or "room, image and drivers as they are"]),
        Step("Run each test on each configuration", tests),
        Step(
            "So often",
            [
                f"{counted(review['passes_per_test'], 'pass', 'passes')} in each cell, the configurations in turn.",
                *again,
            ],
        ),
        Step(
            "Compare",
            [
                "The data package holds every figure and capture of this record; the program's own command works all "
                "published figures out again from it."
            ],
        ),
    ]


def interests(content: Data) -> list[str]:
    """Whose machines they are, and what the team has to do with their makers."""
    review = content["review"]
    return [one for one in (review.get("disclosure", ""), *(review.get("origins") or [])) if one]


def _name(test: Data) -> str:
    return ", ".join(filter(None, (test["name"], test["detail"])))


def _told(*groups: Group) -> list[Group]:
    return [Group(group.title, [unbroken(line) for line in group.lines]) for group in groups if group.lines]
