"""How fast verdicts and records are: of the demo's reviews, and of 20 configurations × 60 tests × 5 passes.

Run it beside ./start: .venv/bin/python measure/verdicts.py. Like measure/findings.py it works in a transaction that is
rolled back in the end, and tells times beside sorting a million numbers in the same run.
"""

import gzip
import io
import sys
from pathlib import Path

import numpy as np
from django.db import transaction

sys.path.insert(0, str(Path(__file__).parents[1]))

from findings import CONFIGURATIONS, PASSES, TESTS, RolledBack, build, least, tell

from nomothet.claims import check
from nomothet.server.findings.findings import findings
from nomothet.server.findings.kept import work_out
from nomothet.server.people.models import User
from nomothet.server.records.commands import publish
from nomothet.server.records.models import Record
from nomothet.server.records.package import write_package
from nomothet.server.records.page.render import render_page
from nomothet.server.reviews.models import Review
from nomothet.server.settings import WEB_DIST
from nomothet.server.verdicts.commands import edit_verdict
from nomothet.server.verdicts.content import uses_of
from nomothet.server.verdicts.verdict import check_text, verdict_of, verdict_shape
from tests.claims.scenes import SCENES
from tests.claims.test_sentences import sentences

_BASE = "http://localhost"


def main() -> None:
    """Measure, and leave the database as it was."""
    sort_ms = least(lambda: np.sort(np.random.default_rng(1).random(1_000_000)))
    print(f"sorting a million numbers: {sort_ms:.0f} ms\n")
    known = [(scene, text) for kind in ("made", "held") for scene, _, text in sentences(kind)]
    all_ms = least(lambda: [check(text, SCENES[scene]) for scene, text in known])
    tell(f"{len(known)} sentences held against facts", all_ms, sort_ms)
    try:
        with transaction.atomic():
            for review in Review.objects.filter(conclusion__isnull=False).order_by("pk"):
                of_review(review, sort_ms)
            of_records(sort_ms)
            large(sort_ms)
            raise RolledBack
    except RolledBack:
        print("\nrolled back")


def of_review(review: Review, sort_ms: float) -> None:
    """The sheet Verdict, and the check as one types."""
    findings(review)
    verdict = verdict_of(review)
    assert verdict is not None
    tell(f"the sheet Verdict of {review.key}", least(lambda: verdict_shape(review)), sort_ms)
    uses = uses_of(verdict)
    tell("  its text checked while it is written", least(lambda: check_text(review, verdict.answer, uses)), sort_ms)


def of_records(sort_ms: float) -> None:
    """The page of a record, with what a reader loads, and its package."""
    record = Record.objects.order_by("pk").last()
    assert record is not None
    tell(f"the page of {record.slug}", least(lambda: render_page(record, {}, base=_BASE)), sort_ms)
    page = len(gzip.compress(render_page(record, {}, base=_BASE).encode()))
    fonts = sum(one.stat().st_size for one in fonts_of(WEB_DIST / "assets"))
    print(f"  a reader loads {(page + fonts) / 1000:.0f} kB: the page {page / 1000:.0f}, fonts {fonts / 1000:.0f}")
    out = io.BytesIO()
    tell("  its package", least(lambda: write_package(record, io.BytesIO(), base=_BASE), 1), sort_ms)
    write_package(record, out, base=_BASE)
    print(f"  the package has {len(out.getvalue()) / 1e6:.1f} MB")


def fonts_of(folder: Path) -> list[Path]:
    """The typefaces that the page of a record names."""
    return [
        next(iter(folder.glob(f"{name}-latin-wght-normal-*.woff2"))) for name in ("source-serif-4", "source-sans-3")
    ]


def large(sort_ms: float) -> None:
    """A full review, with a verdict of two sentences."""
    review = build()
    work_out(review)
    size = f"{CONFIGURATIONS} × {TESTS} × {PASSES}"
    editor = User.objects.filter(role__in=("editor", "admin")).first()
    assert editor is not None
    text = "20 W is 9 % slower than 34 W. Every scene runs well at 30 W."
    edit_verdict(editor, review, {"answer": "30 W is enough.", "uses": [{"key": "a", "text": text}]})
    tell(f"the sheet Verdict of {size}", least(lambda: verdict_shape(review), 3), sort_ms)
    tell(f"publishing {size}", least(lambda: publish(editor, review, "again"), 1), sort_ms)
    record = Record.objects.get(review=review)
    tell(f"the page of {size}", least(lambda: render_page(record, {}, base=_BASE), 3), sort_ms)


if __name__ == "__main__":
    main()
