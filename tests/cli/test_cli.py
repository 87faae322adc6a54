"""The terminal commands."""

import json
import subprocess
import sys

from tests.cli.base import CommandLine


class Frames(CommandLine):
    def setUp(self) -> None:
        super().setUp()
        self.example = self.file("frames.csv", "frame_ms\n" + "10\n" * 990 + "50\n" * 10)

    def test_json_has_the_documented_keys_and_the_worked_example(self) -> None:
        done = self.run_command("frames", self.example, "--json", "--target", "60")
        figures = json.loads(done.stdout)
        wanted = {
            "frames", "duration_s", "average_fps", "p50_ms", "p95_ms", "p99_ms", "p999_ms", "low_1pct", "low_01pct",
            "lowest_second_fps", "hitches", "hitch_rate_per_min", "hitch_time_share", "pacing_unevenness_pct",
            "under_target_share", "held_fps",
        }  # fmt: skip
        self.assertLessEqual(wanted, set(figures))
        self.assertEqual(set(figures["low_1pct"]), {"percentile", "slowest_mean", "time_share", "thin"})
        self.assertAlmostEqual(figures["average_fps"], 96.154, places=3)
        self.assertAlmostEqual(figures["low_1pct"]["slowest_mean"], 20)
        self.assertEqual(done.returncode, 0)

    def test_without_json_it_is_for_reading(self) -> None:
        done = self.run_command("frames", self.example)
        self.assertIn("96.154 fps", done.stdout)
        self.assertIn("thin tail", done.stdout)

    def test_a_process_of_its_own_answers_and_ends_with_its_status(self) -> None:
        command = [sys.executable, "-m", "nomothet.cli.main", "frames"]
        done = subprocess.run([*command, self.example], capture_output=True, text=True, check=False)
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        self.assertIn("96.154 fps", done.stdout)
        done = subprocess.run([*command, "absent.csv"], capture_output=True, text=True, check=False)
        self.assertEqual((done.returncode, done.stdout), (2, ""))
        self.assertNotIn("Traceback", done.stderr)

    def test_skip_leaves_the_warm_up_out(self) -> None:
        done = self.run_command("frames", self.example, "--json", "--skip", "9.9")
        self.assertEqual(json.loads(done.stdout)["frames"], 10)

    def test_bad_input_ends_with_status_2_and_a_message(self) -> None:
        cases = [
            (self.file("bad.csv", "frame_ms\n10\nten\n"), "row 3"),
            (str(self.folder / "absent.csv"), "No such file"),
            (self.file("empty.csv", ""), "empty"),
        ]
        for path, words in cases:
            done = self.run_command("frames", path)
            with self.subTest(path=path):
                self.assertEqual((done.returncode, done.stdout), (2, ""))
                self.assertIn(words, done.stderr)

    def test_a_skip_of_everything_is_told(self) -> None:
        done = self.run_command("frames", self.example, "--skip", "99")
        self.assertEqual(done.returncode, 2)
        self.assertIn("leave no frame", done.stderr)

    def test_options_out_of_range_are_refused(self) -> None:
        for option in (("--target", "0"), ("--skip", "-1"), ("--unit", "hours")):
            self.assertEqual(self.run_command("frames", self.example, *option).returncode, 2, option)


class Compare(CommandLine):
    def plan(self, **changes: object) -> str:
        plan = {
            "direction": "higher",
            "margin": 0.03,
            "baseline": "A",
            "cells": {"A": [100, 102, 98], "B": [110, 111, 109]},
            **changes,
        }
        return self.file("plan.json", json.dumps(plan))

    def test_the_worked_example(self) -> None:
        row = json.loads(self.run_command("compare", self.plan()).stdout)["B"]
        self.assertAlmostEqual(row["ratio"], 1.1001, places=4)
        self.assertAlmostEqual(row["low"], 1.0620, places=4)
        self.assertAlmostEqual(row["high"], 1.1396, places=4)
        self.assertEqual((row["verdict"], row["df"], row["passes_needed"]), ("ahead", 4, None))
        self.assertAlmostEqual(row["pooled_cv"], 0.01554, places=5)

    def test_unknown_noise_is_null_and_not_a_number(self) -> None:
        done = self.run_command("compare", self.plan(cells={"A": [1], "B": [2]}))
        row = json.loads(done.stdout)["B"]
        self.assertEqual((row["verdict"], row["pooled_cv"], row["low"]), ("noise unknown", None, None))

    def test_every_mistake_is_named_with_status_2(self) -> None:
        cases: list[tuple[dict[str, object], str]] = [
            ({"direction": "up"}, "direction"),
            ({"margin": "3 %"}, "margin"),
            ({"baseline": "Z"}, "'Z'"),
            ({"baseline": None}, "baseline"),
            ({"cells": {}}, "cells"),
            ({"cells": {"A": 5}}, "'A'"),
            ({"cells": {"A": [1, "two"], "B": [1]}}, "entry 2"),
            ({"cells": {"A": [1, -2], "B": [1]}}, "above 0"),
            ({"cells": {"A": [1, True], "B": [1]}}, "entry 2"),
            ({"cells": {"A": [1, None], "B": [1]}}, "entry 2"),
            ({"cells": {"A": [1, 2]}}, "two cells"),
            ({"cells": {"A": [1, 2], "B": []}}, "'B'"),
            ({"margin": 0}, "margin"),
            ({"margin": -1}, "margin"),
            ({"margins": 0.03}, "margins"),
        ]
        for changes, words in cases:
            done = self.run_command("compare", self.plan(**changes))
            with self.subTest(changes=changes):
                self.assertEqual(done.returncode, 2)
                self.assertIn(words, done.stderr)

    def test_broken_json_names_its_line(self) -> None:
        done = self.run_command("compare", self.file("broken.json", '{\n"direction": higher}'))
        self.assertEqual(done.returncode, 2)
        self.assertIn("line 2", done.stderr)


class Bench(CommandLine):
    def test_without_a_token_it_says_where_to_get_one(self) -> None:
        done = self.run_command("bench", "--server", "http://127.0.0.1:1", "--spool", str(self.folder / "spool"))
        self.assertEqual(done.returncode, 2)
        self.assertIn("NOMOTHET_BENCH_TOKEN", done.stdout + done.stderr)

    def test_reading_files_needs_neither_web_framework_nor_client(self) -> None:
        code = (
            "import sys; from nomothet.cli.main import main; main(['frames', sys.argv[1]]); "
            "print([m for m in ('django', 'httpx', 'psutil') if m in sys.modules])"
        )
        path = self.file("frames.csv", "frame_ms\n10\n11\n")
        done = subprocess.run([sys.executable, "-c", code, path], capture_output=True, text=True, check=False)
        self.assertTrue(done.stdout.strip().endswith("[]"), done.stdout + done.stderr)
