"""Checking a package that was brought in: as published, and such that it can be shown."""

from collections.abc import Mapping
from dataclasses import asdict
from typing import Any

import msgspec
import structlog
from django.db import transaction

from nomothet.formats.errors import FormatError
from nomothet.formats.record_packages import Checked, check_archive, read_json
from nomothet.server.feed.commands import announce
from nomothet.server.foreign.models import ForeignRecord
from nomothet.server.foreign.packages import opened
from nomothet.server.foreign.queries import told_of
from nomothet.server.records.content import FORMAT, RecordContent
from nomothet.server.records.earlier import readable
from nomothet.server.records.page.render import render_foreign
from nomothet.words.lists import counted

# What a package may unpack to, and how much each of its files may hold.
MOST_UNPACKED = 2 * 1024**3
MOST_READ = 128 * 1024**2
_TOLD = 5
log = structlog.get_logger(__name__)


def check(pk: int) -> None:
    """Check a package that waits for it, and say what came of it; checked already, nothing is done."""
    record = ForeignRecord.objects.get(pk=pk)
    if record.state != ForeignRecord.State.CHECKING:
        return
    try:
        content, checked = _read(record)
    except FormatError as error:
        record.state, record.problem = ForeignRecord.State.REFUSED, str(error)
    except Exception as error:
        # Nobody waits for a package that a mistake of ours has stopped.
        log.exception("package not checked", foreign=pk)
        record.state, record.problem = ForeignRecord.State.REFUSED, f"It cannot be checked: {error!r}"
    else:
        record.state, record.content, record.told = ForeignRecord.State.READY, content, told_of(content)
        record.checked = {**asdict(checked), "wrong": []}
    with transaction.atomic():
        record.save(update_fields=["state", "problem", "content", "told", "checked"])
        announce("foreign", id=record.pk)


def _read(record: ForeignRecord) -> tuple[dict[str, Any], Checked]:
    with opened(record) as archive:
        checked = check_archive(archive, "the package", most_bytes=MOST_UNPACKED, most_read=MOST_READ)
        if checked.wrong:
            told = [f"{one.where}: published {one.published}, found {one.found}" for one in checked.wrong[:_TOLD]]
            raise FormatError(
                f"In {counted(len(checked.wrong), 'place')} the package is not as it was published. {'; '.join(told)}. "
                "Ask its publisher for the package anew."
            )
        content = read_json(archive, "record.json")
    return _shown(content), checked


def _shown(content: dict[str, Any]) -> dict[str, Any]:
    """The content, where it can be shown here."""
    made = content.get("format")
    if not isinstance(made, int) or made > FORMAT:
        raise FormatError(
            f"The package is of format {made}, and this program reads up to {FORMAT}. Bring this program up to date, "
            "then bring the package in again."
        )
    unnamed: Mapping[str, Any] = {}
    try:
        msgspec.convert(readable(content), RecordContent)
        render_foreign(content, {}, about=unnamed, links={})
    except (msgspec.ValidationError, LookupError, TypeError, ValueError, AttributeError) as error:
        raise FormatError(f"The record in the package cannot be shown: {error}") from None
    return content
