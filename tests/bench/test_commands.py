"""Workloads that are commands: started without a shell, prepared, watched, read by rules, ended by evidence."""

import json
import os
import sys
import tempfile
import threading
import unittest
from dataclasses import replace
from pathlib import Path
from typing import Any
from unittest import mock

from nomothet.bench import clean_environment
from nomothet.bench.command_plan import CommandPlan, plan_of
from nomothet.bench.errors import BenchError
from nomothet.bench.job import Control, Job, PassResult
from nomothet.bench.machine import RealMachine
from nomothet.bench.programs import program_digest
from nomothet.formats.output import OUTPUT, text_of
from nomothet.formats.series import pack

TIME = {"key": "time", "unit": "s", "direction": "lower", "scale": "ratio"}


def job(command: dict[str, Any] | None, **more: Any) -> Job:
    fields: dict[str, Any] = {
        "entry": 1, "number": 1, "workload": "kiln", "version": "1", "runner": "command", "metrics": [TIME],
        "settings": {}, "configuration": "here", "configured": {}, "command": command, **more,
    }  # fmt: skip
    return Job(**fields)


def python(script: str, **more: Any) -> dict[str, Any]:
    return {"arguments": [sys.executable, "-c", script], **more}


class CommandTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.phases: list[str] = []
        self.control = Control(lambda phase, elapsed, left, readings: self.phases.append(phase))

    def run_job(self, one: Job, **options: Any) -> PassResult:
        (self.folder / "job.json").write_text(json.dumps(one.as_dict()))
        machine = RealMachine(20, **{"commands_allowed": True, **options})
        return machine.run(one, self.folder, self.control)


class Permission(CommandTest):
    def test_a_bench_runs_commands_only_when_it_was_started_for_that(self) -> None:
        result = self.run_job(job(python("print(1)")), commands_allowed=False)
        self.assertEqual(result.outcome, "refused")
        self.assertIn("--allow-commands", result.note)

    def test_a_command_that_the_server_did_not_send_is_not_guessed(self) -> None:
        result = self.run_job(job(None))
        self.assertEqual(result.outcome, "refused")
        self.assertIn("not approved", result.note)


class Programs(CommandTest):
    """An approval holds for the program that ran first under it."""

    def script(self, text: str) -> dict[str, Any]:
        path = self.folder / "tool.py"
        path.write_text(text)
        return {"arguments": [sys.executable, str(path), "{size}"]}

    def test_another_script_behind_the_same_words_is_refused_and_never_runs(self) -> None:
        command = self.script("print('fine')")
        first = self.run_job(job(command, settings={"size": "9"}))
        program = first.environment["workload"]["program"]
        self.assertEqual(len(program), 64)
        again = self.run_job(job(command, settings={"size": "12"}, program=program))
        self.assertEqual(again.outcome, "completed")
        trace = self.folder / "ran"
        self.script(f"open({str(trace)!r}, 'w')")
        changed = self.run_job(job(command, settings={"size": "9"}, program=program))
        self.assertEqual((changed.outcome, trace.exists()), ("refused", False))
        self.assertIn("approve it again", changed.note)

    def test_another_executable_has_another_fingerprint(self) -> None:
        tool = self.folder / "tool"
        found = set()
        for text in ("#!/bin/sh\n", "#!/bin/sh\nexit 0\n"):
            tool.write_text(text)
            tool.chmod(0o755)
            found.add(program_digest(CommandPlan([str(tool), "x" * 5000])))
        self.assertEqual(len(found), 2)

    def test_a_program_that_is_not_there_has_none(self) -> None:
        self.assertEqual(program_digest(CommandPlan(["no-such-tool-anywhere"])), "")


class Words(CommandTest):
    def test_settings_stand_in_words_as_they_are_and_reach_no_shell(self) -> None:
        nasty = "; touch bad & $(touch bad) `touch bad`"
        script = "import sys; print('figure time', len(sys.argv[1]))"
        one = job({"arguments": [sys.executable, "-c", script, "{scene}"]}, settings={"scene": nasty})
        result = self.run_job(one)
        self.assertEqual((result.outcome, result.figures[0].value), ("completed", len(nasty)))
        self.assertEqual(list((self.folder / "work").iterdir()), [])

    def test_settings_of_the_configuration_and_the_environment(self) -> None:
        script = "import os; print('figure time', os.environ['THREADS'])"
        result = self.run_job(job(python(script, environment={"THREADS": "{threads}"}), configured={"threads": 1}))
        self.assertEqual(result.figures[0].value, 1)

    def test_a_setting_is_one_of_the_values_that_were_approved(self) -> None:
        one = job({"arguments": ["draw", "{size}", "--at={size}"]}, settings={"size": "4K"}, allowed={"size": ["4K"]})
        self.assertEqual(plan_of(one, commands_allowed=True).argv, ["draw", "4K", "--at=4K"])
        for given in ("8K", "4K; rm", ["4K"]):
            with self.subTest(given), self.assertRaisesRegex(BenchError, "'size'"):
                plan_of(replace(one, settings={"size": given}), commands_allowed=True)

    def test_no_word_becomes_an_option_by_its_setting(self) -> None:
        for given in ("--exec=x", "-x", "@answers", "-"):
            for word in ("{size}", "{empty}{size}", "{size}.txt"):
                one = job({"arguments": ["draw", word]}, settings={"size": given, "empty": ""})
                with self.subTest(given=given, word=word), self.assertRaisesRegex(BenchError, "an option"):
                    plan_of(one, commands_allowed=True)
        for given, word in (("-5", "{size}"), ("-0.5", "{size}"), ("-x", "--size={size}"), ("/data/scene", "{size}")):
            with self.subTest(given=given, word=word):
                plan_of(job({"arguments": ["draw", word]}, settings={"size": given}), commands_allowed=True)
        listed = job({"arguments": ["draw", "{size}"]}, settings={"size": "-x"}, allowed={"size": ["-x", "-y"]})
        self.assertEqual(plan_of(listed, commands_allowed=True).argv, ["draw", "-x"])

    def test_a_workload_gets_no_secret_of_the_bench(self) -> None:
        held = {"NOMOTHET_BENCH_TOKEN": "plum-secret", "CLOUD_KEY": "fig-secret", "WANTED": "asked for"}
        script = "import os; print(sorted(os.environ.items()))"
        step = self.folder / "step.txt"
        prepare = [[sys.executable, "-c", f"import os; open({str(step)!r}, 'w').write(str(os.environ))"]]
        command = python(script, environment={"SIZE": "{size}"}, prepare=prepare)
        with mock.patch.dict(os.environ, held), mock.patch.object(clean_environment, "_named", {"WANTED"}):
            result = self.run_job(job(command, settings={"size": "4K"}))
        kept = [text_of(pack(one.columns)).decode() for one in result.captures if one.kind == OUTPUT]
        for written in (kept[0], step.read_text()):
            with self.subTest(written[:40]):
                self.assertIn("4K", written)
                self.assertIn("asked for", written)
                self.assertIn("PATH", written)
                self.assertNotIn("secret", written)

    def test_a_setting_that_is_missing_or_no_plain_value_is_refused_by_name(self) -> None:
        for settings in ({}, {"size": [1]}, {"size": "a\0b"}):
            with self.subTest(settings=settings), self.assertRaisesRegex(BenchError, "'size'"):
                plan_of(job({"arguments": ["draw", "{size}"]}, settings=settings), commands_allowed=True)


class Figures(CommandTest):
    def rules(self, *rules: dict[str, str]) -> dict[str, Any]:
        return {"rules": list(rules)}

    def test_rules_read_output_json_and_tables_from_files(self) -> None:
        text = {"kind": "text", "expression": r"took (?P<time>[0-9.]+) s"}
        self.assertEqual(self.run_job(job(python("print('it took 4.25 s')"), rules=[text])).figures[0].value, 4.25)
        script = "import json; json.dump({'render': {'seconds': 7.5}}, open('result.json', 'w'))"
        path = {"kind": "json", "expression": "$.render.seconds", "metric": "time"}
        result = self.run_job(job(python(script, files=["result.json"]), rules=[path]))
        self.assertEqual(result.figures[0].value, 7.5)
        script = "open('table.csv', 'w').write('scene;time\\nlantern;3,5\\nlamp;4,5\\n')"
        column = {"kind": "table", "expression": "time", "metric": "time"}
        result = self.run_job(job(python(script, files=["table.csv"]), rules=[column]))
        self.assertEqual(result.figures[0].value, 4.5)

    def test_what_a_program_writes_is_kept_with_the_pass_but_not_its_frames(self) -> None:
        script = (
            "import sys; print('Loom 4'); print('frame 16.5'); print('score 12'); print('warm', file=sys.stderr); "
            "open('result.json', 'w').write('{}')"
        )
        result = self.run_job(job(python(script, files=["result.json"])))
        kept = {one.name: text_of(pack(one.columns)) for one in result.captures if one.kind == OUTPUT}
        self.assertEqual(kept, {"output": b"Loom 4\nscore 12\n", "errors": b"warm\n", "file result.json": b"{}"})

    def test_a_flood_of_output_is_bounded_and_says_so(self) -> None:
        result = self.run_job(job(python("print('first'); print('x' * 3_000_000); print('last')")))
        (kept,) = (one for one in result.captures if one.kind == OUTPUT)
        text = text_of(pack(kept.columns))
        self.assertLess(len(text), 1_100_000)
        self.assertTrue(text.startswith(b"first") and text.endswith(b"last\n"))
        self.assertIn(b"bytes are left out here", text)

    def test_what_a_rule_does_not_find_is_told_and_the_pass_stays_completed(self) -> None:
        rule = {"kind": "text", "expression": r"took (?P<time>[0-9.]+) s", "name": "time"}
        result = self.run_job(job(python("print('nothing of the kind')"), rules=[rule]))
        self.assertEqual((result.outcome, result.figures), ("completed", []))
        self.assertIn("Not read: time: found nothing", result.note)

    def test_a_name_that_leads_out_of_the_directory_is_passed_over(self) -> None:
        (self.folder / "secret.json").write_text('{"x": 1}')
        rule = {"kind": "json", "expression": "$.x", "metric": "time"}
        result = self.run_job(job(python("pass", files=["../secret.json"]), rules=[rule]))
        self.assertEqual(result.figures, [])


class Doors(CommandTest):
    def test_frames_come_by_pipe_and_by_socket(self) -> None:
        by_pipe = (
            "import os\nwith open(os.environ['NOMOTHET_FRAMES'], 'w') as door:\n"
            "    for _ in range(200): door.write('frame 16.5\\n')"
        )
        by_socket = (
            "import os, socket\ndoor = socket.socket(socket.AF_UNIX)\n"
            "door.connect(os.environ['NOMOTHET_SOCKET'])\ndoor.sendall(b'frame 16.5\\n' * 200)\ndoor.close()"
        )
        for script in (by_pipe, by_socket):
            with self.subTest(script=script[:30]):
                result = self.run_job(job(python(script)))
                frames = next(one for one in result.captures if one.kind == "frames")
                self.assertEqual(frames.columns["frame_ms"].tolist(), [16.5] * 200)

    def test_frames_left_in_a_file_are_read_and_not_counted_twice(self) -> None:
        written = "open('frames.log', 'w').write('frame 16.5\\n' * 50)"
        for script, count in ((written, 50), (f"{written}; print('frame 20')", 1)):
            with self.subTest(script=script):
                result = self.run_job(job(python(script)))
                frames = next(one for one in result.captures if one.kind == "frames")
                self.assertEqual(len(frames.columns["frame_ms"]), count)


class Staging(CommandTest):
    def test_preparation_warm_up_and_clean_up_stand_around_the_run(self) -> None:
        note = "open('log', 'a').write('{}')"
        command = python(
            "open('log', 'a').write('r'); print('figure time', len(open('log').read()))",
            prepare=[[sys.executable, "-c", note.format("p")]],
            clean_up=[[sys.executable, "-c", note.format("c")]],
            warm_ups=2,
        )
        result = self.run_job(job(command))
        self.assertEqual((self.folder / "work" / "log").read_text(), "prrrc")
        self.assertEqual(result.figures[0].value, 4)
        self.assertTrue(any(phase.startswith("warming up, 2 of 2") for phase in self.phases))

    def test_a_failed_preparation_is_a_failed_start_and_is_cleaned_up_after(self) -> None:
        command = python(
            "print('never')",
            prepare=[[sys.executable, "-c", "raise SystemExit('no lamp oil')"]],
            clean_up=[[sys.executable, "-c", "open('cleaned', 'w')"]],
        )
        result = self.run_job(job(command))
        self.assertEqual(result.outcome, "did_not_start")
        self.assertIn("no lamp oil", result.note)
        self.assertTrue((self.folder / "work" / "cleaned").exists())

    def test_stopping_while_it_cools_down_ends_the_pass(self) -> None:
        threading.Timer(0.3, self.control.stop_wanted.set).start()
        result = self.run_job(job(python("print('never')", cool_s=60)))
        self.assertEqual((result.outcome, result.captures), ("stopped", []))


class Evidence(CommandTest):
    def test_a_time_limit_is_a_hang_with_its_reason(self) -> None:
        result = self.run_job(job(python("import time; time.sleep(60)", time_limit_s=0.4)))
        self.assertEqual(result.outcome, "hung")
        self.assertIn("limit of 0.4 s", result.note)

    def test_silent_work_is_no_hang(self) -> None:
        script = "import time\nend = time.time() + 3\nwhile time.time() < end: sum(range(9999))"
        self.assertEqual(self.run_job(job(python(script)), silent_s=2).outcome, "completed")

    def test_the_programs_own_word_and_status_are_heard(self) -> None:
        for script, outcome in (
            ("print('outcome visual_faults torn shadows')", "visual_faults"),
            ("print('outcome overloaded the queue is full'); raise SystemExit(1)", "overloaded"),
            ("import sys; print('no compiler', file=sys.stderr); sys.exit(69)", "refused"),
            ("import sys; sys.exit(3)", "did_not_start"),
        ):
            with self.subTest(outcome=outcome):
                self.assertEqual(self.run_job(job(python(script))).outcome, outcome)

    def test_a_program_that_is_not_there_did_not_start(self) -> None:
        result = self.run_job(job({"arguments": ["/nowhere/kiln"]}))
        self.assertEqual(result.outcome, "did_not_start")
        self.assertIn("/nowhere/kiln", result.note)

    def test_its_own_processes_are_sampled(self) -> None:
        script = "import time\nend = time.time() + 2.5\nwhile time.time() < end: sum(range(9999))"
        result = self.run_job(job(python(script)))
        lanes = {one.name: one for one in result.captures}
        self.assertGreater(float(max(lanes["workload processor use"].columns["value"])), 5)
        self.assertGreater(float(max(lanes["workload memory"].columns["value"])), 0)
