"""Passes on their way in from a bench: announced, sent in chunks, finished; each step may be repeated.

All state is in the database: a server that is killed in the middle loses nothing that it has acknowledged, and another
one can go on.
"""

import base64
import binascii
import hashlib
import uuid
from typing import Any

from django.db import IntegrityError, transaction
from django.utils import timezone

from nomothet.core.compare import Direction
from nomothet.core.notes import note
from nomothet.core.passes import Scale
from nomothet.core.quantities import has_size
from nomothet.formats.errors import BadSeries
from nomothet.formats.names import as_compared
from nomothet.formats.series import unpack
from nomothet.formats.words import METHOD_VERSION, Metric, MetricValue
from nomothet.server.analysis.commands import recompute
from nomothet.server.docket import commands as docket
from nomothet.server.docket.models import Entry
from nomothet.server.matrix.tasks import is_waiting, prepare_matrix
from nomothet.server.passes.clocks import is_doubtful
from nomothet.server.passes.commands import announce_pass, manifest_series, store_figures
from nomothet.server.passes.first_runs import group_of
from nomothet.server.passes.models import IN_ONE_ROW, Chunk, Mark, Origin, Pass, Series
from nomothet.server.passes.placing import makes_rounds, session_of
from nomothet.server.passes.searches import SEARCHED, search_values
from nomothet.server.passes.stamping import stamped
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.models import Column, Test
from nomothet.server.systems.commands import remember_observed
from nomothet.server.systems.models import Bench
from nomothet.server.workloads.approvals import remember_program
from nomothet.words import say


def announce_upload(bench: Bench, pass_id: uuid.UUID, manifest: dict[str, Any]) -> Pass:
    """Open an upload, or find the one that is open or done under this id."""
    entry = (
        Entry.objects.select_related("test__review", "test__workload", "column")
        .filter(pk=manifest["entry"], bench=bench)
        .first()
    )
    if entry is None:
        raise unusable("This pass was not taken from the docket by this bench.")
    existing = Pass.objects.filter(pk=pass_id).first()
    if existing is not None:
        return existing
    try:
        with transaction.atomic():
            # One that was given up meanwhile, and owed again, comes late: it settles what is owed, or is one more.
            late = entry.pass_id != pass_id
            if not late:
                number = entry.number
                Entry.objects.filter(pk=entry.pk).update(owe_again=manifest["owe_again"])
            elif manifest["owe_again"]:
                # What was interrupted through no fault of its own settles nothing that is owed.
                number = docket.next_number(entry.test, entry.column)
            else:
                number = docket.number_for(entry.test, entry.column, pass_id)
            return _open(bench, entry, pass_id, number, manifest)
    except IntegrityError:
        # The same announcement came twice at once; the other one has opened the upload.
        existing = Pass.objects.filter(pk=pass_id).first()
        if existing is None:
            raise unusable(_same_names(manifest)) from None
        return existing


def _open(bench: Bench, entry: Entry, pass_id: uuid.UUID, number: int, manifest: dict[str, Any]) -> Pass:
    began, now = manifest["started_at"], timezone.now()
    off_s = (manifest["clock"] - now).total_seconds() if "clock" in manifest else None
    taken_at = entry.taken_at if entry.pass_id == pass_id else None
    with transaction.atomic():
        owner = Pass.objects.create(
            id=pass_id,
            test=entry.test,
            column=entry.column,
            number=number,
            origin=Origin.BENCH,
            outcome=manifest["outcome"],
            note=_note_of(manifest),
            started_at=began,
            taken_at=taken_at,
            clock_off_s=off_s,
            time_doubtful=is_doubtful(
                began, manifest["duration_s"], off_s, taken_at, now, simulated=bench.system.simulated
            ),
            duration_s=manifest["duration_s"],
            bench=bench,
            environment=stamped(manifest["environment"], entry.test, entry.column),
            attempts=manifest["attempts"],
            recorder=entry.recorder,
            in_rounds=makes_rounds(bench.system_id),
        )
        program = owner.environment["workload"].get("program")
        if entry.test.workload.command and isinstance(program, str) and owner.outcome != "refused":
            remember_program(entry.test.workload, bench.system_id, program[:64])
        inline = manifest["inline"]
        Series.objects.bulk_create(_announced(owner, series, inline) for series in manifest["series"])
        store_figures(owner, [_reported(figure) for figure in manifest["figures"]], "extracted", "read from output")
        Mark.objects.bulk_create(Mark(owner=owner, pass_id=owner.pk, **phase) for phase in manifest["phases"])
        if owner.attempts and owner.outcome == "completed":
            store_figures(owner, search_values(owner.test, owner.attempts), "computed", SEARCHED)
    return owner


def _same_names(manifest: dict[str, Any]) -> str:
    """Which names of a pass the database cannot tell apart."""
    for kind, names in (
        ("series", [one["name"] for one in manifest["series"]]),
        ("figures", [one["metric"] for one in manifest["figures"]]),
    ):
        known: dict[str, str] = {}
        for name in names:
            before = known.setdefault(as_compared(name), name)
            if names.count(name) > 1 or before != name:
                return f"Two {kind} are called {before!r} and {name!r}, which are the same here. Rename one of them."
    return "Two series or figures of this pass have names that are the same here. Rename one of them."


def _announced(owner: Pass, series: dict[str, Any], inline: dict[str, str]) -> Series:
    """A series that came whole with the announcement, or one that is waited for."""
    made = Series(owner=owner, **manifest_series(series))
    try:
        data = base64.b64decode(inline.get(series["name"], ""), validate=True)
        if hashlib.sha256(data).hexdigest() == series["sha256"] and len(data) == series["size"]:
            unpack(data)
            made.blob, made.received = data, len(data)
    except (binascii.Error, BadSeries):
        # What is not as announced is asked for in chunks, and refused there if it is no better.
        return made
    return made


def _note_of(manifest: dict[str, Any]) -> str:
    """What the bench notes, and which figures are not taken."""
    strange = [f"{one['metric']} {one['value']:g}" for one in manifest["figures"] if not has_size(one["value"])]
    told = say(note("figures_without_size", figures=strange)) if strange else ""
    return "; ".join(filter(None, [manifest["note"], told]))


def _reported(figure: dict[str, Any]) -> MetricValue:
    direction: Direction = figure["direction"]
    scale: Scale = figure["scale"]
    return MetricValue(Metric(figure["metric"], figure["metric"], figure["unit"], direction, scale), figure["value"])


def received(owner: Pass) -> dict[str, int]:
    """Bytes received of each series, so that a bench can go on where it was."""
    return dict(owner.series.values_list("name", "received"))


def append_chunk(bench: Bench, pass_id: uuid.UUID, name: str, offset: int, data: bytes) -> int:
    """Store the next bytes of a series; returns how many have come in.

    Bytes that are there already are passed over, so a repeated chunk does no harm.
    """
    with transaction.atomic():
        series = Series.objects.select_for_update().filter(owner=pass_id, name=name).defer("blob").first()
        if series is None or not Pass.objects.filter(pk=pass_id, bench=bench).exists():
            raise unusable("No upload is open for this series; announce the pass first.")
        if offset + len(data) <= series.received:
            return series.received
        if offset != series.received:
            raise conflict("The chunk does not follow on what has come in.", received=series.received)
        if offset + len(data) > series.size:
            raise unusable(f"The series was announced with {series.size} bytes; this is more.")
        Chunk.objects.create(series=series, offset=offset, data=data)
        series.received += len(data)
        series.save(update_fields=["received"])
        return series.received


def finish_upload(bench: Bench, pass_id: uuid.UUID) -> Pass:
    """Check that all is in, compute the figures and let the pass count."""
    with transaction.atomic():
        owner = Pass.objects.select_for_update().filter(pk=pass_id, bench=bench).first()
        if owner is None:
            raise unusable("No upload is open under this id; announce the pass first.")
        if owner.whole_at is not None:
            return owner
        missing = {s.name: s.received for s in owner.series.defer("blob") if s.received < s.size}
        if missing:
            raise conflict("Bytes are missing; send the rest.", received=received(owner))
        # Not joined to the pass, since whatever is read with it would be locked with it.
        owner.test = Test.objects.select_related("review", "workload").get(pk=owner.test_id)
        owner.column = Column.objects.select_related("configuration").get(pk=owner.column_id)
        for series in owner.series.filter(blob=None):
            _assemble(series)
        Mark.objects.filter(pass_id=pass_id).update(owner=owner)
        found = recompute(owner)
        if found.no_figures and owner.outcome == "completed":
            # The capture stays; a pass without figures enters no comparison, and says why.
            owner.note = f"{owner.note} No figures: {found.no_figures}.".strip()
        observed = owner.environment.get("observed")
        if isinstance(observed, dict):
            remember_observed(owner.column.configuration, observed, owner.started_at)
        owner.whole_at = timezone.now()
        owner.method_version = METHOD_VERSION
        owner.run_group = group_of(owner.test, owner.column, owner.started_at, owner)
        owner.session = session_of(owner)
        owner.save(update_fields=["whole_at", "method_version", "note", "run_group", "session"])
        entry = Entry.objects.select_for_update().filter(pass_id=pass_id).first()
        if entry is not None:
            # The pass knows best how far a search has come; not every attempt was told of while it ran.
            entry.attempts = owner.attempts or entry.attempts
            docket.close(entry)
            review = owner.test.review_id
            if not is_waiting(review):
                transaction.on_commit(lambda: prepare_matrix.enqueue(review))
        announce_pass(owner)
    return owner


def _assemble(series: Series) -> None:
    blob = series.content
    if hashlib.sha256(blob).hexdigest() != series.sha256:
        raise BadUpload(series.name)
    unpack(blob)
    if len(blob) <= IN_ONE_ROW:
        series.blob = blob
        series.save(update_fields=["blob"])
        series.chunks.all().delete()


class BadUpload(BadSeries):
    """What came in is not what was announced."""

    def __init__(self, name: str) -> None:
        super().__init__(f"the bytes of {name!r} are not those that were announced; send the series again")
        self.name = name


def start_over(pass_id: uuid.UUID, name: str) -> None:
    """Forget the bytes of a series whose check failed, so that it can be sent again."""
    with transaction.atomic():
        series = Series.objects.select_for_update().defer("blob").get(owner=pass_id, name=name)
        series.chunks.all().delete()
        series.received = 0
        series.save(update_fields=["received"])
