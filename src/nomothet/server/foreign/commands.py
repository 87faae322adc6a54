"""Bringing a record of others in by its package, and taking it off the list."""

import hashlib
import tempfile
import zipfile
from collections.abc import Mapping
from typing import IO, Any, BinaryIO
from urllib.parse import urlsplit

from django.db import IntegrityError, transaction
from django.utils import timezone

from nomothet.formats.archives import BROKEN
from nomothet.formats.errors import FormatError
from nomothet.formats.record_packages import about_package
from nomothet.server.feed.commands import announce
from nomothet.server.foreign.checking import MOST_READ, MOST_UNPACKED
from nomothet.server.foreign.models import ForeignRecord
from nomothet.server.foreign.packages import keep
from nomothet.server.foreign.tasks import run_check
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.scanning import scan

MOST_BYTES = 256 * 1024**2


def bring(user: User, file: BinaryIO) -> ForeignRecord:
    """Keep a package, to be checked in the background. The same package again gives the same record.

    Raises
    ------
    Problem
        When it is too large or no package.
    """
    require(user, Act.EDIT_REVIEW)
    with tempfile.TemporaryFile() as package:
        digest, size = _copy(file, package)
        existing = ForeignRecord.objects.filter(sha256=digest).first()
        if existing is not None:
            return _listed(existing)
        scan(package)
        about = _about(package)
        package.seek(0)
        try:
            with transaction.atomic():
                record = ForeignRecord.objects.create(
                    sha256=digest,
                    name=str(about.get("name", ""))[:200],
                    origin=_origin(about),
                    edition=str(about.get("version", "")).partition(".")[0][:40],
                    told={"question": str(about.get("title", ""))[:300]},
                    size=size,
                    brought_by=user,
                )
                keep(record, package)
                announce("foreign", id=record.pk)
                transaction.on_commit(lambda: run_check.enqueue(record.pk))
        except IntegrityError:
            # Sent twice at once; the other one is stored.
            return _listed(ForeignRecord.objects.get(sha256=digest))
    return record


def remove(user: User, record: ForeignRecord) -> None:
    """Take a record off the list; bringing its package again puts it back."""
    require(user, Act.EDIT_REVIEW)
    if record.state == ForeignRecord.State.CHECKING:
        raise conflict("The package is still being checked; take it off when that is done.")
    with transaction.atomic():
        record.removed_at = timezone.now()
        record.save(update_fields=["removed_at"])
        announce("foreign", id=record.pk)


def _listed(record: ForeignRecord) -> ForeignRecord:
    """A record that is known, on the list again; one that was refused is checked once more."""
    with transaction.atomic():
        again = record.state == ForeignRecord.State.REFUSED
        if again:
            record.state, record.problem = ForeignRecord.State.CHECKING, ""
            transaction.on_commit(lambda: run_check.enqueue(record.pk))
        record.removed_at = None
        record.save(update_fields=["removed_at", "state", "problem"])
        announce("foreign", id=record.pk)
    return record


def _copy(file: BinaryIO, package: IO[bytes]) -> tuple[str, int]:
    """Copy an upload; its SHA-256 and its size."""
    digest, size = hashlib.sha256(), 0
    while piece := file.read(1 << 20):
        size += len(piece)
        if size > MOST_BYTES:
            raise unusable(f"A package of at most {MOST_BYTES >> 20} MiB is taken. Nothing was stored.", field="file")
        digest.update(piece)
        package.write(piece)
    return digest.hexdigest(), size


def _about(package: IO[bytes]) -> Mapping[str, Any]:
    """What a package says of itself."""
    try:
        with zipfile.ZipFile(package) as archive:
            return about_package(archive, "The file", MOST_UNPACKED, MOST_READ)
    except (FormatError, *BROKEN) as error:
        raise unusable(f"This is no package of a record: {error}. Nothing was stored.", field="file") from None


def _origin(about: Mapping[str, Any]) -> str:
    """Where it was published; only an address of the web is kept."""
    told = str(about.get("homepage", ""))
    try:
        parts = urlsplit(told)
    except ValueError:
        return ""
    return told[:400] if parts.scheme in ("http", "https") and parts.hostname else ""
