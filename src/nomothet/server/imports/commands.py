"""Bringing files in: received and looked at, told where they go, stored in the background, broken off."""

import shutil
import uuid
from pathlib import Path
from typing import Any, BinaryIO

from django.db import transaction

from nomothet.formats.column_maps import ColumnMap, ColumnUse
from nomothet.formats.column_proposals import fitting_map, look_at
from nomothet.formats.errors import BadTable
from nomothet.server.feed.commands import announce
from nomothet.server.imports import archive
from nomothet.server.imports.foretelling import foretell, map_of
from nomothet.server.imports.jobs import finish, is_wanted, upload_path
from nomothet.server.imports.matching import guess_cell
from nomothet.server.imports.models import ImportJob, JobState
from nomothet.server.imports.tasks import run_import
from nomothet.server.passes.models import ColumnMap as StoredMap
from nomothet.server.passes.quota import require_room
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.models import Review
from nomothet.server.scanning import scan

_PIECE = 1 << 20


def receive(user: User, review: Review, job_id: uuid.UUID, name: str, file: BinaryIO) -> ImportJob:
    """Keep an upload and look at what is in it; stores no pass. The same id again gives the same job.

    Raises
    ------
    Problem, BadTable
        When it is too large or nothing in it can be read.
    """
    require(user, Act.IMPORT_PASSES)
    existing = ImportJob.objects.filter(pk=job_id).first()
    if existing is not None:
        if existing.review_id != review.pk:
            raise conflict("This id belongs to an import of another review.")
        return existing
    require_room(user)
    scan(file)
    path = upload_path(job_id)
    try:
        _keep(path, file)
        found = archive.members(path, name)
        items = _look(review, path, found)
        if all(item["problem"] for item in items):
            raise unusable(f"{items[0]['problem']} Nothing was stored.")
    except BaseException:
        shutil.rmtree(path.parent, ignore_errors=True)
        raise
    return ImportJob.objects.create(id=job_id, review=review, by=user, name=name[:200], items=items)


def choose(user: User, job: ImportJob, choices: list[dict[str, Any]]) -> ImportJob:
    """Say for each file where it goes and what its columns are; a file without a cell is left out."""
    require(user, Act.IMPORT_PASSES)
    with transaction.atomic():
        locked = ImportJob.objects.select_for_update().get(pk=job.pk)
        if locked.state != JobState.OPEN:
            raise conflict("This import is under way or over; begin another one.")
        tests = set(locked.review.tests.values_list("pk", flat=True))
        columns = set(locked.review.columns.values_list("pk", flat=True))
        items = list(locked.items)
        for one in choices:
            at = one["index"]
            if not 0 <= at < len(items):
                raise unusable("This import has no such file.", field="index")
            if one["test"] not in {*tests, None} or one["column"] not in {*columns, None}:
                raise unusable("A test or configuration is not in this review; reload and choose again.")
            items[at] = {**items[at], "test": one["test"], "column": one["column"]}
            before = map_of(items[at])
            if one.get("columns") is not None:
                _take_uses(items[at], one["columns"])
            if "every_s" in one:
                items[at]["every_s"] = one["every_s"]
            # A folder has hundreds of files; only what is to be read otherwise is looked at again.
            if not items[at]["problem"] and map_of(items[at]) != before:
                with archive.opened(upload_path(job.pk), items[at]["name"]) as opened:
                    foretell(items[at], opened)
        locked.items = items
        locked.save(update_fields=["items"])
    return locked


def start(user: User, job: ImportJob) -> ImportJob:
    """Store what has a cell, in the background."""
    require(user, Act.IMPORT_PASSES)
    with transaction.atomic():
        locked = ImportJob.objects.select_for_update().get(pk=job.pk)
        if locked.state != JobState.OPEN:
            raise conflict("This import is under way or over already.")
        if not any(is_wanted(item) for item in locked.items):
            raise unusable("No file has a cell yet; choose a test and a configuration for one at least.")
        locked.state = JobState.QUEUED
        # The pictures were for choosing; from here on the items are written anew with each file.
        locked.items = [
            {**item, "columns": [{**column, "picture": []} for column in item["columns"]]} for item in locked.items
        ]
        locked.save(update_fields=["state", "items"])
        announce("imports", review=locked.review_id, id=str(locked.pk))
    run_import.enqueue(str(locked.pk))
    return locked


def cancel(user: User, job: ImportJob) -> None:
    """Break an import off; passes that it has stored stay."""
    require(user, Act.IMPORT_PASSES)
    with transaction.atomic():
        locked = ImportJob.objects.select_for_update().get(pk=job.pk)
        locked.cancel_wanted = True
        if locked.state in (JobState.OPEN, JobState.QUEUED):
            finish(locked, JobState.CANCELLED)
        locked.save()
        announce("imports", review=locked.review_id, id=str(locked.pk))


def keep_map(user: User, name: str, columns: list[dict[str, Any]], every_s: float | None = None) -> StoredMap:
    """Keep a column map under a name for the next file of its kind."""
    require(user, Act.IMPORT_PASSES)
    content = ColumnMap([ColumnUse(**one) for one in columns], every_s).as_dict()
    stored, _ = StoredMap.objects.update_or_create(name=name.strip(), defaults={"content": content, "by": user})
    return stored


def _keep(path: Path, file: BinaryIO) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    written = 0
    with path.open("wb") as out:
        while piece := file.read(_PIECE):
            written += len(piece)
            if written > archive.MOST_BYTES:
                raise unusable("The file is over 1 GB. Cut it into runs, or bring in a part of the folder at a time.")
            out.write(piece)


def _look(review: Review, path: Path, found: list[archive.Member]) -> list[dict[str, Any]]:
    tests = list(review.tests.select_related("workload"))
    columns = list(review.columns.select_related("configuration"))
    known = [ColumnMap.from_dict(one.content) for one in StoredMap.objects.all()]
    items = []
    for member in found:
        guess = guess_cell(member.name, tests, columns)
        item: dict[str, Any] = {
            "name": member.name, "size": member.size, "columns": [], "test": guess.test, "column": guess.column,
            "problem": "", "remarks": [], "state": "waiting", "pass_id": None, "every_s": None, "refusal": "",
        }  # fmt: skip
        try:
            with archive.opened(path, member.name) as opened:
                layout, seen = look_at(opened, known)
                fitting = fitting_map(layout, known)
                item["every_s"] = fitting.every_s if fitting else None
                item["columns"] = [
                    {**vars(one.use), "why": one.why, "low": one.low, "high": one.high, "picture": one.picture}
                    for one in seen
                ]
                foretell(item, opened)
        except BadTable as error:
            item["problem"] = str(error)
        items.append(item)
    return items


def _take_uses(item: dict[str, Any], uses: list[dict[str, Any]]) -> None:
    chosen = {use["column"]: use for use in uses}
    item["columns"] = [{**one, **chosen.get(one["column"], {})} for one in item["columns"]]
