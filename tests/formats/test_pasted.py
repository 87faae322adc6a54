"""Tables as people paste them: what each row and column is of."""

import unittest

from nomothet.formats.errors import FormatError
from nomothet.formats.pasted import MOST_VALUES, Block, Correction, Labels, Name, Says, read_blocks

REEF, ATLAS, LOOM = 11, 12, 13
ONE, TWO, WATTS = 21, 22, 23
NAMES = [
    Name("test", REEF, ("Reef Walk 2", "Reef Walk 2 kelp tunnel", "kelp tunnel")),
    Name("test", ATLAS, ("Dome Atlas", "Dome Atlas 4K")),
    Name("test", LOOM, ("Loom", "Loom all parts")),
    Name("configuration", ONE, ("one module", "Wren one module")),
    Name("configuration", TWO, ("two modules", "Wren two modules")),
    Name("configuration", WATTS, ("35 W",)),
    Name("metric", "average_fps", ("average", "average_fps")),
    Name("metric", "low_1pct", ("1 % low", "low_1pct")),
    Name("metric", "time_s", ("time", "time_s")),
]


def read(*lines: str, corrections: list[Correction] | None = None) -> list[Block]:
    return read_blocks("\n".join(lines), Labels(NAMES), corrections or [])


def values(*lines: str, corrections: list[Correction] | None = None) -> list[tuple[object, ...]]:
    """Every value with its test, configuration, metric and run; what is left out is left out."""
    found = []
    for block in read(*lines, corrections=corrections):
        for row, line in enumerate(block.values):
            for column, text in enumerate(line):
                says = block.says(row, column)
                if text and not says.skip:
                    found.append((text, says.test, says.configuration, says.metric, says.run))
    return found


class Tables(unittest.TestCase):
    def test_rows_name_tests_and_heads_name_configurations(self) -> None:
        found = values("\tone module\ttwo modules", "Reef Walk 2\t61\t70", "Dome Atlas\t40\t44")
        self.assertEqual(
            found,
            [
                ("61", REEF, ONE, None, None),
                ("70", REEF, TWO, None, None),
                ("40", ATLAS, ONE, None, None),
                ("44", ATLAS, TWO, None, None),
            ],
        )

    def test_the_same_table_turned_says_the_same(self) -> None:
        upright = values("\tone module\ttwo modules", "Reef Walk 2\t61\t70", "Dome Atlas\t40\t44")
        turned = values("\tReef Walk 2\tDome Atlas", "one module\t61\t40", "two modules\t70\t44")
        self.assertEqual(sorted(upright), sorted(turned))

    def test_average_and_low_stand_under_merged_heads(self) -> None:
        found = values(
            "\tone module\t\ttwo modules\t",
            "\tavg\t1% low\tavg\t1% low",
            "Reef Walk 2\t61\t48\t70\t55",
        )
        self.assertEqual(
            [(one[0], one[2], one[3]) for one in found],
            [("61", ONE, "average_fps"), ("48", ONE, "low_1pct"), ("70", TWO, "average_fps"), ("55", TWO, "low_1pct")],
        )

    def test_runs_stand_in_columns_and_their_mean_is_no_run(self) -> None:
        found = values("\trun 1\trun 2\trun 3\taverage", "Reef Walk 2\t60\t61\t62\t61")
        self.assertEqual([(one[0], one[4]) for one in found], [("60", 1), ("61", 2), ("62", 3)])

    def test_an_average_that_is_no_mean_of_runs_stays(self) -> None:
        self.assertEqual(
            [one[3] for one in values("\taverage\t1 % low", "Reef Walk 2\t60\t50")], ["average_fps", "low_1pct"]
        )

    def test_runs_stand_in_rows_under_their_own_head(self) -> None:
        found = values("run\taverage\t1 % low", "1\t60\t50", "2\t61\t51")
        self.assertEqual(
            found,
            [
                ("60", None, None, "average_fps", 1),
                ("50", None, None, "low_1pct", 1),
                ("61", None, None, "average_fps", 2),
                ("51", None, None, "low_1pct", 2),
            ],
        )

    def test_plain_numbers_over_columns_are_runs(self) -> None:
        self.assertEqual([one[4] for one in values("\t1\t2\t3", "Reef Walk 2\t60\t61\t62")], [1, 2, 3])

    def test_several_blocks_are_named_by_the_lines_above_them(self) -> None:
        found = values("one module", "Reef Walk 2\t61", "Dome Atlas\t40", "", "two modules", "", "Reef Walk 2\t70")
        self.assertEqual(
            [(one[0], one[1], one[2]) for one in found], [("61", REEF, ONE), ("40", ATLAS, ONE), ("70", REEF, TWO)]
        )

    def test_a_name_that_looks_like_a_value_is_a_name(self) -> None:
        self.assertEqual(values("\t35 W", "Reef Walk 2\t61"), [("61", REEF, WATTS, None, None)])

    def test_a_label_may_name_a_test_and_its_metric(self) -> None:
        found = values("\tone module", "Reef Walk 2, 1% low\t48", "Reef Walk 2 average\t61")
        self.assertEqual([(one[1], one[3]) for one in found], [(REEF, "low_1pct"), (REEF, "average_fps")])

    def test_two_label_columns_and_an_empty_label_below(self) -> None:
        found = values("\t\tone module", "Reef Walk 2\taverage\t61", "\t1 % low\t48", "Loom\ttime\t12:07")
        self.assertEqual(
            [(one[1], one[3]) for one in found], [(REEF, "average_fps"), (REEF, "low_1pct"), (LOOM, "time_s")]
        )

    def test_a_table_drawn_with_bars_is_one(self) -> None:
        found = values("| | one module | two modules |", "|---|---|---|", "| Dome Atlas | 40 | 44 |")
        self.assertEqual([(one[0], one[1], one[2]) for one in found], [("40", ATLAS, ONE), ("44", ATLAS, TWO)])

    def test_semicolons_and_wide_gaps_part_cells_too(self) -> None:
        for lines in ((";one module", "Dome Atlas;40"), ("            one module", "Dome Atlas  40")):
            with self.subTest(lines=lines):
                self.assertEqual(values(*lines), [("40", ATLAS, ONE, None, None)])

    def test_plain_numbers_tell_nothing_of_their_place(self) -> None:
        self.assertEqual(values("61\t70", "40\t44")[0], ("61", None, None, None, None))

    def test_every_kind_of_reading_is_a_value(self) -> None:
        cells = [
            "94.1",
            "52–55",
            "~45",
            ">200",
            "12:07",
            "12:07 @ 30/120",
            "c",
            "n (no window)",
            "-",
            "x",
            "?",
            "61 fps",
        ]
        self.assertEqual([one[0] for one in values("Reef Walk 2\t" + "\t".join(cells))], cells)

    def test_a_unit_in_a_head_is_told_with_its_column(self) -> None:
        block = read("\ttime (min)", "Loom\t12.5")[0]
        self.assertEqual((block.says(0, 0).metric, block.says(0, 0).unit), ("time_s", "min"))


class Corrections(unittest.TestCase):
    LINES = ("\tone module\tthe old kit", "Reef Walk 2\t61\t70", "tour\t40\t44", "", "tour\t41\t45")

    def test_what_names_nothing_known_says_so(self) -> None:
        block = read(*self.LINES)[0]
        self.assertEqual([line.unknown for line in block.columns], [False, True])
        self.assertEqual([line.unknown for line in block.rows], [False, True])

    def test_a_label_is_put_right_once_for_all_of_its_kind(self) -> None:
        put_right = [
            Correction("row", "tour", 0, 1, Says(test=ATLAS)),
            Correction("column", "the old kit", 0, 1, Says(configuration=TWO)),
        ]
        found = values(*self.LINES, corrections=put_right)
        self.assertEqual([one[1] for one in found if one[0] in ("40", "44", "41")], [ATLAS, ATLAS, ATLAS])
        self.assertEqual([one[2] for one in found if one[0] in ("70", "44")], [TWO, TWO])

    def test_a_row_without_a_label_is_put_right_by_its_place(self) -> None:
        found = values("61\t70", "40\t44", corrections=[Correction("row", "", 0, 1, Says(test=LOOM))])
        self.assertEqual([one[1] for one in found], [None, None, LOOM, LOOM])

    def test_a_column_can_be_left_out(self) -> None:
        left = [Correction("column", "the old kit", 0, 1, Says(skip=True))]
        self.assertNotIn("70", [one[0] for one in values(*self.LINES, corrections=left)])

    def test_the_last_word_on_a_label_holds(self) -> None:
        twice = [Correction("row", "tour", 0, 1, Says(test=test)) for test in (LOOM, ATLAS)]
        self.assertEqual(values(*self.LINES, corrections=twice)[2][1], ATLAS)


class Refused(unittest.TestCase):
    def test_nothing_is_refused(self) -> None:
        with self.assertRaisesRegex(FormatError, "Nothing was pasted"):
            read("", "  \t ")

    def test_too_much_is_refused_with_a_remedy(self) -> None:
        with self.assertRaisesRegex(FormatError, "in parts"):
            read(*["1\t2"] * (MOST_VALUES + 1))

    def test_a_few_letters_cannot_make_a_table_of_millions(self) -> None:
        with self.assertRaisesRegex(FormatError, "in parts"):
            read("\t" * 100_000, *["1"] * 20_000)

    def test_cells_that_would_be_tried_in_endless_ways_are_read_at_once(self) -> None:
        for cell in ("1" + " -2" * 2000 + " x", "1" + " " * 100_000 + "x!", "(" * 50_000, "-" * 100_000 + "x"):
            with self.subTest(cell=cell[:12]):
                self.assertEqual(len(read(f"Reef Walk 2\t{cell}")), 1)
        self.assertEqual(len(read("|" + "-" * 100_000 + "x|", "| 1 |")), 1)

    def test_a_bare_number_is_no_part_of_a_name(self) -> None:
        self.assertEqual(values("35\t28", "40\t44")[0], ("35", None, None, None, None))

    def test_a_resolution_over_a_column_is_no_run(self) -> None:
        self.assertTrue(read("\taverage\t1 % low\t1440", "Reef Walk 2\t60\t50\t9")[0].columns[2].unknown)

    def test_a_name_of_two_things_is_not_guessed(self) -> None:
        names = [*NAMES, Name("test", 99, ("Reef Walk 2", "Reef Walk 2 open reef"))]
        block = read_blocks("\tone module\nReef Walk 2\t61", Labels(names))[0]
        self.assertTrue(block.rows[0].unknown)
        told = read_blocks("\tone module\nReef Walk 2 open reef\t61", Labels(names))[0]
        self.assertEqual(told.rows[0].says.test, 99)
