"""Loading the demo into an empty database, and what its team does once the passes are in."""

from typing import Any

from django.db import transaction

from nomothet.server.demo.scenario import Scenario
from nomothet.server.docket.commands import ask_for_passes
from nomothet.server.passes.commands import set_aside
from nomothet.server.passes.models import Pass
from nomothet.server.people.models import User
from nomothet.server.records.commands import publish
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.systems.models import Configuration, System
from nomothet.server.workloads.models import Workload


def load_scenario(scenario: Scenario, sign_ins: dict[str, str]) -> bool:
    """Load everything when there is nobody yet; returns whether it did."""
    if User.objects.exists():
        return False
    with transaction.atomic():
        for person in scenario.people:
            User.objects.create_user(
                person.username,
                password=sign_ins[person.username],
                display_name=person.display_name,
                role=person.role,
            )
        for system in scenario.systems:
            _system(system)
        for workload in scenario.workloads:
            Workload.objects.create(**workload)
        for position, review in enumerate(scenario.reviews):
            _review(position, review)
    return True


def finish_scenario(scenario: Scenario) -> None:
    """What the team did after the passes had come in: set aside, owe again, publish."""
    for data in scenario.reviews:
        review = Review.objects.get(key=data["key"])
        for after in data.get("after", []):
            _after(review, after)


def _system(data: dict[str, Any]) -> None:
    configurations = data.get("configuration", [])
    system = System.objects.create(**{key: value for key, value in data.items() if key != "configuration"})
    for configuration in configurations:
        Configuration.objects.create(system=system, **configuration)


def _review(position: int, data: dict[str, Any]) -> None:
    plain = {key: value for key, value in data.items() if key not in ("column", "test", "owed", "after", "editor")}
    plain["verdict"] = plain.get("verdict", "").strip()
    editor = User.objects.get(username=data["editor"])
    review = Review.objects.create(position=position, editor=editor, **plain)
    for at, column in enumerate(data["column"]):
        Column.objects.create(
            review=review,
            position=at,
            configuration=Configuration.objects.get(name=column["configuration"]),
            label=column["label"],
            note=column.get("note", ""),
            is_baseline=column.get("baseline", False),
        )
    for at, test in enumerate(data["test"]):
        fields = {key: value for key, value in test.items() if key != "workload"}
        Test.objects.create(review=review, position=at, workload=Workload.objects.get(key=test["workload"]), **fields)
    for owed in data.get("owed", []):
        tests = list(review.tests.values_list("pk", flat=True))
        columns = list(review.columns.values_list("pk", flat=True))
        ask_for_passes(editor, review, tests, columns, owed["passes"])


def _after(review: Review, after: dict[str, Any]) -> None:
    user = User.objects.get(username=after["by"])
    if after["act"] == "publish":
        publish(user, review)
        return
    test = review.tests.get(position=after["test"] - 1)
    column = review.columns.get(label=after["column"])
    if after["act"] == "owe":
        ask_for_passes(user, review, [test.pk], [column.pk], after["passes"])
    elif after["act"] == "set aside":
        found = Pass.objects.filter(test=test, column=column, number=after["pass"], set_aside=False).first()
        if found is not None:
            set_aside(user, found.pk, after["reason"])
