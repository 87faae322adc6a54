"""Passes with their captures and figures."""

import uuid
from typing import Any

from django.conf import settings
from django.db import models

from nomothet.formats.words import OUTCOMES
from nomothet.server.passes import outside, packed
from nomothet.server.passes.blobs import BlobField
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.systems.models import Bench
from nomothet.server.workloads.models import Workload

# Bytes of a series that are kept in its row, and of a piece of a longer one.
IN_ONE_ROW = 8 << 20
PIECE = 4 << 20


def counts_when(prefix: str = "") -> models.Q:
    """When a pass counts in its group, be that the plain passes or the first runs."""
    return models.Q(
        **{
            f"{prefix}whole_at__isnull": False,
            f"{prefix}outcome": "completed",
            f"{prefix}set_aside": False,
            f"{prefix}recorder": "",
        }
    )


def kept_when(prefix: str = "") -> models.Q:
    """When a pass is in its cell's centre: whole, completed, not set aside, no part of a recorder pair, and no first
    run of a workload whose first runs are a group of their own (docs/method.md, 2).

    Parameters
    ----------
    prefix : str
        Leads from the model that is asked to its pass, such as "owner__".
    """
    return counts_when(prefix) & models.Q(**{f"{prefix}run_group": ""})


class PassQuerySet(models.QuerySet["Pass"]):
    """Passes, and the one meaning of "kept"."""

    def whole(self) -> "PassQuerySet":
        """Passes that are all in."""
        return self.exclude(whole_at=None)

    def light(self) -> "PassQuerySet":
        """Without what is large and read by few; tests, configurations and people are read once for all passes."""
        about = ("test__workload", "column__configuration", "brought_by", "bench__system")
        return self.defer("environment", "attempts", "part", "procedure").prefetch_related(*about)

    def kept(self) -> "PassQuerySet":
        """Passes that count."""
        return self.filter(kept_when())

    def paired(self) -> "PassQuerySet":
        """Completed passes that were run in pairs to learn what recording costs."""
        return self.whole().filter(outcome="completed", set_aside=False).exclude(recorder="")


class OfPassQuerySet(models.QuerySet[Any]):
    """Rows that belong to a pass as their owner."""

    def kept(self) -> "OfPassQuerySet":
        """Those of passes that count."""
        return self.filter(kept_when("owner__"))

    def of_any_group(self) -> "OfPassQuerySet":
        """Those of passes that count among the plain passes or among the first runs."""
        return self.filter(counts_when("owner__"))


class Origin(models.TextChoices):
    BENCH = "bench"
    FILE = "file"
    TYPED = "typed"


class Pass(models.Model):
    """One execution in a cell. Its id is made by the client, so that sending it twice stores it once."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    test = models.ForeignKey(Test, on_delete=models.PROTECT, related_name="passes")
    column = models.ForeignKey(Column, on_delete=models.PROTECT, related_name="passes")
    number = models.PositiveIntegerField()
    origin = models.CharField(max_length=5, choices=Origin.choices)
    outcome = models.CharField(max_length=16, choices=list(OUTCOMES.items()))
    note = models.TextField(blank=True)
    started_at = models.DateTimeField()
    # By the server's clock: when it was taken from the docket. How far the bench's clock was ahead when it came in, and
    # whether `started_at` does not fit to these (passes.clocks).
    taken_at = models.DateTimeField(null=True)
    clock_off_s = models.FloatField(null=True)
    time_doubtful = models.BooleanField(default=False)
    # Null where nobody knows: a typed figure does not say how long its run was.
    duration_s = models.FloatField(null=True)
    # Not whole until every announced series is in; a pass that is not whole is in no figure.
    whole_at = models.DateTimeField(null=True, db_index=True)
    bench = models.ForeignKey(Bench, null=True, on_delete=models.SET_NULL)
    brought_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    # The fingerprint: operating system, settings, what was observed.
    environment = models.JSONField(default=dict)
    set_aside = models.BooleanField(default=False)
    # "off" and "on" are passes run in pairs to learn what recording costs; they are in no cell's centre.
    recorder = models.CharField(max_length=3, blank=True, choices=[("off", "off"), ("on", "on")])
    # "first" is the first run after a start, of a workload that keeps these apart; it is compared with its like only.
    run_group = models.CharField(max_length=5, blank=True, choices=[("first", "first run")])
    # The first pass of the stretch that it was run in without a change, a restart or six hours between; null where
    # nobody knows. `in_rounds`: the docket's order made rounds of one pass of every cell each.
    session = models.UUIDField(null=True)
    in_rounds = models.BooleanField(default=False)
    # Who stood at the machine, where that is not who typed it, and who helped or ran it elsewhere.
    ran_by = models.CharField(max_length=120, blank=True)
    helped_by = models.CharField(max_length=200, blank=True)
    # Of a pass that failed: what was done about it, and what was run instead. `note` says why it ended so.
    action = models.CharField(max_length=300, blank=True)
    fallback = models.CharField(max_length=300, blank=True)
    # Of a pass by hand: {"steps": [{"key", "kind", "words", "at", "by", "observed"}], "clock": {…}}.
    procedure = models.JSONField(default=dict)
    # Of a load search: every attempt in order, as formats.searches writes them.
    attempts = models.JSONField(default=list)
    # Of a job that was done in part: {"done", "whole", "unit"}; its forecast is computed, never stored.
    part = models.JSONField(null=True)
    method_version = models.PositiveSmallIntegerField(null=True)
    # What was typed in together, so that sending it twice stores it once.
    batch = models.UUIDField(null=True, db_index=True)

    objects = PassQuerySet.as_manager()

    class Meta:
        indexes = [models.Index(fields=["test", "column"], name="passes_of_a_cell")]
        ordering = ["number", "started_at"]

    @property
    def counts(self) -> bool:
        """As `counts_when` says it, of a pass that is read already."""
        whole = self.whole_at is not None
        return whole and self.outcome == "completed" and not self.set_aside and not self.recorder

    @property
    def is_kept(self) -> bool:
        """As `kept_when` says it, of a pass that is read already."""
        return self.counts and not self.run_group

    @property
    def who_ran(self) -> str:
        """The person who ran it, else the person or the bench that it came from."""
        if self.ran_by:
            return self.ran_by
        if self.brought_by is not None:
            return self.brought_by.display_name
        return f"the bench of {self.bench.system.name}" if self.bench is not None else ""


class SeriesQuerySet(models.QuerySet["Series"]):
    def lanes(self) -> "SeriesQuerySet":
        """Frames and sensors: what can be drawn over time. The rest are files and texts."""
        return self.filter(kind__in=("frames", "sensor"))


class Series(models.Model):
    """One raw capture of a pass. `received` counts the bytes that have come in.

    A short one is kept in its row; a long one stays in its chunks, so that no statement has to carry all of it. One
    that was moved out of the database has neither, and says under what name a store outside keeps it; one that was put
    away with its review says in which pack, and from which of its bytes on.
    """

    owner = models.ForeignKey(Pass, on_delete=models.CASCADE, related_name="series")
    name = models.CharField(max_length=80)
    # frames | sensor | file | output
    kind = models.CharField(max_length=8)
    unit = models.CharField(max_length=20, blank=True)
    place = models.CharField(max_length=80, blank=True)
    source = models.CharField(max_length=160, blank=True)
    # Full height of the lane, where the quantity has a capacity.
    capacity = models.FloatField(null=True)
    # When the first frame begins on the clock of the pass, in seconds.
    starts_at_s = models.FloatField(default=0.0)
    size = models.PositiveBigIntegerField()
    sha256 = models.CharField(max_length=64)
    received = models.PositiveBigIntegerField(default=0)
    blob = BlobField(null=True)
    stored_as = models.CharField(max_length=80, blank=True, default="")
    pack = models.ForeignKey("Pack", on_delete=models.PROTECT, null=True, related_name="series")
    pack_offset = models.PositiveBigIntegerField(default=0)

    objects = SeriesQuerySet.as_manager()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["owner", "name"], name="one_series_of_a_name")]

    @property
    def content(self) -> bytes:
        """Its bytes as they came; empty while nothing has come in. A query more for what is kept in chunks.

        Raises
        ------
        StoreAway
            They are in a store outside that does not give them.
        """
        held = self._held()
        if len(held) != self.size and self.received == self.size:
            # It was put elsewhere since this row was read.
            self.refresh_from_db(fields=["blob", "stored_as", "pack", "pack_offset"])
            held = self._held()
        return held

    def _held(self) -> bytes:
        if self.stored_as:
            return outside.read(self.stored_as)
        if self.pack_id is not None:
            return packed.read(self.pack_id, self.pack_offset, self.size)
        if self.blob is not None:
            return bytes(self.blob)
        return b"".join(bytes(data) for data in self.chunks.order_by("offset").values_list("data", flat=True))


class Chunk(models.Model):
    """Part of a series on its way in, and of a long one for good."""

    series = models.ForeignKey(Series, on_delete=models.CASCADE, related_name="chunks")
    offset = models.PositiveBigIntegerField()
    data = BlobField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["series", "offset"], name="one_chunk_at_an_offset")]


class Pack(models.Model):
    """Captures of an archived review, one after the other, as one Zstandard frame in pieces."""

    review = models.ForeignKey(Review, on_delete=models.PROTECT, related_name="packs")
    # Bytes of the captures, and of the frame.
    held = models.PositiveBigIntegerField()
    size = models.PositiveBigIntegerField()
    at = models.DateTimeField(auto_now_add=True)


class PackPiece(models.Model):
    """Part of a pack."""

    pack = models.ForeignKey(Pack, on_delete=models.CASCADE, related_name="pieces")
    offset = models.PositiveBigIntegerField()
    data = BlobField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["pack", "offset"], name="one_piece_of_a_pack_at_an_offset")]


class Figure(models.Model):
    """One number of a pass, with its kind. Recomputed, never edited."""

    owner = models.ForeignKey(Pass, on_delete=models.CASCADE, related_name="figures")
    metric = models.CharField(max_length=60)
    unit = models.CharField(max_length=20, blank=True)
    direction = models.CharField(max_length=7)
    scale = models.CharField(max_length=10)
    # captured | extracted | typed | computed
    obtained = models.CharField(max_length=9)
    value = models.FloatField()
    thin = models.BooleanField(default=False)
    # How it was taken (section 18), the half-width of its precision, and "about", "over" or "under". Without a
    # half-width it takes part in no verdict.
    method = models.CharField(max_length=30, default="captured")
    half_width = models.FloatField(null=True, default=0.0)
    # The step in which it was read: the last digit typed, the step of a search; 0 for what is exact.
    step = models.FloatField(default=0.0)
    bound = models.CharField(max_length=5, blank=True)
    batch = models.UUIDField(null=True, db_index=True)
    method_version = models.PositiveSmallIntegerField()

    objects = OfPassQuerySet.as_manager()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["owner", "metric"], name="one_figure_of_a_metric")]


class Remark(models.Model):
    """What somebody did to a pass and why; set aside or taken back. Never deleted."""

    owner = models.ForeignKey(Pass, on_delete=models.CASCADE, related_name="remarks")
    act = models.CharField(
        max_length=10,
        choices=[
            ("set_aside", "set aside"),
            ("taken_back", "taken back"),
            ("corrected", "corrected"),
            ("read_again", "read again"),
            ("regrouped", "moved to another group"),
            ("told", "told more of"),
        ],
    )
    reason = models.CharField(max_length=300)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["at", "pk"]


class OnPassManager(models.Manager[Any]):
    """Marks and pictures that were not taken off."""

    def get_queryset(self) -> models.QuerySet[Any]:
        return super().get_queryset().filter(off_at=None)


class OnPass(models.Model):
    """What people put on a pass: taken off, it is out of sight and stays on record, and can be put back."""

    off_at = models.DateTimeField(null=True)
    off_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")

    objects = OnPassManager()
    every = models.Manager()

    class Meta:
        abstract = True


class Mark(OnPass):
    """Something noted on the clock of a pass: a moment, a span such as "menu", or an impression with a grade.

    It hangs on the docket's entry while the pass runs, and on the pass once that is in.
    """

    owner = models.ForeignKey(Pass, null=True, on_delete=models.CASCADE, related_name="marks")
    # The id that the pass will have, so that its marks find it.
    pass_id = models.UUIDField(db_index=True)
    # menu | loading | indoor | outdoor | crowd | cut scene | own words; for an impression what it is of.
    label = models.CharField(max_length=60)
    words = models.CharField(max_length=300, blank=True)
    # 0 none to 4 unbearable; null for marks that are no impressions.
    grade = models.PositiveSmallIntegerField(null=True)
    start_s = models.FloatField()
    end_s = models.FloatField(null=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["start_s", "pk"]


class Picture(OnPass):
    """A photo, screenshot or thermal picture of a pass, without the camera's metadata."""

    owner = models.ForeignKey(Pass, on_delete=models.CASCADE, related_name="pictures")
    caption = models.CharField(max_length=200, blank=True)
    media_type = models.CharField(max_length=20)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    sha256 = models.CharField(max_length=64)
    at_s = models.FloatField(null=True)
    blob = BlobField()
    thumbnail = BlobField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["at", "pk"]
        constraints = [models.UniqueConstraint(fields=["owner", "sha256"], name="one_picture_once")]


class Gap(models.Model):
    """Why a cell has no value of a metric: not run, not recorded, shown but not noted. Never a zero."""

    test = models.ForeignKey(Test, on_delete=models.CASCADE, related_name="gaps")
    column = models.ForeignKey(Column, on_delete=models.CASCADE, related_name="gaps")
    # Of a row of first runs the key is longer than that of its metric.
    metric = models.CharField(max_length=80)
    reason = models.CharField(max_length=30)
    batch = models.UUIDField(null=True, db_index=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["test", "column", "metric"], name="one_gap_of_a_metric")]


def _of_its_test(to: type[models.Model], *, indexed: bool = True) -> Any:
    """A reference beside the one to a test: it goes with the test, and whoever writes it need not wait for `to`."""
    return models.ForeignKey(to, on_delete=models.DO_NOTHING, db_constraint=False, db_index=indexed, related_name="+")


class Tally(models.Model):
    """What the passes of a test amount to, kept so that lists over many tests count no passes; true as of `stamp`.

    Made anew when the test's stamp has risen (passes.tallies), never edited. The test's workload and review, which
    never change, stand here as well, so that sums over many tests need not look each of them up.
    """

    test = models.OneToOneField(Test, on_delete=models.CASCADE, related_name="tally", primary_key=True)
    workload = _of_its_test(Workload)
    review = _of_its_test(Review)
    stamp = models.PositiveBigIntegerField()
    # When the last of its whole passes began, of whatever outcome; and how many are kept.
    last_at = models.DateTimeField(null=True)
    kept = models.PositiveIntegerField(default=0)
    # Of kept passes: how many tell their length, and have an average frame rate, with the sums.
    timed = models.PositiveIntegerField(default=0)
    timed_s = models.FloatField(default=0.0)
    rated = models.PositiveIntegerField(default=0)
    rate_sum_fps = models.FloatField(default=0.0)


class TestNoise(models.Model):
    """The squares about the means of a test's cells and their degrees of freedom, of a metric on a scale (section 3 of
    the method); made with its tally."""

    test = models.ForeignKey(Test, on_delete=models.CASCADE, related_name="noises")
    # Of the test, as with its tally.
    workload = _of_its_test(Workload, indexed=False)
    review = _of_its_test(Review, indexed=False)
    metric = models.CharField(max_length=60)
    scale = models.CharField(max_length=10)
    squares = models.FloatField()
    df = models.PositiveIntegerField()

    class Meta:
        # All that a sum over a workload's reviews reads.
        indexes = [
            models.Index(fields=["workload", "metric", "scale", "review", "squares", "df"], name="noise_of_a_workload")
        ]
        constraints = [
            models.UniqueConstraint(fields=["test", "metric", "scale"], name="one_noise_of_a_metric_and_scale")
        ]


class ColumnMap(models.Model):
    """How a kind of file is read, kept under a name for the next one."""

    name = models.CharField(max_length=80, unique=True)
    # {"delimiter", "decimal", "time": {...}, "frames": {...}, "sensors": [...]}, see formats.column_maps.
    content = models.JSONField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["name"]
