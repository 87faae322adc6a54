"""Systems themselves: the list, edits, pre-run checks, and edits of two people at once."""

import json
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from django.db import connection
from django.http import HttpResponse
from django.test import override_settings

from nomothet.server.docket.changeovers import begin_changeover
from nomothet.server.docket.models import Changeover
from nomothet.server.reviews.models import Review
from nomothet.server.systems.configurations import add_configuration
from nomothet.server.systems.models import System
from tests.server.base import Browser, Scene, SceneTest
from tests.server.emptied import EmptiedTest
from tests.server.setting_up import SLOTS, SettingUp, kit


class Systems(SettingUp):
    def test_the_list_tells_what_each_is_now_and_its_slot_mistakes(self) -> None:
        wrong = {"slot B2": None, "slot A1": {"part": self.small.pk, "module": 2}}
        add_configuration(None, self.heron, name="one channel", base=self.base, fitted=wrong)
        System.objects.filter(pk=self.heron.pk).update(present=self.base)
        shape = next(one for one in Browser("reader").json("/api/systems") if one["key"] == "heron")
        self.assertEqual((shape["present"], shape["configurations"], shape["mistakes"]), ("as set up", 3, 1))

    def test_an_archived_one_is_left_out_and_comes_back(self) -> None:
        path = f"/api/systems/{self.heron.pk}/archived"
        Browser("tester").send("put", path)
        self.assertNotIn("heron", [one["key"] for one in Browser("reader").json("/api/systems")])
        self.assertIn("heron", [one["key"] for one in Browser("reader").json("/api/systems?archived=true")])
        Browser("tester").send("delete", path)
        self.assertIn("heron", [one["key"] for one in Browser("reader").json("/api/systems")])

    def test_an_edit_on_an_old_version_shows_the_present_state(self) -> None:
        path = f"/api/systems/{self.heron.pk}"
        self.assertEqual(self.patch(path, {"description": "first"}, 1).status_code, 200)
        late = self.problem(self.patch(path, {"description": "second"}, 1), 412)
        self.assertEqual(late["current"]["description"], "first")
        self.problem(Browser("tester").send("patch", path, {"description": "x"}), 428)

    def test_a_configuration_edited_on_an_old_version_shows_the_present_state(self) -> None:
        path = f"/api/configurations/{self.base.pk}"
        self.patch(path, {"note": "first"}, 1)
        late = self.problem(self.patch(path, {"note": "second"}, 1), 412)
        self.assertEqual(late["current"]["note"], "first")

    def test_checks_are_held_to_their_form(self) -> None:
        path = f"/api/systems/{self.heron.pk}"
        good = [{"key": "cool", "words": "It is cool.", "reading": "temperature", "at_most": 45, "unit": "°C"}]
        self.assertEqual(self.patch(path, {"checks": good}, 1).json()["checks"], good)
        for bad in (
            [{"key": "two words", "words": "x"}],
            [{"key": "a"}],
            [{"key": "a", "words": "x", "at_most": "hot"}],
        ):
            with self.subTest(bad=bad):
                self.problem(self.patch(path, {"checks": bad}, 2), 400)

    def test_a_nested_record_is_whole_in_an_edit_too(self) -> None:
        path = f"/api/systems/{self.heron.pk}"
        self.problem(self.patch(path, {"slot_map": {"slots": [{"name": "A1"}]}}, 1), 400)
        workload = f"/api/workloads/{self.scene.scene.pk}"
        for field, bad in (("metrics", [{"key": "a"}]), ("settings", [{"label": "a"}]), ("rules", [{"kind": "text"}])):
            with self.subTest(field=field):
                self.assertIn(field, self.problem(self.patch(workload, {field: bad}, 1, "editor"), 400)["errors"])
        self.problem(self.patch(f"/api/parts/{self.small.pk}", {"attributes": [{"value": 1}]}, 1), 400)
        fitted = {"slot A2": {"module": 1}}
        self.problem(self.patch(f"/api/configurations/{self.base.pk}", {"fitted": fitted}, 1), 400)

    def test_what_is_no_choice_is_refused(self) -> None:
        path = f"/api/systems/{self.heron.pk}"
        for field, value in (("changes_by", "nobody"), ("on_mismatch", "shrug"), ("origin", "found"), ("name", "")):
            with self.subTest(field=field):
                self.assertIn(field, self.problem(self.patch(path, {field: value}, 1), 400)["errors"])

    def test_history_names_every_act_on_a_configuration(self) -> None:
        path = f"/api/configurations/{self.other.pk}"
        self.patch(path, {"settings": {"memory_mts": 5200}}, 1)
        self.patch(path, {"blocked": "no connector"}, 2)
        Browser("tester").send("put", f"{path}/archived")
        events = Browser("reader").json(f"/api/history/configuration/{self.other.pk}")
        self.assertEqual([event["act"] for event in events], ["archived", "edited", "edited", "added"])
        self.assertEqual(events[2]["changes"], [{"field": "memory_mts", "before": 5600, "after": 5200}])
        self.assertEqual(events[1]["changes"][0]["field"], "blocked")

    def test_an_unknown_system_or_configuration_is_not_found(self) -> None:
        for path in ("/api/systems/99999", "/api/systems/99999/docket"):
            self.problem(Browser("reader").get(path), 404)
        self.problem(self.patch("/api/configurations/99999", {"note": "x"}, 1), 404)


@override_settings(PASSWORD_HASHERS=["tests.server.fast_hasher.FastArgon2"])
class AtOnce(EmptiedTest):
    """Two people act at the same moment, each with a database connection of their own."""

    def setUp(self) -> None:
        self.scene = Scene()
        self.heron = System.objects.create(key="heron", name="Heron", slot_map=SLOTS)
        small = kit("two of 8", 2, 8, 4800)
        fitted = {"slot A2": {"part": small.pk, "module": 1}, "slot B2": {"part": small.pk, "module": 2}}
        self.configurations = [
            add_configuration(None, self.heron, name=f"number {at}", settings={"fan_profile": at}, fitted=fitted)
            for at in range(6)
        ]

    def together(self, *works: Any) -> list[Any]:
        def run(work: Any) -> Any:
            try:
                return work()
            finally:
                connection.close()

        with ThreadPoolExecutor(len(works)) as pool:
            return [future.result() for future in [pool.submit(run, work) for work in works]]

    def test_columns_added_at_once_are_all_there_in_places_of_their_own(self) -> None:
        made = Browser("editor").send("post", "/api/reviews", {"question": "Which?"}).json()
        browsers = [Browser("editor") for _ in self.configurations]

        def add(at: int) -> int:
            body = {"configuration": self.configurations[at].pk}
            return browsers[at].send("post", f"/api/reviews/{made['id']}/columns", body).status_code

        codes = self.together(*(lambda at=at: add(at) for at in range(6)))
        self.assertEqual(codes, [201] * 6)
        review = Review.objects.get(pk=made["id"])
        self.assertEqual([column.position for column in review.columns.all()], list(range(6)))
        self.assertEqual(sum(column.is_baseline for column in review.columns.all()), 1)
        self.assertEqual(review.version, made["version"] + 6)

    def test_edits_of_one_part_at_once_are_taken_once(self) -> None:
        part = Browser("reader").json("/api/parts")[0]
        browsers = [Browser("tester") for _ in range(4)]

        def edit(at: int) -> int:
            headers = {"If-Match": f'"v{part["version"]}"'}
            return browsers[at].send("patch", f"/api/parts/{part['id']}", {"note": f"n {at}"}, **headers).status_code

        codes = sorted(self.together(*(lambda at=at: edit(at) for at in range(4))))
        self.assertEqual(codes, [200, 412, 412, 412])

    def test_a_change_begun_by_two_is_one(self) -> None:
        made = Browser("editor").send("post", "/api/reviews", {"question": "Which?"}).json()
        for configuration in self.configurations[:2]:
            body = {"configuration": configuration.pk}
            Browser("editor").send("post", f"/api/reviews/{made['id']}/columns", body)
        tests = {"workload": self.scene.scene.pk, "choices": {}}
        shape = Browser("editor").send("post", f"/api/reviews/{made['id']}/tests", tests).json()
        asked = {
            "tests": [test["id"] for test in shape["tests"]],
            "columns": [column["id"] for column in shape["columns"]],
            "passes": 1,
        }
        Browser("tester").send("post", f"/api/reviews/{made['id']}/docket", asked)
        user = self.scene.people["tester"]
        begun = self.together(*(lambda: begin_changeover(user, self.heron).pk for _ in range(4)))
        self.assertEqual(len(set(begun)), 1)
        self.assertEqual(Changeover.objects.count(), 1)


class Adding(SceneTest):
    """An editor adds a machine; where it comes from is said then and disclosed."""

    def add(self, who: str = "editor", **fields: Any) -> HttpResponse:
        return Browser(who).send("post", "/api/systems", {"name": "Heron", **fields})

    def test_an_editor_adds_one_with_its_origin_and_only_an_admin_its_bench(self) -> None:
        made = json.loads(self.add(origin="donated", origin_note="by the town").content)
        self.assertEqual((made["key"], made["origin"], made["origin_note"]), ("heron", "donated", "by the town"))
        self.problem(Browser("editor").send("post", f"/api/systems/{made['id']}/bench-token"), 403)
        self.problem(self.add(who="tester"), 403)

    def test_a_key_is_made_of_the_name_and_is_free(self) -> None:
        keys = [json.loads(self.add().content)["key"] for _ in range(3)]
        self.assertEqual(keys, ["heron", "heron-2", "heron-3"])

    def test_what_nobody_has_said_is_not_said(self) -> None:
        self.assertEqual(json.loads(self.add().content)["origin"], "not said")

    def test_the_disclosure_is_made_of_every_origin(self) -> None:
        System.objects.filter(pk=self.scene.system.pk).update(origin="lent", origin_note="by the library")
        review = Browser("reader").json(f"/api/reviews/{self.scene.review.pk}")
        self.assertEqual(review["origins"], ["lent: Wren, by the library"])
        System.objects.filter(pk=self.scene.system.pk).update(origin="not said", origin_note="")
        review = Browser("reader").json(f"/api/reviews/{self.scene.review.pk}")
        self.assertEqual(review["origins"], ["origin not said: Wren"])
