"""The Limits lens: what held each cell back, and where that hides a difference."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from statistics import median
from typing import Any

from nomothet.core.derived import clock_retention, temperature_margin
from nomothet.core.limits import called, masked_by, mean_shares
from nomothet.core.notes import Note, note
from nomothet.core.settings import acted_on
from nomothet.core.shortage import headroom_pct
from nomothet.server.analysis.queries import Rated
from nomothet.server.matrix.lens import Context, Lens, LensResults
from nomothet.server.reviews.models import Test
from nomothet.words import say, say_stored, says
from nomothet.words.limits import limit_words

# What a factor can act on so that graphics at their limit show it: they share the air with all else.
_REACHES_GRAPHICS = {"graphics", "system", "cooling"}
# A limit that is there as well is told from this share of the seconds on, free memory under this share of it.
_WORTH_SAYING = 0.5
_LITTLE_ROOM_PCT = 15.0


@dataclass(frozen=True)
class ShareShape:
    """A kind of limit with its share of the seconds, and what was seen in them."""

    kind: str
    share: float
    evidence: str


@dataclass(frozen=True)
class DropShape:
    """Burst against sustained over the passes of a cell: medians, and in how many passes a cause was found."""

    drop_pct: float
    first_drop_s: float | None
    cause: str | None
    evidence: str
    passes: int
    of: int
    clock_retention: float | None
    # Rates, or clocks where there are no frames; earlier records do not tell them.
    burst: float | None = None
    sustained: float | None = None


@dataclass(frozen=True)
class HeatShape:
    """The highest temperature over the passes, the second at which it came, and what is left to the part's limit."""

    peak_c: float
    peak_at_s: float
    margin_c: float | None


@dataclass(frozen=True)
class MemoryUseShape:
    """The highest use of a memory over the passes; `cut_off` where more was wanted than there is."""

    quantity: str
    peak: float
    p95: float
    capacity: float | None
    headroom_pct: float | None
    cut_off: bool


@dataclass(frozen=True)
class CollapseShape:
    """Memory ran out: when, with how much of it used, and what it cost in frame rate."""

    quantity: str
    at_s: float
    used: float
    capacity: float
    cost_pct: float | None
    passes: int
    of: int
    unit: str


@dataclass(frozen=True)
class LimitsCell:
    """What limited a cell. Shares add up to 1; `also` had evidence in more seconds than they name."""

    called: str
    words: str
    shares: list[ShareShape]
    also: list[ShareShape]
    missing: list[str]
    passes: int
    drop: DropShape | None
    heat: HeatShape | None
    memory: list[MemoryUseShape]
    collapse: CollapseShape | None
    # What is worth a look in it, the conspicuous first.
    notes: list[str]
    # The same in full, with everything else that its sensors tell.
    sentences: list[str]


@dataclass(frozen=True)
class Masked:
    """What hides a difference between a cell and the baseline, and what would show it."""

    by: str
    words: str


@dataclass(frozen=True)
class LimitsRow:
    """A test by column id. `masked` says of a column why its comparison with the baseline hides something."""

    test: int
    cells: dict[str, LimitsCell]
    masked: dict[str, Masked]


def _build(context: Context, test: Test, _: LensResults) -> LimitsRow:
    baseline, rated = context.shared.baseline, context.shared.rated
    # A limit that lies in a part on which the factors act hides nothing.
    acts_on = {acted_on(aspect) for factor in context.review.factors for aspect in factor["aspects"]}
    own: dict[int, LimitsCell] = {}
    for (_of, column), found in context.evidence.summaries(test.pk).items():
        looked_at = [one for one in found if one]
        if looked_at:
            own[column] = _cell(looked_at, rated.get(column, Rated()))
    base = own.get(baseline) if baseline is not None else None
    masked = {
        str(column): hidden
        for column, cell in own.items()
        if base is not None and column != baseline and (hidden := _masked(test, base, cell, acts_on))
    }
    return LimitsRow(test.pk, {str(column): cell for column, cell in own.items()}, masked)


def _cell(found: Sequence[Mapping[str, Any]], rated: Rated) -> LimitsCell:
    limited = [one for one in found if one.get("shares")]
    shares = mean_shares([one["shares"] for one in limited])
    seen = {kind: say_stored(one) for found in limited for kind, one in found["evidence"].items()}
    also = mean_shares([one["also"] for one in limited])
    name = called(shares)
    cell = LimitsCell(
        called=name,
        words=limit_words(name),
        shares=[ShareShape(kind, round(share, 4), seen.get(kind, "")) for kind, share in shares.items()],
        also=[ShareShape(kind, round(share, 4), "") for kind, share in also.items() if share >= 0.05],
        missing=sorted({name for one in limited for name in one["missing"]}) if limited else [],
        passes=len(limited),
        drop=_drop([one for one in found if "trend" in one], rated),
        heat=_heat([one["trend"] for one in found if "trend" in one], rated),
        memory=_memory(found),
        collapse=_collapse(found),
        notes=[],
        sentences=[],
    )
    return replace(cell, notes=says(notes_of(cell)), sentences=says(told_of(cell)))


def _drop(found: Sequence[Mapping[str, Any]], rated: Rated) -> DropShape | None:
    if not found:
        return None
    trends = [one["trend"] for one in found]
    caused = [one for one in trends if one["cause"] not in (None, "unknown")]
    told = caused or [one for one in trends if one["cause"] is not None and not _is_scene(one)]
    clocks = [one["clocks"][1] for one in found if one["clocks"][1] is not None]
    return DropShape(
        drop_pct=median(one["drop_pct"] for one in trends),
        first_drop_s=median(one["first_drop_s"] for one in told) if told else None,
        cause=told[0]["cause"] if told else None,
        evidence=say_stored(told[0]["evidence"]) if told else "",
        passes=len(told),
        of=len(trends),
        clock_retention=clock_retention(median(clocks), rated.clock_mhz) if clocks and rated.clock_mhz else None,
        burst=median(one["burst"] for one in trends),
        sustained=median(one["sustained"] for one in trends),
    )


def _is_scene(trend: Mapping[str, Any]) -> bool:
    """Whether a rate fell while the clock stayed: a change of scene, and no drop that could be told of."""
    evidence = trend["evidence"] or {}
    return evidence.get("code") == "rate_fell" and evidence["values"]["clock"] == "stayed"


def _heat(trends: Sequence[Mapping[str, Any]], rated: Rated) -> HeatShape | None:
    read = [one for one in trends if one["peak_c"] is not None]
    if not read:
        return None
    hottest = max(read, key=lambda one: one["peak_c"])
    margin = None if rated.limit_c is None else temperature_margin(rated.limit_c, hottest["peak_c"])
    return HeatShape(hottest["peak_c"], hottest["peak_at_s"], margin)


def _memory(found: Sequence[Mapping[str, Any]]) -> list[MemoryUseShape]:
    shapes = []
    for quantity in ("graphics memory used", "memory used"):
        uses = [one["uses"][quantity] for one in found if quantity in one.get("uses", {})]
        if not uses:
            continue
        highest = max(uses, key=lambda one: one["peak"])
        capacity = highest["capacity"]
        headroom = headroom_pct(highest["peak"], capacity) if capacity else None
        cut_off = any(one["cut_off"] for one in uses)
        p95 = max(one["p95"] for one in uses)
        shapes.append(MemoryUseShape(quantity, highest["peak"], p95, capacity, headroom, cut_off))
    return shapes


def _collapse(found: Sequence[Mapping[str, Any]]) -> CollapseShape | None:
    hit = [one["collapse"] for one in found if one.get("collapse")]
    if not hit:
        return None
    costs = [one["cost_pct"] for one in hit if one["cost_pct"] is not None]
    return CollapseShape(
        quantity=hit[0]["quantity"],
        at_s=median(one["at_s"] for one in hit),
        used=max(one["used"] for one in hit),
        capacity=hit[0]["capacity"],
        cost_pct=median(costs) if costs else None,
        passes=len(hit),
        of=len(found),
        unit=hit[0]["unit"],
    )


def _masked(test: Test, base: LimitsCell, cell: LimitsCell, acts_on: Collection[str]) -> Masked | None:
    """Why this comparison cannot show a difference in what the factors act on, and what would."""
    by = masked_by(base.called, cell.called)
    if by is None or (by == "graphics" and _REACHES_GRAPHICS & set(acts_on)):
        return None
    if by == "rate cap":
        cap = test.settings.get("frame_cap_fps")
        return Masked(by, say(note("hidden_by_cap", cap_fps=cap if isinstance(cap, int | float) else None)))
    return Masked(by, say(note("hidden_by_graphics", resolution=str(test.settings.get("resolution") or ""))))


def notes_of(cell: LimitsCell) -> list[Note]:
    """What is worth a look in a cell: what limits it as well, memory that ran out, a drop, little room, its peak."""
    found = [note("also_limited", kind=one.kind) for one in cell.also if one.share >= _WORTH_SAYING]
    drop, collapse, heat = cell.drop, cell.collapse, cell.heat
    if collapse is not None:
        found.append(note("memory_ran_out", quantity=collapse.quantity, at_s=collapse.at_s, cost_pct=collapse.cost_pct))
    if drop is not None and drop.first_drop_s is not None and drop.cause not in (None, "", "unknown", "memory"):
        found.append(note("rate_drops", at_s=drop.first_drop_s, cause=drop.cause, drop_pct=drop.drop_pct))
    for memory in cell.memory:
        if collapse is None and memory.headroom_pct is not None and memory.headroom_pct < _LITTLE_ROOM_PCT:
            found.append(note("memory_nearly_full", quantity=memory.quantity, headroom_pct=memory.headroom_pct))
    if heat is not None:
        found.append(note("temperature_peak", peak_c=heat.peak_c, at_s=heat.peak_at_s))
    return found


def told_of(cell: LimitsCell) -> list[Note]:
    """What a cell's sensors tell of all its passes together, as the pane says it."""
    found = []
    drop, collapse, heat = cell.drop, cell.collapse, cell.heat
    if collapse is not None:
        found.append(
            note(
                "ran_out", quantity=collapse.quantity, at_s=collapse.at_s, used=collapse.used,
                capacity=collapse.capacity, unit=collapse.unit, cost_pct=collapse.cost_pct, passes=collapse.passes,
                of=collapse.of,
            )
        )  # fmt: skip
    if drop is not None:
        found.append(
            note(
                "sustained", drop_pct=drop.drop_pct, first_drop_s=drop.first_drop_s, cause=drop.cause,
                evidence=drop.evidence, passes=drop.passes, of=drop.of, clock_retention=drop.clock_retention,
            )
        )  # fmt: skip
    if heat is not None:
        found.append(note("hottest", peak_c=heat.peak_c, at_s=heat.peak_at_s, margin_c=heat.margin_c))
    for one in cell.memory:
        found.append(
            note(
                "memory_peak", quantity=one.quantity, peak=one.peak, capacity=one.capacity,
                headroom_pct=one.headroom_pct, cut_off=one.cut_off,
            )
        )  # fmt: skip
    if cell.missing:
        found.append(note("no_sensor", missing=cell.missing))
    return found


LIMITS = Lens("limits", LimitsRow, _build, depends=lambda shared, _: sorted(map(str, shared.rated.items())))
