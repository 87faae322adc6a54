"""Captures outside the database: in a store with an S3 interface, each under the digest of its bytes.

An object is written once and never changed; two captures of the same bytes share one, and none is ever deleted here.
"""

import hashlib

from django.conf import settings
from django.core.files.base import ContentFile
from django.core.files.storage import Storage, storages

from nomothet.server.problems import Problem

ALIAS = "captures"


class StoreAway(Problem):
    """The store does not answer, does not have what it should have, or nobody has said where it is."""

    def __init__(self, why: str) -> None:
        super().__init__(503, "Not just now", f"Captures are kept in a store outside, and {why}. Nothing was changed.")


def require_store() -> None:
    """Refuse where this installation knows of no store.

    Raises
    ------
    StoreAway
    """
    if ALIAS not in settings.STORAGES:
        raise StoreAway("NOMOTHET_S3_BUCKET does not say where")


def put(data: bytes) -> str:
    """Write bytes into the store, read them again, and give their name there.

    Raises
    ------
    StoreAway
    """
    digest = hashlib.sha256(data).hexdigest()
    name = f"{digest[:2]}/{digest}"
    try:
        if not _store().exists(name):
            _store().save(name, ContentFile(data))
    except Exception as error:
        raise _away(error) from error
    read(name)
    return name


def read(name: str) -> bytes:
    """The bytes of a name, which are those that its digest tells.

    Raises
    ------
    StoreAway
    """
    try:
        with _store().open(name) as held:
            data = bytes(held.read())
    except Exception as error:
        raise _away(error) from error
    if hashlib.sha256(data).hexdigest() != name.rpartition("/")[2]:
        raise StoreAway(f"what it has as {name} is something else")
    return data


def _store() -> Storage:
    require_store()
    return storages[ALIAS]


def _away(error: Exception) -> StoreAway:
    """Whatever a library of a store raises; each has errors of its own."""
    return error if isinstance(error, StoreAway) else StoreAway(f"it does not give or take them: {error}")
