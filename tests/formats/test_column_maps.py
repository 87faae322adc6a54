"""Recordings of any layout: recognised, read, and what is odd about their clock told."""

import json
import tempfile
import unittest
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from nomothet.core.notes import note
from nomothet.formats.column_maps import ColumnMap, ColumnUse
from nomothet.formats.column_proposals import look_at
from nomothet.formats.errors import BadTable, FormatError
from nomothet.formats.recordings import Recording, read_recording

FRAMES = 16 + np.random.default_rng(1).gamma(2, 1, 1500)
CLOCK = np.cumsum(FRAMES) / 1000


class Files(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "run.txt"

    def roles(self, content: str | bytes) -> dict[str, tuple[str, str]]:
        self.path.write_bytes(content.encode() if isinstance(content, str) else content)
        return {one.use.column: (one.use.role, one.use.unit) for one in look_at(self.path)[1]}

    def read(self, content: str | bytes) -> Recording:
        self.path.write_bytes(content.encode() if isinstance(content, str) else content)
        return read_recording(self.path, ColumnMap([one.use for one in look_at(self.path)[1]]))

    def by(self, *uses: tuple[str, str, str]) -> Recording:
        return read_recording(self.path, ColumnMap([ColumnUse(c, r, c, u) for c, r, u in uses]))  # type: ignore[arg-type]


class Recognised(Files):
    def table(self, delimiter: str = ",", decimal: str = ".", before: str = "") -> str:
        rows = [
            delimiter.join(
                f"{value:.4f}".replace(".", decimal)
                for value in (CLOCK[at], FRAMES[at], 50 + 40 * np.sin(at / 99), 61 + at / 500)
            )
            for at in range(len(FRAMES))
        ]
        return (
            before
            + delimiter.join(["Time [s]", "Frame time [ms]", "Graphics use", "Temp [°C]"])
            + "\n"
            + "\n".join(rows)
        )

    def test_columns_are_known_by_their_behaviour_in_any_dialect(self) -> None:
        wanted = {
            "Time [s]": ("time", "s"),
            "Frame time [ms]": ("frames", "ms"),
            "Graphics use": ("sensor", "%"),
            "Temp [°C]": ("sensor", "°C"),
        }
        for delimiter, decimal in ((",", "."), (";", ","), ("\t", "."), ("|", "."), (";", ".")):
            for encoding in ("utf-8", "utf-8-sig", "latin-1", "utf-16"):
                with self.subTest(delimiter=delimiter, decimal=decimal, encoding=encoding):
                    content = self.table(delimiter, decimal, "recorder 3\nmachine one\n\n").encode(encoding)
                    self.assertEqual(self.roles(content), wanted)

    def test_numbers_come_back_exactly(self) -> None:
        recording = self.read(self.table(";", ","))
        assert recording.frame_times_ms is not None
        np.testing.assert_allclose(recording.frame_times_ms, np.round(FRAMES, 4))
        self.assertEqual(
            [(one.name, one.unit) for one in recording.sensors], [("graphics use", "%"), ("temperature", "°C")]
        )
        np.testing.assert_allclose(recording.sensors[1].t_s, np.round(CLOCK, 4) - round(CLOCK[0], 4), atol=1e-9)
        self.assertEqual(recording.remarks, [])

    def test_a_line_of_units_under_the_names(self) -> None:
        rows = "\n".join(f"{at * 0.5},{40 + at % 7},{3000 + at % 90}" for at in range(60))
        self.assertEqual(
            self.roles("elapsed,die,clock\ns,°C,MHz\n" + rows),
            {"elapsed": ("time", "s"), "die": ("sensor", "°C"), "clock": ("sensor", "MHz")},
        )

    def test_json_lines_with_nested_objects_and_a_last_line_cut_short(self) -> None:
        lines = [
            json.dumps({"at": f"2026-03-04T10:00:{at // 2:02d}.{5 * (at % 2)}Z", "die": {"temp_c": 50 + at % 9}})
            for at in range(100)
        ]
        recording = self.read("\n".join(lines) + '\n{"at": "2026-')
        self.assertEqual(
            [(one.name, one.unit, len(one.t_s)) for one in recording.sensors], [("temperature", "°C", 100)]
        )
        self.assertAlmostEqual(recording.duration_s, 49.5)

    def test_plain_columns_of_blanks_without_a_header(self) -> None:
        text = "\n".join(f"{at * 0.25:8.2f}   {30 + at % 11}" for at in range(80))
        self.assertEqual(self.roles(text), {"column 1": ("time", "s"), "column 2": ("sensor", "%")})

    def test_the_units_of_time_follow_from_the_steps(self) -> None:
        for factor, unit in ((1.0, "s"), (1e3, "ms"), (1e6, "us"), (1e9, "ns")):
            rows = "\n".join(f"{at * 0.5 * factor},{at % 13}" for at in range(2, 90))
            with self.subTest(unit=unit):
                self.assertEqual(self.roles("when,x\n" + rows)["when"], ("time", unit))

    def test_a_kept_map_goes_before_the_proposal(self) -> None:
        self.path.write_text(self.table())
        kept = ColumnMap([ColumnUse("Temp [°C]", "sensor", "package", "°C"), ColumnUse("Time [s]", "time", "t", "s")])
        uses = {one.use.column: one.use for one in look_at(self.path, [kept])[1]}
        self.assertEqual(uses["Temp [°C]"].name, "package")
        self.assertEqual(uses["Frame time [ms]"].role, "ignore")
        self.assertEqual(ColumnMap.from_dict(kept.as_dict()), kept)


class Clocks(Files):
    def clocked(self, times: list[float]) -> Recording:
        self.path.write_text("t,x\n" + "\n".join(f"{t},{at}" for at, t in enumerate(times)))
        return self.by(("t", "time", "s"), ("x", "sensor", "W"))

    def test_a_reset_is_joined_on_and_told(self) -> None:
        recording = self.clocked([*range(50), *range(50)])
        self.assertEqual(recording.remarks, [note("clock_goes_back", times=1, first_s=49.0)])
        self.assertAlmostEqual(recording.duration_s, 99.0)
        self.assertTrue(np.all(np.diff(recording.sensors[0].t_s) > 0))

    def test_gaps_and_repeats_are_counted(self) -> None:
        recording = self.clocked([0, 1, 2, 2, 3, 30, 31, 32])
        self.assertEqual(len(recording.sensors[0].t_s), 7)
        self.assertEqual(recording.remarks, [note("times_repeat", rows=1), note("gaps", gaps=1, longest_s=27.0)])

    def test_without_a_time_the_frames_are_the_clock(self) -> None:
        self.path.write_text("frame_ms,use\n" + "\n".join("10,50" for _ in range(100)))
        recording = self.by(("frame_ms", "frames", "ms"), ("use", "sensor", "%"))
        self.assertAlmostEqual(float(recording.sensors[0].t_s[-1]), 1.0)


class Stamps(Files):
    """The moments of frames, in any unit, become their lengths; the truth is the lengths they were made of."""

    def rows(self, factor: float, start: float = 0.0) -> str:
        moments = (start + np.concatenate([[0.0], np.cumsum(FRAMES)])) * factor
        return "\n".join(f"{at},{moment:.9g},{40 + at % 9}" for at, moment in enumerate(moments))

    def test_stamps_in_every_unit_are_proposed_and_read(self) -> None:
        for unit, factor in (("s", 1e-3), ("ms", 1.0), ("us", 1e3)):
            for heading in (f"timestamp_{unit}", "presented"):
                with self.subTest(unit=unit, heading=heading):
                    recording = self.read(f"frame,{heading},busy\n" + self.rows(factor))
                    assert recording.frame_times_ms is not None
                    np.testing.assert_allclose(recording.frame_times_ms, FRAMES, rtol=1e-3, atol=0.02)
                    self.assertEqual([lane.name for lane in recording.sensors], ["busy"])
                    self.assertAlmostEqual(recording.duration_s, float(FRAMES.sum()) / 1000, places=2)

    def test_taken_as_frame_times_they_are_refused(self) -> None:
        self.path.write_text("at_us\n" + "\n".join(f"{10_000_000 + moment:.0f}" for moment in np.cumsum(FRAMES) * 1e3))
        with self.assertRaisesRegex(BadTable, "median frame would last.*timestamps"):
            self.by(("at_us", "frames", "ms"))

    def test_a_logger_that_is_slower_than_frames_keeps_its_time(self) -> None:
        rows = "\n".join(f"{at * 0.1:.1f},{50 + at % 7}" for at in range(200))
        self.assertEqual(self.roles("time,load\n" + rows)["time"], ("time", "s"))

    def test_a_count_of_rows_is_neither_time_nor_frames_beside_a_clock(self) -> None:
        self.assertEqual(self.roles("frame,time_ms,x\n" + self.rows(1.0))["frame"][0], "ignore")


class Headings(Files):
    def found(self, heading: str, low: float, high: float) -> tuple[str, str]:
        rows = "\n".join(f"{at * 0.5},{low + (high - low) * (at % 2)}" for at in range(60))
        self.path.write_text(f"time,{heading}\n{rows}")
        use = look_at(self.path)[1][1].use
        return use.name, use.unit

    def test_a_meaning_is_known_by_synonyms_and_units_in_bare_headings(self) -> None:
        for heading, low, high, wanted in (
            ("CPU Load", 3, 99, ("processor use", "%")),
            ("Temperature °C", 40, 70, ("temperature", "°C")),
            ("CPU Temp °F", 120, 190, ("temperature", "°F")),
            ("GPU Clock", 300, 1905, ("graphics clock", "MHz")),
            ("GPUTemp", 40, 80, ("graphics temperature", "°C")),
            ("VRAM used [MB]", 900, 5000, ("graphics memory used", "MB")),
            ("fan rpm", 900, 2100, ("fan", "rpm")),
            ("wall power (W)", 60, 240, ("wall power", "W")),
            ("Auslastung", 3, 99, ("Auslastung", "%")),
            ("infant", 300, 900, ("infant", "")),
        ):
            with self.subTest(heading=heading):
                self.assertEqual(self.found(heading, low, high), wanted)

    def test_two_of_one_sensor_keep_the_names_they_came_with(self) -> None:
        rows = "\n".join(f"{at * 0.5},{40 + at % 9},{50 + at % 9}" for at in range(60))
        self.path.write_text(f"time,core temp,socket temp\n{rows}")
        self.assertEqual([one.use.name for one in look_at(self.path)[1][1:]], ["core temp", "socket temp"])


class Foretold(Files):
    """What is lost or looks odd, known before anything is stored."""

    def codes(self, content: str, *uses: tuple[str, str, str]) -> dict[str, Mapping[str, Any]]:
        self.path.write_text(content)
        found = self.by(*uses) if uses else self.read(content)
        return {one.code: one.values for one in found.remarks}

    def test_rows_that_do_not_fit_are_counted(self) -> None:
        rows = "\n".join(f"{at * 0.5},{1 + at % 7}" for at in range(60))
        loud = "\n".join(f"{30 + at * 0.5},1,000.0" for at in range(40))
        found = self.codes(f"time,power [W]\n{rows}\n{loud}\n")
        self.assertEqual(found["rows_not_read"], {"rows": 40, "of": 100})

    def test_constant_impossible_and_empty_columns_and_those_left_out(self) -> None:
        rows = "\n".join(f"{at * 0.5},{0},{46_000 + at},,{at % 5}" for at in range(60))
        found = self.codes(
            f"time,fan,clock,core,other\n{rows}", ("time", "time", "s"), ("fan", "sensor", "1/min"),
            ("clock", "sensor", "MHz"), ("core", "sensor", "°C"), ("other", "ignore", ""),
        )  # fmt: skip
        self.assertEqual(found["lane_constant"], {"lane": "fan", "value": 0.0, "unit": "1/min"})
        self.assertEqual(found["lane_impossible"]["lane"], "clock")
        self.assertEqual(found["lane_empty"], {"lane": "core"})
        self.assertEqual(found["columns_left_out"], {"columns": ["other"]})

    def test_a_process_number_is_no_time(self) -> None:
        generator = np.random.default_rng(4)
        self.path.write_text("process,x\n" + "\n".join(f"{n},{n % 7}" for n in generator.integers(1, 9_000_000, 300)))
        with self.assertRaisesRegex(BadTable, "'process' goes back every few rows.*another column"):
            self.by(("process", "time", "s"), ("x", "sensor", "W"))
        self.path.write_text("process,x\n" + "\n".join(f"{2_029_080 * at},{at % 7}" for at in range(30)))
        with self.assertRaisesRegex(BadTable, "would last [0-9,]+ days"):
            self.by(("process", "time", "s"), ("x", "sensor", "W"))

    def test_rows_without_a_time_get_one(self) -> None:
        self.path.write_text("power\n" + "\n".join(str(50 + at % 9) for at in range(41)))
        use = [ColumnUse("power", "sensor", "power", "W")]
        with self.assertRaisesRegex(BadTable, "no column is the time.*seconds lie between rows"):
            read_recording(self.path, ColumnMap(use))
        recording = read_recording(self.path, ColumnMap(use, every_s=0.5))
        np.testing.assert_allclose(recording.sensors[0].t_s, np.arange(41) * 0.5)
        self.assertEqual(ColumnMap.from_dict(ColumnMap(use, 0.5).as_dict()), ColumnMap(use, 0.5))

    def test_it_begins_when_its_clock_says_and_a_time_of_day_is_no_moment(self) -> None:
        rows = "\n".join(f"2026-03-04T10:00:{at:02d}Z,{at % 7}" for at in range(60))
        # 4 March 2026, 10:00 UTC, is 1,772,618,400 s after the epoch.
        self.assertEqual(self.read("at,x\n" + rows).began_s, 1_772_618_400.0)
        rows = "\n".join(f"10:00:{at:02d},{at % 7}" for at in range(60))
        found = self.read("at,x\n" + rows)
        self.assertEqual((found.began_s, found.duration_s), (None, 59.0))
        rows = "\n".join(f"{1_772_618_400_000 + at * 500},{at % 7}" for at in range(60))
        self.assertEqual(self.read("at_ms,x\n" + rows).began_s, 1_772_618_400.0)


class Refused(Files):
    def check(self, content: bytes, words: str) -> None:
        with self.subTest(words=words), self.assertRaisesRegex(BadTable, words):
            self.read(content)

    def test_what_is_no_recording_is_refused_with_a_remedy(self) -> None:
        self.check(b"", "empty")
        self.check(b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR" + bytes(300), "not a text file")
        self.check(b"hello there\nno numbers at all\n", "no rows of numbers")
        self.check(b"{nonsense\n", "no JSON")
        self.check(b'{"a": {"b": null}}\n', "no numbers")
        self.check(("\n".join(["words, more words"] * 80) + "\n1,2" * 200).encode(), "lines before the first number")

    def test_a_column_that_is_not_there_and_frames_that_are_none(self) -> None:
        self.path.write_text("a,b\n1,-1\n2,-2\n3,-3\n")
        with self.assertRaisesRegex(BadTable, "no column 'c'.*a, b"):
            self.by(("c", "time", "s"))
        with self.assertRaisesRegex(BadTable, "cannot be frame times"):
            self.by(("b", "frames", "ms"))
        with self.assertRaisesRegex(BadTable, "nothing is left to store"):
            self.by(("a", "time", "s"))

    @settings(max_examples=120, suppress_health_check=[HealthCheck.function_scoped_fixture])
    @given(st.one_of(st.binary(max_size=600), st.text('0123456789,;.\t\n-eE {}[]":abTs', max_size=600).map(str.encode)))
    def test_any_bytes_are_read_or_refused_in_words(self, content: bytes) -> None:
        try:
            recording = self.read(content)
        except FormatError as error:
            self.assertTrue(str(error))
        else:
            self.assertTrue(recording.frame_times_ms is not None or recording.sensors)
