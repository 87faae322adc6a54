"""Writing a package: tables, captures, pictures, the page, and datapackage.json with a hash of each."""

import hashlib
import json
import re
import zipfile
from collections.abc import Iterable, Mapping
from typing import IO, Any

import zstandard

from nomothet.formats.series import unpack
from nomothet.formats.words import METHOD_VERSION
from nomothet.server.evidence.capture_lines import capture_lines
from nomothet.server.passes.models import Picture, Series
from nomothet.server.records.earlier import readable
from nomothet.server.records.models import Record
from nomothet.server.records.package.tables import schema_of, tables_of
from nomothet.server.records.page.render import description_of, render_page
from nomothet.server.records.raw_files import FILE

_SCHEMA = "https://datapackage.org/profiles/2.0/datapackage.json"
_FILES = ("figures_csv", "comparisons_csv")
# The same package is the same bytes, whenever it is made.
_WRITTEN = (1980, 1, 1, 0, 0, 0)


def write_package(record: Record, out: IO[bytes], *, base: str) -> None:
    """Write the package of a record.

    Parameters
    ----------
    out : file
        Opened for writing bytes, and seekable.
    base : str
        Where this installation is reached.
    """
    content = readable(record.content)
    resources: list[dict[str, Any]] = []
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for table in tables_of(content):
            told = {"name": table.name, "title": table.title, **_tabular(schema_of(table.header))}
            resources.append(_store(archive, f"{table.name}.csv", table.lines, told))
        for series in Series.objects.filter(owner__in=record.passes.all(), pk__in=_captures(content)).order_by("pk"):
            resources.append(_capture(archive, series))
        for picture in Picture.objects.filter(owner__in=record.passes.all(), pk__in=_pictures(content)).order_by("pk"):
            ending = picture.media_type.split("/")[-1]
            told = {"name": f"picture-{picture.pk}", "mediatype": picture.media_type, "format": ending}
            resources.append(_store(archive, f"pictures/{picture.pk}.{ending}", [bytes(picture.blob)], told))
        kept = {key: value for key, value in content.items() if key not in _FILES}
        whole = json.dumps(kept, ensure_ascii=False, indent=1)
        resources.append(_store(archive, "record.json", [whole], {"name": "record", "format": "json", "type": "json"}))
        page = render_page(record, {}, base=base, alone=True)
        resources.append(_store(archive, "page.html", [page], {"name": "page", "format": "html"}))
        about = {
            "$schema": _SCHEMA,
            "name": record.slug,
            "title": content["review"]["question"],
            "description": description_of(content),
            "homepage": f"{base}/records/{record.slug}",
            "version": f"{record.edition}.0.0",
            "created": str(content["published_at"]),
            "contributors": [{"title": content["published_by"], "roles": ["publisher"]}],
            "method_version": METHOD_VERSION,
            "record_format": content["format"],
            "resources": resources,
        }
        _store(archive, "datapackage.json", [json.dumps(about, ensure_ascii=False, indent=1)], {})


def _tabular(schema: Mapping[str, Any]) -> dict[str, Any]:
    return {"type": "table", "format": "csv", "mediatype": "text/csv", "encoding": "utf-8", "schema": schema}


def _capture(archive: zipfile.ZipFile, series: Series) -> dict[str, Any]:
    if series.kind == FILE:
        return _original(archive, series)
    header = list(unpack(series.content))
    name = re.sub(r"[^a-z0-9]+", "-", series.name.lower()).strip("-") or "capture"
    told = {
        "name": f"{name}-{series.pk}",
        "title": series.name,
        "pass_id": str(series.owner_id),
        "kind": series.kind,
        "unit": series.unit,
        "source": series.source,
        **_tabular(schema_of(header)),
    }
    return _store(archive, f"captures/{series.owner_id}/{name}-{series.pk}.csv", capture_lines(series), told)


def _original(archive: zipfile.ZipFile, series: Series) -> dict[str, Any]:
    """A file just as somebody dropped it."""
    content = zstandard.ZstdDecompressor().decompressobj().decompress(series.content)
    told = {
        "name": f"original-{series.pk}",
        "title": series.source or series.name,
        "pass_id": str(series.owner_id),
        "mediatype": "application/octet-stream",
    }
    return _store(archive, f"originals/{series.owner_id}/{series.pk}.bin", [content], told)


def _store(
    archive: zipfile.ZipFile, path: str, pieces: Iterable[str | bytes], told: Mapping[str, Any]
) -> dict[str, Any]:
    """Write a file piece by piece, and describe it."""
    digest, size = hashlib.sha256(), 0
    about = zipfile.ZipInfo(path, _WRITTEN)
    about.compress_type = zipfile.ZIP_DEFLATED
    with archive.open(about, "w", force_zip64=True) as file:
        for piece in pieces:
            data = piece.encode() if isinstance(piece, str) else piece
            digest.update(data)
            size += len(data)
            file.write(data)
    return {**told, "path": path, "bytes": size, "hash": f"sha256:{digest.hexdigest()}"}


def _captures(content: Mapping[str, Any]) -> list[int]:
    return [capture["id"] for one in content["passes"] for capture in one["captures"]]


def _pictures(content: Mapping[str, Any]) -> list[int]:
    return [picture["id"] for one in content["passes"] for picture in one.get("pictures", [])]
