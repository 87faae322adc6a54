"""Commands run only where an admin has let them, and only as they were when that was said."""

import json
from typing import Any

from nomothet.server.docket.commands import ask_for_passes
from nomothet.server.reviews.models import Test
from nomothet.server.workloads.models import Workload
from tests.server.base import BenchClient, Browser, SceneTest

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

    def test_withdrawing_takes_effect_at_once(self) -> None:
        self.admin.send("put", self.path)
        self.assertEqual(self.admin.send("delete", self.path).status_code, 204)
        self.assertEqual(self.taken(), {})

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
