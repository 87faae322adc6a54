"""Results that were measured before an update: known at once, and measured anew without anything being overwritten."""

from typing import Any

from django.utils import timezone

from nomothet.server.docket.models import Entry
from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Review
from nomothet.server.systems.models import Bench, Configuration
from nomothet.server.workloads.models import Workload
from tests.server.base import Browser, SceneTest, steady


class MeasuredBefore(SceneTest):
    def run_with(self, column: int, **environment: str) -> None:
        self.scene.owe(column=column)
        self.bench.deliver(steady(60), environment=environment)

    def cells(self) -> dict[int, list[str]]:
        found: list[dict[str, Any]] = Browser("reader").json(f"{self.review_path}/measured-before")
        return {one["column"]: one["words"] for one in found["cells"]}

    def test_nothing_is_told_while_nothing_has_changed(self) -> None:
        self.run_with(0, firmware="1.2")
        self.run_with(1, firmware="1.2")
        self.assertEqual(self.cells(), {})
        self.problem(Browser("editor").send("post", f"{self.review_path}/measured-before"), 409)

    def test_a_later_pass_of_the_machine_with_another_driver_marks_the_earlier_ones(self) -> None:
        self.run_with(0, **{"graphics driver": "31.4"})
        self.run_with(1, **{"graphics driver": "31.6"})
        first, second = (column.pk for column in self.scene.columns)
        Pass.objects.filter(column=second).update(started_at="2026-05-05T10:00:00Z")
        self.assertEqual(self.cells(), {first: ["measured under graphics driver 31.4; 31.6 since"]})

    def test_a_bench_that_tells_a_new_image_marks_them_and_the_old_one_again_unmarks_them(self) -> None:
        self.run_with(0, **{"operating system": "image 41"})
        self.bench.send("post", "/hello", {"inventory": {"operating system": "image 42"}})
        (words,) = self.cells().values()
        self.assertEqual(words, ["measured under operating system image 41; image 42 since"])
        self.bench.send("post", "/hello", {"inventory": {"operating system": "image 41"}})
        self.assertEqual(self.cells(), {})

    def test_what_a_configuration_chooses_is_not_outdated_by_another_configuration(self) -> None:
        first, second = (column.configuration for column in self.scene.columns)
        Configuration.objects.filter(pk=first.pk).update(settings={**first.settings, "image": "41"})
        Configuration.objects.filter(pk=second.pk).update(settings={**second.settings, "image": "42"})
        self.run_with(0, image="41")
        self.run_with(1, image="42")
        self.assertEqual(self.cells(), {})

    def test_a_later_revision_with_another_image_marks_what_the_earlier_one_has(self) -> None:
        first = self.scene.columns[0].configuration
        Configuration.objects.filter(pk=first.pk).update(settings={**first.settings, "image": "41"})
        self.run_with(0)
        Configuration.objects.create(
            system=first.system, name=first.name, revision=2, replaces=first, settings={**first.settings, "image": "42"}
        )
        self.assertEqual(self.cells(), {self.scene.columns[0].pk: ["measured under exhibit image 41; 42 since"]})

    def test_a_newer_version_of_the_workload_marks_what_the_older_one_has_unless_declared(self) -> None:
        self.run_with(0)
        old = self.scene.tests[0].workload
        new = Workload.objects.create(key=old.key, version="99", name=old.name, kind=old.kind)
        (words,) = self.cells().values()
        self.assertEqual(words, [f"measured with version {old.version}; 99 is there since"])
        Workload.objects.filter(pk=new.pk).update(comparable=[{"version": old.version, "why": "menus"}])
        self.assertEqual(self.cells(), {})

    def test_an_older_version_that_is_added_later_marks_nothing(self) -> None:
        own = self.scene.tests[0].workload
        Workload.objects.filter(pk=own.pk).update(version="2.10")
        self.run_with(0)
        Workload.objects.create(key=own.key, version="2.9", name=own.name, kind=own.kind)
        self.assertEqual(self.cells(), {})
        Workload.objects.create(key=own.key, version="2.11", name=own.name, kind=own.kind)
        (words,) = self.cells().values()
        self.assertEqual(words, ["measured with version 2.10; 2.11 is there since"])

    def test_a_standing_tells_it_too(self) -> None:
        self.run_with(0, firmware="1.2")
        Bench.objects.update(inventory={"firmware": "1.3"}, heard_at=timezone.now())
        (row,) = Browser("reader").json(f"/api/standings/{self.scene.tests[0].workload.key}")["rows"]
        self.assertEqual(row["measured_before"], ["measured under firmware version 1.2; 1.3 since"])

    def test_one_act_measures_the_same_anew_and_leaves_the_old_as_it_is(self) -> None:
        self.run_with(0, firmware="1.2")
        self.run_with(1, firmware="1.3")
        Pass.objects.filter(column=self.scene.columns[1]).update(started_at="2026-05-05T10:00:00Z")
        first = self.scene.columns[0].configuration
        later = Configuration.objects.create(
            system=first.system, name=first.name, revision=2, replaces=first, settings=first.settings
        )
        before = list(Pass.objects.order_by("pk").values())
        answer = Browser("editor").send("post", f"{self.review_path}/measured-before").json()
        made = Review.objects.get(pk=answer["review"])
        self.assertEqual(made.expectation, self.scene.review.expectation)
        self.assertEqual(made.margin, self.scene.review.margin)
        owed = Entry.objects.filter(test__review=made)
        self.assertEqual(answer["passes"], owed.count())
        self.assertEqual({entry.column.configuration_id for entry in owed}, {later.pk})
        self.assertEqual({entry.test.workload_id for entry in owed}, {self.scene.tests[0].workload_id})
        self.assertEqual(list(Pass.objects.order_by("pk").values()), before)
