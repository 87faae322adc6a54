"""Commands run only where an admin has let them, and only as they were when that was said."""

import json
from typing import Any

from nomothet.server.analysis.models import Analysis
from nomothet.server.docket.commands import ask_for_passes
from nomothet.server.reviews.models import Test
from nomothet.server.workloads.models import Workload
from tests.server.base import BenchClient, Browser, SceneTest, manifest

COMMAND = {"arguments": ["kiln", "--scene", "{scene}"], "time_limit_s": 600}


class Approvals(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.workload = Workload.objects.create(
            key="kiln", name="Kiln", version="3", kind="task", runner="command", command=COMMAND
        )
        self.test = Test.objects.create(review=self.scene.review, position=2, workload=self.workload, shown=[])
        ask_for_passes(self.scene.people["tester"], self.scene.review, [self.test.pk], [self.scene.columns[0].pk], 1)
        self.admin = Browser("admin")
        self.path = f"/api/workloads/{self.workload.pk}/approvals/{self.scene.system.pk}"

    def taken(self) -> dict[str, Any]:
        return BenchClient(self.scene.token).take()[1]

    def edit(self, **changes: Any) -> Any:
        edit = Workload.objects.get(pk=self.workload.pk).edit
        return Browser("editor").send(
            "patch", f"/api/workloads/{self.workload.pk}", changes, **{"If-Match": f'"v{edit}"'}
        )

    def test_nothing_is_handed_out_before_an_admin_has_approved_it(self) -> None:
        self.assertEqual(self.taken(), {})
        (docket,) = Browser("reader").json(f"{self.review_path}/docket")
        self.assertIn("not approved", docket["visits"][0]["groups"][0]["waits"])
        self.assertEqual(self.admin.send("put", self.path).status_code, 200)
        self.assertEqual(self.taken()["workload"]["command"], COMMAND)

    def test_the_plan_check_says_what_waits_for_it(self) -> None:
        def points() -> list[str]:
            found = Browser("reader").json(f"{self.review_path}/plan")["points"]
            return [one["words"] for one in found if one["code"] == "approval"]

        self.assertEqual(points(), ["No admin has approved the command of Kiln on Wren: no bench runs it there."])
        self.admin.send("put", self.path)
        self.assertEqual(points(), [])

    def test_other_passes_do_not_wait_for_it(self) -> None:
        self.scene.owe()
        self.assertEqual(self.taken()["workload"]["key"], "reef-walk")

    def test_a_changed_command_wants_a_new_word(self) -> None:
        self.admin.send("put", self.path)
        answer = self.edit(command={**COMMAND, "arguments": ["kiln", "--other"]})
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertFalse(json.loads(answer.content)["approvals"][0]["current"])
        self.assertEqual(self.taken(), {})
        self.admin.send("put", self.path)
        self.assertEqual(self.taken()["workload"]["command"]["arguments"], ["kiln", "--other"])

    def test_other_values_of_a_setting_that_the_command_names_want_a_new_word(self) -> None:
        ask_for_passes(self.scene.people["tester"], self.scene.review, [self.test.pk], [self.scene.columns[0].pk], 5)
        scene = {"key": "scene", "label": "scene", "values": ["reef", "kelp"]}
        self.edit(settings=[scene])
        self.admin.send("put", self.path)
        self.assertEqual(self.taken()["workload"]["allowed"], {"scene": ["reef", "kelp"]})
        for wider in ([{**scene, "values": ["reef", "kelp", "; rm -rf /"]}], [{"key": "scene", "label": "scene"}], []):
            with self.subTest(wider):
                self.assertEqual(self.edit(settings=wider).status_code, 200)
                self.assertEqual(self.taken(), {})
        self.edit(settings=[scene, {"key": "other", "label": "other"}])
        self.assertNotEqual(self.taken(), {})

    def test_what_would_let_a_setting_become_code_is_refused_with_the_reason(self) -> None:
        for command in (
            {"arguments": ["{tool}", "x"]},
            {"arguments": ["sh", "-c", "draw {size}"]},
            {"arguments": ["/bin/bash", "-lc", "draw $0", "{size}"]},
            {"arguments": ["env", "A=1", "python3.11", "-c", "print({size})"]},
            {"arguments": ["perl", "-e", "x", "{size}"]},
            {"arguments": ["pwsh.exe", "-Command", "draw {size}"]},
            {"arguments": ["C:\\Windows\\cmd.exe", "/c", "draw {size}"]},
            {"arguments": ["awk", "BEGIN {{print {size}}}"]},
            {"arguments": ["draw"], "prepare": [["xargs", "{size}"]]},
            {"arguments": ["draw"], "clean_up": [["sh", "-ec", "rm {size}"]]},
            {"arguments": ["draw"], "environment": {"LD_PRELOAD": "{size}"}},
            {"arguments": ["draw"], "environment": {"PATH": "/opt/{size}"}},
        ):
            with self.subTest(command):
                self.assertEqual(self.edit(command=command).status_code, 200)
                problem = self.problem(self.admin.send("put", self.path), 422)
                self.assertRegex(problem["detail"], "Write|code")
        for command in (
            {"arguments": ["sh", "-c", "draw 4K"]},
            {"arguments": ["python3", "render.py", "{size}"]},
            {"arguments": ["draw", "--size={size}"], "environment": {"SIZE": "{size}"}},
        ):
            with self.subTest(command):
                self.edit(command=command)
                self.assertEqual(self.admin.send("put", self.path).status_code, 200)

    def test_withdrawing_takes_effect_at_once(self) -> None:
        self.admin.send("put", self.path)
        self.assertEqual(self.admin.send("delete", self.path).status_code, 204)
        self.assertEqual(self.taken(), {})

    def run_with(self, program: str) -> dict[str, Any]:
        bench = BenchClient(self.scene.token)
        pass_id, job = bench.take()
        environment = {"workload": {"program": program}}
        body = manifest(job["entry"], {}, environment=environment)
        self.assertEqual(bench.send("put", f"/passes/{pass_id}", body).status_code, 200)
        self.assertEqual(bench.send("post", f"/passes/{pass_id}/finish").status_code, 200)
        return job

    def test_it_holds_for_the_program_of_its_first_pass_until_it_is_given_anew(self) -> None:
        ask_for_passes(self.scene.people["tester"], self.scene.review, [self.test.pk], [self.scene.columns[0].pk], 2)
        self.admin.send("put", self.path)
        self.assertEqual(self.run_with("a" * 64)["workload"]["program"], "")
        # A bench that tells another one later changes nothing; it is the bench that refuses.
        self.assertEqual(self.run_with("b" * 64)["workload"]["program"], "a" * 64)
        self.admin.send("put", self.path)
        self.assertEqual(self.taken()["workload"]["program"], "")

    def test_another_program_is_another_block(self) -> None:
        ask_for_passes(self.scene.people["tester"], self.scene.review, [self.test.pk], [self.scene.columns[0].pk], 1)
        self.admin.send("put", self.path)
        for program in ("a" * 64, "b" * 64):
            self.run_with(program)
        first, second = Analysis.objects.order_by("owner__number").values_list("fingerprint", flat=True)
        self.assertEqual({key for key in first if first[key] != second.get(key)}, {"program"})

    def test_only_admins_approve(self) -> None:
        for role in ("reader", "tester", "editor"):
            self.problem(Browser(role).send("put", self.path), 403)
        self.assertEqual(self.taken(), {})

    def test_what_ships_with_the_bench_needs_no_word(self) -> None:
        path = f"/api/workloads/{self.scene.scene.pk}/approvals/{self.scene.system.pk}"
        self.problem(self.admin.send("put", path), 422)

    def test_commands_are_lists_of_words_within_bounds(self) -> None:
        for wrong in (
            {"arguments": []},
            {"arguments": "rm -rf"},
            {**COMMAND, "nice": 40},
            {**COMMAND, "prepare": ["x"]},
        ):
            with self.subTest(wrong=wrong):
                self.problem(self.edit(command=wrong), 400)
