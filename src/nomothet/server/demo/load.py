"""Loading the demo into an empty database, and what its team does once the passes are in."""

import uuid
from collections.abc import Callable
from datetime import timedelta
from decimal import Decimal
from itertools import product
from typing import Any

from django.db import transaction
from django.utils import timezone

from nomothet.server.analysis.commands import set_range_aside
from nomothet.server.analysis.hypotheses import add_hypothesis
from nomothet.server.analysis.trust import look_at
from nomothet.server.demo.scenario import Scenario
from nomothet.server.docket.commands import ask_for_passes
from nomothet.server.findings.commands import draw_another, pin
from nomothet.server.findings.findings import findings
from nomothet.server.findings.shapes import FindingShape
from nomothet.server.follow_ups.commands import add_follow_up
from nomothet.server.intake.typing_in import Typed, remember_method, store
from nomothet.server.ladders.commands import begin_descent, declare_ladder
from nomothet.server.matrix.matrix import matrix
from nomothet.server.passes.commands import set_aside
from nomothet.server.passes.models import Pass
from nomothet.server.people.models import User
from nomothet.server.people.passwords import set_password
from nomothet.server.planning.splits import settle_split
from nomothet.server.readers.commands import answer
from nomothet.server.readers.models import Message
from nomothet.server.records.commands import publish
from nomothet.server.reviews.commands.tests import detail_of, shown_of
from nomothet.server.reviews.expectations import read_expectations
from nomothet.server.reviews.models import Caveat, Column, Review, Test
from nomothet.server.shelf.commands import add_part, add_price
from nomothet.server.shelf.models import Part
from nomothet.server.standings.references.commands import note_foreign, take
from nomothet.server.standings.saved.commands import publish as publish_standing
from nomothet.server.standings.saved.commands import save
from nomothet.server.standings.sets.commands import add_set
from nomothet.server.systems.configurations import add_configuration, edit_configuration
from nomothet.server.systems.models import Configuration, Observation, OwnSetting, System
from nomothet.server.talk.commands import close, comment
from nomothet.server.verdicts.commands import edit_verdict, reply, settle, sign
from nomothet.server.verdicts.verdict import verdict_shape
from nomothet.server.workloads.commands import add_workload
from nomothet.server.workloads.models import Workload

_UNATTENDED = {"changes_by": "bench", "on_mismatch": "flag"}


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
        parts = {part["name"]: _part(part) for part in scenario.parts}
        for setting in scenario.settings:
            OwnSetting.objects.create(**setting)
        for system in scenario.systems:
            _system(system, parts)
        for workload in scenario.workloads:
            add_workload(None, **workload)
        for position, review in enumerate(scenario.reviews):
            _review(position, review)
    return True


def renew_sign_ins(sign_ins: dict[str, str]) -> dict[str, str]:
    """New passwords for the people of the demo that are still there; returns those that were set."""
    found = User.objects.filter(username__in=sign_ins, is_active=True)
    for user in found:
        set_password(user, sign_ins[user.username])
    return {user.username: sign_ins[user.username] for user in found}


def finish_scenario(scenario: Scenario) -> None:
    """What the team did after the passes had come in: set aside, owe again, publish."""
    leave_machines(scenario)
    for data in scenario.reviews:
        for typed in data.get("typed", []):
            _type(Review.objects.get(key=data["key"]), typed)
        for after in data.get("after", []):
            _after(Review.objects.get(key=data["key"]), after)
        for later in data.get("follow_up", []):
            _follow_up(Review.objects.get(key=data["key"]), later)
    for data in scenario.sets:
        _set(data)
    for data in scenario.reviews:
        for beside in data.get("reference", []):
            _reference(Review.objects.get(key=data["key"]), beside)


def _follow_up(review: Review, data: dict[str, Any]) -> None:
    """What the team left for later; its day is counted from the one on which the demo is loaded."""
    fields = {name: value for name, value in data.items() if name not in ("due_in_days", "tests", "person")}
    if "due_in_days" in data:
        fields["due"] = timezone.localdate() + timedelta(days=data["due_in_days"])
    if "person" in data:
        fields["person"] = User.objects.get(username=data["person"])
    positions = [test - 1 for test in data.get("tests", [])]
    tests = list(review.tests.filter(position__in=positions).values_list("pk", flat=True))
    add_follow_up(review.editor, review=review, tests=tests, **fields)


def _set(data: dict[str, Any]) -> None:
    """A set of tests that the team keeps."""
    items = []
    for test in data["test"]:
        key, _, version = test["workload"].partition(" ")
        workload = Workload.objects.get(key=key, **({"version": version} if version else {}))
        items.append({**test, "workload": workload.pk})
    user = User.objects.get(username=data["by"])
    made = add_set(user, data["name"], items, note=data["note"])
    saved = save(user, data["name"], {"set": str(made.pk)}, data["note"])
    publish_standing(user, saved.pk, frozen=False)


def _reference(review: Review, data: dict[str, Any]) -> None:
    """Results of another review beside those of a review, or figures from outside by the number of their test."""
    if "review" in data:
        column = Column.objects.get(review__key=data["review"], label=data["column"])
        take(review.editor, review, column)
        return
    tests = list(review.tests.order_by("position").values_list("pk", flat=True))
    figures = {tests[int(number) - 1]: value for number, value in data["figures"].items()}
    day = timezone.localdate() - timedelta(days=data["days_ago"])
    note_foreign(review.editor, review, label=data["named"], source=data["told_in"], day=day, figures=figures)


def leave_machines(scenario: Scenario) -> None:
    """The systems as their files have them, and what is owed on them from now on."""
    for system in scenario.systems:
        _leave_standing(system)
    for data in scenario.reviews:
        review = Review.objects.get(key=data["key"])
        for owed in data.get("later", []):
            _owe(review.editor, review, owed)


def _part(data: dict[str, Any]) -> Part:
    """A part; an attribute is `key = value`, or `key = { value, source }` where the label is not its source."""
    attributes = [
        {"key": key, "source": "label", **(one if isinstance(one, dict) else {"value": one})}
        for key, one in data.get("attributes", {}).items()
    ]
    fields = {key: value for key, value in data.items() if key not in ("attributes", "price")}
    part = add_part(None, attributes=attributes, **{"origin": "bought", **fields})
    for price in data.get("price", []):
        add_price(None, part, **{**price, "amount": Decimal(str(price["amount"]))})
    return part


def _system(data: dict[str, Any], parts: dict[str, Part]) -> None:
    plain = {key: value for key, value in data.items() if key not in ("configuration", "observed")}
    if plain.get("simulated"):
        # The demo's past is run without hands; finish_scenario leaves the machines as the file says.
        plain |= _UNATTENDED
    system = System.objects.create(**{"origin": "ours", **plain})
    for one in data.get("configuration", []):
        fitted = {place: _fit(value, parts) for place, value in one.get("fitted", {}).items()}
        base = system.configurations.get(name=one["same_as"]) if "same_as" in one else None
        made = add_configuration(
            None,
            system,
            name=one["name"],
            base=base,
            settings=_nulls(one.get("settings", {})),
            fitted=fitted,
            note=one.get("note", ""),
            blocked=one.get("blocked", ""),
        )
        if one.get("present") and not system.simulated:
            system.present = made
            system.save(update_fields=["present"])


def _leave_standing(data: dict[str, Any]) -> None:
    """The system as its file has it: who changes it, what it is set up as, and what was last read off it."""
    system = System.objects.get(key=data["key"])
    fresh = System()
    for field in _UNATTENDED:
        setattr(system, field, data.get(field, getattr(fresh, field)))
    for one in data.get("configuration", []):
        made = system.configurations.get(name=one["name"])
        if one.get("present"):
            system.present = made
        for key, value in one.get("observed", {}).items():
            Observation.objects.create(configuration=made, key=key, value=value)
    system.save()


def _fit(value: str, parts: dict[str, Part]) -> dict[str, Any] | None:
    """A part by its name, a module of a kit as `name #2`, or "empty"."""
    if value == "empty":
        return None
    name, _, module = value.partition(" #")
    return {"part": parts[name].pk, "module": int(module) if module else None}


def _nulls(settings: dict[str, Any]) -> dict[str, Any]:
    """TOML has no null; "not set" takes a setting of the base away."""
    return {key: None if value == "not set" else value for key, value in settings.items()}


def _review(position: int, data: dict[str, Any]) -> None:
    nested = (
        "column", "test", "owed", "later", "typed", "after", "editor", "factor", "caveat", "expect", "verdict",
        "follow_up", "reference",
    )  # fmt: skip
    plain = {key: value for key, value in data.items() if key not in nested}
    editor = User.objects.get(username=data["editor"])
    factors = [{"levels": [], **factor} for factor in data.get("factor", [])]
    review = Review.objects.create(
        position=position, editor=editor, factors=factors, expectation_at=timezone.now(), **plain
    )
    for at, column in enumerate(data["column"]):
        Column.objects.create(
            review=review,
            position=at,
            configuration=Configuration.objects.get(name=column["configuration"]),
            label=column["label"],
            note=column.get("note", ""),
            is_baseline=column.get("baseline", False),
            step=column.get("step"),
            levels=column.get("levels", {}),
        )
    for test in data["test"]:
        _tests(review, test)
    for caveat in data.get("caveat", []):
        Caveat.objects.create(review=review, by=editor, **caveat)
    labels = dict(review.columns.values_list("label", "pk"))
    review.expectations = read_expectations(
        review,
        [{**one, "column": labels[one["column"]], "of": labels[one["of"]]} for one in data.get("expect", [])],
    )
    review.save(update_fields=["expectations"])
    for owed in data.get("owed", []):
        _owe(editor, review, owed)


def _tests(review: Review, data: dict[str, Any]) -> None:
    """One test, or one for each combination of the choices."""
    key, _, version = data["workload"].partition(" ")
    workload = Workload.objects.get(key=key, **({"version": version} if version else {}))
    fields = {name: value for name, value in data.items() if name not in ("workload", "choices", "settings")}
    choices = data.get("choices", {})
    for values in product(*choices.values()):
        settings = {**data.get("settings", {}), **dict(zip(choices, values, strict=True))}
        Test.objects.create(
            review=review,
            position=review.tests.count(),
            workload=workload,
            settings=settings,
            **{"detail": detail_of(workload, settings), "shown": shown_of(workload), **fields},
        )


def _owe(editor: User, review: Review, owed: dict[str, Any]) -> None:
    tests = list(review.tests.values_list("pk", flat=True))
    if "tests" in owed:
        tests = [tests[number - 1] for number in owed["tests"]]
    columns = review.columns.filter(configuration__blocked="")
    if "columns" in owed:
        columns = columns.filter(label__in=owed["columns"])
    ask_for_passes(editor, review, tests, list(columns.values_list("pk", flat=True)), owed["passes"])


def _type(review: Review, data: dict[str, Any]) -> None:
    """Figures that somebody typed in, a cell for each configuration."""
    test = review.tests.get(position=data["test"] - 1)
    labels = dict(review.columns.values_list("label", "pk"))
    cells = [
        Typed(test.pk, labels[label], data["metric"], text, data["method"], data["half_width"])
        for label, text in data["cells"].items()
    ]
    user = User.objects.get(username=data["by"])
    remember_method(user, test, data["metric"], data["method"], data["half_width"])
    store(user, review, uuid.uuid4(), cells)


def _after(review: Review, after: dict[str, Any]) -> None:
    user = User.objects.get(username=after.get("by", review.editor.username))
    if after["act"] == "publish":
        publish(user, review, after.get("note", ""))
        return
    if after["act"] in _CONCLUDING:
        _CONCLUDING[after["act"]](user, review, after)
        return
    if after["act"] == "pin":
        said = _finding(review, after["says"])
        pin(user, review, said.key, after.get("note", ""))
        return
    if after["act"] == "draw":
        draw_another(user, review, after["kind"], after["choice"])
        return
    if after["act"] in ("revise", "change in the middle"):
        configuration = Configuration.objects.get(name=after["configuration"], revision=1)
        edit_configuration(user, configuration, {"settings": {**configuration.settings, **after["settings"]}})
        if after["act"] != "revise":
            settle_split(user, review.columns.get(configuration=configuration), "changed")
        return
    if after["act"] in ("ladder", "descend"):
        _ladder(user, review, after)
        return
    test = review.tests.get(position=after["test"] - 1)
    column = review.columns.get(label=after["column"])
    if after["act"] == "owe":
        ask_for_passes(user, review, [test.pk], [column.pk], after["passes"])
    elif after["act"] == "set aside":
        found = Pass.objects.filter(test=test, column=column, number=after["pass"], set_aside=False).first()
        if found is not None:
            set_aside(user, found.pk, after["reason"])
    elif after["act"] == "set range aside":
        found = Pass.objects.filter(test=test, column=column, number=after["pass"], ranges=None).first()
        if found is not None:
            set_range_aside(user, found.pk, after["from_s"], after["to_s"], after["reason"])
    elif after["act"] == "explain":
        fields: dict[str, Any] = {
            name: after[name] for name in ("words", "status", "grounds", "decided_by") if name in after
        }
        add_hypothesis(user, review, test, column, fields)
    elif after["act"] == "look":
        for flag in _flags(review, test, column):
            look_at(user, test, column, flag, after["words"])


def _finding(review: Review, words: str) -> FindingShape:
    """The first finding that says some words."""
    for one in findings(review).findings:
        if words in one.sentence:
            return one
    raise LookupError(f"no finding of {review.key} says {words!r}")


def _say(user: User, review: Review, after: dict[str, Any]) -> None:
    """A comment about the review, a cell, a finding or a sentence, with the answers to it."""
    about = dict(after.get("about", {}))
    if "test" in about:
        about |= {
            "about": "cell",
            "test": review.tests.get(position=about["test"] - 1).pk,
            "column": review.columns.get(label=about["column"]).pk,
        }
    elif "finding" in about:
        said = _finding(review, about["finding"])
        about = {"about": "finding", "key": said.key}
    elif "sentence" in about:
        about = {"about": "sentence", "key": about["sentence"]}
    thread = comment(user, review, {**about, "text": after["text"]})
    for told in after.get("answer", []):
        by = User.objects.get(username=told["by"])
        comment(by, review, {"thread": thread.pk, "text": told["text"]})
    if "closed_by" in after:
        close(User.objects.get(username=after["closed_by"]), thread, True)


def _write(user: User, review: Review, after: dict[str, Any]) -> None:
    """A verdict; its configurations are named by their labels."""
    labels = dict(review.columns.values_list("label", "pk"))
    uses = [
        {**use, "judged": [{**one, "column": labels[one["column"]]} for one in use.get("judged", [])]}
        for use in after.get("use", [])
    ]
    edit_verdict(user, review, {"answer": after["answer"], "uses": uses})


def _message(user: User, review: Review, after: dict[str, Any]) -> None:
    """What a reader has sent under the record, answered or still waiting."""
    fields = {name: after[name] for name in ("kind", "name", "machine", "figure") if name in after}
    made = Message.objects.create(
        review=review, edition=1, text=after["text"], **{"kind": Message.Kind.QUESTION, **fields}
    )
    if "answer" in after:
        answer(user, made, after["answer"])


def _settle(user: User, review: Review, after: dict[str, Any]) -> None:
    """An answer to the points of a kind that are open before publishing."""
    for point in verdict_shape(review).points:
        if after["says"] in point.words:
            settle(user, review, point.key, after["how"], after["words"])


_CONCLUDING: dict[str, Callable[[User, Review, dict[str, Any]], object]] = {
    "message": _message,
    "say": _say,
    "write": _write,
    "settle": _settle,
    "reply": lambda user, review, after: reply(user, review, after["sentence"], after["kind"], after.get("words", "")),
    "sign": lambda user, review, after: sign(user, review, after["as"]),
}


def _ladder(user: User, review: Review, after: dict[str, Any]) -> None:
    if after["act"] == "ladder":
        tests = list(review.tests.values_list("pk", flat=True))
        declare_ladder(user, review, after["name"], [tests[number - 1] for number in after["tests"]])
        return
    columns = review.columns.filter(label__in=after["columns"]).values_list("pk", flat=True)
    begin_descent(user, review.ladders.get(name=after["name"]), list(columns), review.passes_per_test)


def _flags(review: Review, test: Test, column: Column) -> list[str]:
    """The keys of a cell's flags."""
    row = next((row for row in matrix(review).flags if row.test == test.pk), None)
    return [flag.key for flag in row.cells.get(str(column.pk), [])] if row else []
