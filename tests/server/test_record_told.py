"""What the page of a record tells besides its results, from contents that are written down here."""

import unittest
from typing import Any

from nomothet.server.records.page.results import read_choice, results_of
from nomothet.server.records.page.told import described, differences, impressions, limited, measured, went_wrong

PASS: dict[str, Any] = {
    "id": "a", "test": 1, "column": 2, "number": 3, "outcome": "completed", "outcome_words": "completed", "note": "",
    "set_aside": False, "reason": "", "action": "", "fallback": "", "by": "Ada", "helped_by": "", "typed_by": "",
    "started_at": "2026-05-04T10:00:00Z", "has_trace": False, "captures": [], "marks": [], "pictures": [],
}  # fmt: skip


def content(passes: Any = (), configurations: Any = (), points: Any = (), **matrix: Any) -> dict[str, Any]:
    columns = [
        {"id": 1, "position": 0, "label": "kit 1", "is_baseline": True},
        {"id": 2, "position": 1, "label": "kit 2", "is_baseline": False},
    ]
    tests = [
        {
            "id": 1, "name": "tour", "detail": "high", "short": "high", "version": "2", "procedure": "", "skip_s": 0,
            "settings": {},
        },
        {
            "id": 2, "name": "lap", "detail": "", "short": "", "version": "1", "procedure": "one lap", "skip_s": 5,
            "settings": {},
        },
    ]  # fmt: skip
    empty = {
        "baseline": 1, "rows": [], "progress": [], "flags": [], "limits": [], "alike": [], "returned": [],
        "low_words": "mean of the slowest frames", "margin_pct": 3.0,
    }  # fmt: skip
    return {
        "review": {
            "columns": columns, "tests": tests, "constant": "", "passes_per_test": 3,
            "differences": {"rows": [{"label": "memory", "values": {"1": "8 GB", "2": None}, "remark": "declared"}]},
        },
        "matrix": {**empty, **matrix},
        "verdict": {"points": list(points)},
        "passes": list(passes),
        "configurations": list(configurations),
        "measured_by": ["Ada"],
        "effort": {
            "planned_passes": 3,
            "planned_s": 9000,
            "passes": 2,
            "measuring_s": 7200,
            "changes": 1,
            "changing_s": 600,
            "days": 1,
            "by": {"Ada": 7200},
        },
        "metric_notes": {"average_fps": "pictures a second"},
        "against": {},
        "ladders": [],
    }  # fmt: skip


def groups(found: Any) -> dict[str, list[str]]:
    return {group.title: group.lines for group in found}


class WentWrong(unittest.TestCase):
    def test_failed_passes_and_those_set_aside_stand_with_why(self) -> None:
        told = groups(
            went_wrong(
                content(
                    [
                        {**PASS, "outcome": "crashed", "outcome_words": "crashed", "note": "driver reset"},
                        {**PASS, "number": 4, "set_aside": True, "reason": "a guest leaned on it"},
                        {**PASS, "number": 5},
                    ]
                )
            )
        )
        self.assertEqual(told["Passes that failed"], ["tour, high on kit 2, pass 3: crashed, driver reset."])
        self.assertEqual(told["Passes set aside"], ["tour, high on kit 2, pass 4: a guest leaned on it."])

    def test_a_failed_pass_that_was_set_aside_stands_among_the_failed_only(self) -> None:
        one = {**PASS, "outcome": "crashed", "outcome_words": "crashed", "set_aside": True}
        self.assertEqual(list(groups(went_wrong(content([one])))), ["Passes that failed"])

    def test_flags_masks_distrust_and_differences_as_they_ran(self) -> None:
        told = groups(
            went_wrong(
                content(
                    flags=[{"test": 1, "cells": {"2": [{"key": "a", "words": "pass 3, outlier"}]}}],
                    limits=[{"test": 1, "cells": {}, "masked": {"2": {"words": "Both are limited."}}}],
                    rows=[{"test": 1, "label": "average", "untrusted": "it counts its menu", "gaps": {}}],
                    alike=[{"test": 1, "against": {"2": [{"words": "driver: 31 against 30", "accepted": "no other"}]}}],
                    returned=[{"drifted": True, "words": "the session drifted"}, {"drifted": False, "words": "level"}],
                )
            )
        )
        self.assertEqual(told["Flags"], ["tour, high on kit 2: pass 3, outlier."])
        self.assertEqual(told["What this test cannot show"], ["tour, high on kit 2: Both are limited."])
        self.assertEqual(told["Not trusted"], ["tour, high, average: it counts its menu."])
        self.assertIn("accepted: no other.", told["How passes differed from the baseline's as they ran"][0])
        self.assertEqual(told["Drift"], ["the session drifted."])

    def test_points_stand_with_their_answers_or_as_open(self) -> None:
        told = groups(
            went_wrong(
                content(
                    points=[
                        {"words": "A hole", "how": "accepted", "answer": "no wheel", "by": "Ada"},
                        {"words": "A flag", "how": "", "answer": "", "by": ""},
                    ]
                )
            )
        )
        self.assertEqual(
            told["Open or accepted when it was published"], ["A hole: accepted, no wheel (Ada)", "A flag (open)"]
        )

    def test_where_nothing_went_wrong_nothing_is_told(self) -> None:
        self.assertEqual(went_wrong(content()), [])


class Told(unittest.TestCase):
    def test_a_configuration_names_its_parts_and_settings(self) -> None:
        one = {
            "column": 2, "system": "Heron", "configuration": "two kits",
            "parts": [{"name": "memory", "value": "16 GB"}], "settings": [{"name": "power limit", "value": "35 W"}],
        }  # fmt: skip
        [found] = described(content(configurations=[one]))
        self.assertEqual((found.label, found.of), ("kit 2", "Heron, two kits"))
        self.assertEqual(found.rows, [("memory", "16 GB"), ("power limit", "35 W")])

    def test_a_difference_that_is_not_recorded_says_so(self) -> None:
        self.assertEqual(differences(content())[1], [("memory", ["8 GB", "not recorded"], "declared")])

    def test_procedures_effort_and_days_are_told(self) -> None:
        told = groups(measured(content([PASS, {**PASS, "started_at": "2026-05-06T10:00:00Z"}])))
        self.assertEqual(told["Procedures"][1], "lap, version 1: one lap The first 5\xa0s are not counted.")
        self.assertEqual(told["Sessions"], ["Measured on 2 days: 2026-05-04 to 2026-05-06."])
        planned, measuring, *_ = told["What took how long"]
        self.assertEqual(planned, "Planned: 3 passes, 2 h 30 min in all.")
        self.assertEqual(measuring, "Measuring: 2 passes, 2 h 0 min.")

    def test_limits_and_impressions_are_told_by_cell_and_pass(self) -> None:
        cell = {"words": "limited by the graphics", "sentences": []}
        self.assertEqual(
            groups(limited(content(limits=[{"test": 1, "cells": {"2": cell}, "masked": {}}]))),
            {"tour, high": ["kit 2: limited by the graphics"]},
        )
        mark = {"label": "stutter", "grade": "clearly seen", "words": "at the gate"}
        self.assertEqual(
            impressions(content([{**PASS, "marks": [mark]}])),
            ["tour, high on kit 2, pass 3: stutter, clearly seen, at the gate"],
        )


class Table(unittest.TestCase):
    def row(self, key: str, test: int, cells: dict[str, Any]) -> dict[str, Any]:
        return {
            "key": key, "test": test, "metric": "average_fps", "label": "average, mean", "unit": "fps",
            "direction": "higher", "margin": 3.0, "untrusted": "", "gaps": {}, "cells": cells,
        }  # fmt: skip

    def table(self) -> dict[str, Any]:
        compared = {"told": "+10.0 %", "interval": "+9.0 to +11.0 %", "verdict": "ahead", "better": 10.0}
        first = {"1": {"centre": 60.0, "comparison": None}, "2": {"centre": 66.0, "comparison": compared}}
        return content(
            rows=[self.row("1:average_fps", 1, first), self.row("2:average_fps", 2, {})],
            progress=[{"test": 2, "cells": {"2": {"said": "did not start (no wheel)"}}}],
        )

    def test_a_cell_tells_figure_change_interval_and_verdict(self) -> None:
        told = self.table()
        cell = results_of(told, read_choice(told, {})).lines[0].cells[1]
        self.assertEqual(
            (cell.value, cell.told, cell.interval, cell.verdict, cell.sign),
            ("66.0 fps", "+10.0 %", "+9.0 to +11.0 %", "ahead", "▸"),
        )

    def test_a_cell_that_did_not_start_does_not_read_as_one_that_was_not_run(self) -> None:
        told = self.table()
        whys = [cell.why for cell in results_of(told, read_choice(told, {})).lines[1].cells]
        self.assertEqual(whys, ["not run", "did not start (no wheel)"])
