"""The scene with one object of everything, so that every address of the API leads somewhere."""

import uuid
from dataclasses import dataclass, field
from datetime import date, timedelta
from io import BytesIO
from typing import Any

from django.utils import timezone
from PIL import Image

from nomothet.formats.words import PICTURE_VERDICTS
from nomothet.server.analysis.models import AsideRange, Hypothesis, Pair, PicturePair, SensorDoubt
from nomothet.server.docket.models import Changeover
from nomothet.server.findings.models import DrawnFinding, Pin
from nomothet.server.follow_ups.models import FollowUp, WatchItem
from nomothet.server.foreign.models import ForeignRecord
from nomothet.server.imports.models import ImportJob
from nomothet.server.ladders.models import Ladder
from nomothet.server.passes.models import Mark, Pass, Picture, Series
from nomothet.server.people.models import Token, Visit
from nomothet.server.readers.models import Message
from nomothet.server.records.models import Record
from nomothet.server.shelf.models import Part, Price
from nomothet.server.standings.models import Reference, SavedStanding, TestSet
from nomothet.server.systems.commands import issue_demo_token
from nomothet.server.systems.models import Bundle, Configuration, OwnSetting, System
from nomothet.server.talk.models import Comment
from nomothet.server.verdicts.models import Reply, Signature
from tests.server.base import BenchClient, Browser, Scene, steady


@dataclass
class Populated:
    """The scene, what its addresses are called, and tokens of what may speak to it."""

    scene: Scene
    values: dict[str, Any] = field(default_factory=dict)
    archived_token: str = ""


def populate(scene: Scene) -> Populated:
    """Make one of everything."""
    made = Populated(scene)
    editor, review, test = scene.people["editor"], scene.review, scene.tests[0]
    first, second = scene.columns
    bench = BenchClient(scene.token)
    scene.owe(count=2)
    scene.owe(column=1, count=2)
    passes = [Pass.objects.get(pk=bench.deliver(steady(60, seed=seed))) for seed in (1, 2, 3, 4)]
    passes = [one for one in passes if one.column_id == first.pk]
    owed = scene.owe()[0]
    bench.take()
    waiting = scene.owe()[0]
    pictures = [_picture(passes[0], shade) for shade in (10, 200, 90)]
    Picture.every.filter(pk=pictures[2].pk).update(off_at=timezone.now())
    part = Part.objects.create(kind="display", name="wall")
    now = timezone.now()
    record = _published(scene)
    archived = System.objects.create(key="old", name="Old", archived_at=None)
    made.archived_token = issue_demo_token(archived)
    System.objects.filter(pk=archived.pk).update(archived_at=now)
    visit = Visit.objects.create(session_key="a" * 32, user=editor, expire_date=now + timedelta(hours=1))
    made.values = {
        "archived_system": archived.pk,
        "aspect": "fan_profile",
        "batch": uuid.uuid4(),
        "bundle": Bundle.objects.create(family="f", name="n", settings={"fan_profile": 2}).pk,
        "changeover": Changeover.objects.create(system=scene.system, configuration=scene.configurations[1]).pk,
        "column": first.pk,
        "comment": Comment.objects.create(review=review, text="Hm.", by=editor).pk,
        "configuration": Configuration.objects.create(system=scene.system, name="spare").pk,
        "doubt": SensorDoubt.objects.create(
            owner=passes[0], sensor="clock", kind="implausible", reason="r", by=editor
        ).pk,
        "drawn": DrawnFinding.objects.create(
            review=review, kind="overall", choice={"baseline": second.pk}, by=editor
        ).pk,
        "entry": owed.pk,
        "form": "csv",
        "hypothesis": Hypothesis.objects.create(review=review, words="w", by=editor).pk,
        "job": ImportJob.objects.create(review=review, by=editor, name="a").pk,
        "kept": AsideRange.objects.create(owner=passes[0], start_s=0, end_s=1, reason="r", by=editor).pk,
        "kind": "review",
        "ladder": Ladder.objects.create(review=review, name="l").pk,
        "mark": _mark(passes[0]).pk,
        "mark_off": _mark(passes[0], off_at=now, off_by=editor).pk,
        "picture_off": pictures[2].pk,
        "message": Message.objects.create(review=review, edition=1, kind="question", text="?").pk,
        "metric": "average_fps",
        "name": "frames",
        "object_id": review.pk,
        "other": passes[1].pk,
        "pair": Pair.objects.create(
            review=review, kind=Pair._meta.get_field("kind").choices[0][0], test_a=test, metric_a="average_fps",
            test_b=scene.tests[1], metric_b="one_thread",
        ).pk,
        "watch_item": WatchItem.objects.create(system=scene.system, words="w", by=editor).pk,
        "saved": SavedStanding.objects.create(name="s", query={"workload": scene.scene.key}, by=editor).pk,
        "test_set": TestSet.objects.create(name="s", items=[], by=editor).pk,
        "reference": Reference.objects.create(
            review=review, kind="foreign", number=1, label="r", source="s", day=date(2026, 1, 1), seal="",
            content={"system": "", "configuration": "", "revision": 0, "results": []}, taken_by=editor,
        ).pk,
        "follow_up": FollowUp.objects.create(review=review, what="w", by=editor).pk,
        "part": part.pk,
        "pass_id": passes[0].pk,
        "person": scene.people["tester"].pk,
        "picture": pictures[0].pk,
        "pin": _pinned(scene).pk,
        "position": 0,
        "price": Price.objects.create(part=part, amount=1, currency="EUR", on=now.date(), basis="paid").pk,
        "record": ForeignRecord.objects.create(
            state="refused", sha256="0" * 64, name="n", edition="1", size=1, brought_by=editor, told={"question": "?"}
        ).pk,
        "reply": Reply.objects.create(review=review, sentence="s", kind=Reply.Kind.values[0], by=editor).pk,
        "review": review.pk,
        "series": Series.objects.filter(owner=passes[0]).values_list("pk", flat=True)[0],
        "signature": Signature.objects.create(review=review, role=Signature.Role.values[0], state={}, by=editor).pk,
        "slug": record.slug,
        "system": scene.system.pk,
        "test": test.pk,
        "token": Token.objects.create(user=editor, name="t", scope="reading", digest="1" * 64).pk,
        "visit": visit.session_key,
        "what": "figures",
        "workload": scene.suite.pk,
        "workload_key": scene.scene.key,
    }  # fmt: skip
    made.values["picture_pair"] = PicturePair.objects.create(
        review=review, picture_a=pictures[0], picture_b=pictures[1], verdict=next(iter(PICTURE_VERDICTS)), by=editor
    ).pk
    own = OwnSetting.objects.create(key="own.system.system.Game mode", label="Game mode", kind="yes_no")
    made.values["owed_entry"] = waiting.pk
    made.values["setting"] = own.key
    return made


def _picture(owner: Pass, shade: int) -> Picture:
    held = BytesIO()
    Image.new("L", (8, 8), shade).save(held, "PNG")
    content = held.getvalue()
    return Picture.objects.create(
        owner=owner, media_type="image/png", width=8, height=8, sha256=f"{shade:064}", blob=content, thumbnail=content
    )


def _mark(owner: Pass, **more: Any) -> Mark:
    return Mark.every.create(owner=owner, pass_id=owner.pk, label="menu", start_s=0, by=owner.brought_by, **more)


def _pinned(scene: Scene) -> Pin:
    path, editor = f"/api/reviews/{scene.review.pk}", Browser("editor")
    key = editor.json(f"{path}/findings")["findings"][0]["key"]
    answer = editor.send("post", f"{path}/pins", {"key": key})
    assert answer.status_code == 201, answer.content
    return Pin.objects.get()


def _published(scene: Scene) -> Record:
    answer = Browser("editor").send("post", f"/api/reviews/{scene.review.pk}/records", {})
    assert answer.status_code == 201, answer.content
    return Record.objects.get()
