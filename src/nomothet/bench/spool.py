"""The bench's spool: every pass is on disk before it is sent, and goes only when the server has it whole.

A folder per pass: `job.json` from the moment it is taken, what is recorded meanwhile, and at the end one blob per
series and `manifest.json`, which is written last and so says that the pass is complete.
"""

import base64
import hashlib
import json
import os
import shutil
import uuid
from collections.abc import Iterator
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from urllib.parse import quote

from nomothet.bench.client import CHUNK_BYTES, ServerClient
from nomothet.bench.errors import Refused
from nomothet.bench.job import Captured, Job, PassResult
from nomothet.formats.names import told_apart
from nomothet.formats.series import pack

_TRIES = 3
_LONGEST_NAME = 80
_REASON = "reason.json"
# What was sent and is being deleted.
_SENT = ".sent-"
# "Gone" (RFC 9110, section 15.5.11): what is asked for is not there any more.
_LOST = 410
# Small series, and the sensors of an hour or two, go along with the announcement; one request instead of one for each.
_INLINE_BYTES, _INLINE_IN_ALL = 256 * 1024, 2 << 20


class Spool:
    """Passes of one bench that the server does not have yet."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._refused = folder / "refused"
        folder.mkdir(parents=True, exist_ok=True)
        # Left behind by a bench that was killed in the middle of it.
        for left in folder.glob(f"{_SENT}*"):
            shutil.rmtree(left, ignore_errors=True)
        for empty in (path for path in folder.iterdir() if path.is_dir() and not any(path.iterdir())):
            empty.rmdir()

    def open(self, pass_id: uuid.UUID, job: Job) -> Path:
        """A folder for a pass that begins."""
        folder = self._folder / str(pass_id)
        folder.mkdir(exist_ok=True)
        _write(folder / "job.json", json.dumps(job.as_dict()).encode())
        return folder

    def keep_attempts(self, pass_id: uuid.UUID, attempts: list[dict[str, Any]]) -> None:
        """Write down how far a load search has come."""
        _write(self._folder / str(pass_id) / "attempts.json", json.dumps(attempts).encode())

    def unfinished(self) -> Iterator[tuple[uuid.UUID, Job, Path]]:
        """Passes that were taken but never came to an end."""
        for folder in self._passes():
            if not (folder / "manifest.json").exists():
                job = Job(**json.loads((folder / "job.json").read_text()))
                kept = folder / "attempts.json"
                if kept.exists():
                    job = replace(job, attempts=json.loads(kept.read_text()))
                yield uuid.UUID(folder.name), job, folder

    def close(self, pass_id: uuid.UUID, job: Job, result: PassResult) -> None:
        """Write a pass that is over, so that it survives whatever comes."""
        folder = self._folder / str(pass_id)
        names = told_apart((captured.name for captured in result.captures), _LONGEST_NAME)
        captures = [replace(one, name=name) for one, name in zip(result.captures, names, strict=True)]
        series = [_store(folder, captured) for captured in captures]
        manifest = {
            "entry": job.entry,
            "outcome": result.outcome,
            "note": result.note,
            "started_at": result.started_at.isoformat(),
            "duration_s": result.duration_s,
            "environment": result.environment,
            "owe_again": result.owe_again,
            "attempts": result.attempts,
            "phases": result.phases,
            "figures": [vars(figure) for figure in result.figures],
            "series": series,
        }
        _write(folder / "manifest.json", json.dumps(manifest).encode())

    def waiting(self) -> list[uuid.UUID]:
        """Passes that are complete and not sent, oldest first."""
        ready = [folder / "manifest.json" for folder in self._passes() if (folder / "manifest.json").exists()]
        return [uuid.UUID(path.parent.name) for path in sorted(ready, key=lambda path: path.stat().st_mtime_ns)]

    def send(self, pass_id: uuid.UUID, client: ServerClient) -> None:
        """Send a pass, going on where an earlier try ended, and let go of it once the server has it whole.

        Raises
        ------
        Unreachable
            The pass stays and can be sent later.
        Refused
            The server will not have it; the pass is put aside under `refused/` and not lost.
        """
        folder = self._folder / str(pass_id)
        manifest = json.loads((folder / "manifest.json").read_text())
        try:
            answer = client.announce(pass_id, {**manifest, "inline": _inline(folder, manifest)})
            if not answer["whole"]:
                self._send_series(pass_id, folder, manifest, answer["received"], client)
        except Refused as error:
            self.set_aside(pass_id, str(error))
            raise
        except FileNotFoundError as error:
            reason = f"its capture {Path(str(error.filename)).name} is not on this machine any more"
            self.set_aside(pass_id, reason)
            raise Refused(_LOST, reason) from None
        # Out of the way first: one that is half deleted must not be taken for one that waits.
        gone = folder.rename(folder.with_name(f"{_SENT}{folder.name}"))
        shutil.rmtree(gone)

    def set_aside(self, pass_id: uuid.UUID, reason: str) -> None:
        """Put a pass that the server cannot take under `refused/`, with the reason; nothing of it is lost."""
        folder = self._folder / str(pass_id)
        told = {"id": str(pass_id), "reason": reason[:500], "at": datetime.now(UTC).isoformat()}
        _write(folder / _REASON, json.dumps(told).encode())
        self._refused.mkdir(exist_ok=True)
        folder.rename(self._refused / folder.name)

    def kept_aside(self) -> list[dict[str, str]]:
        """What was put aside, with the reasons, oldest first."""
        found = [json.loads(path.read_text()) for path in self._refused.glob(f"*/{_REASON}")]
        return sorted(found, key=lambda one: str(one["at"]))

    def take_up_again(self) -> int:
        """Send what was put aside once more; returns how many passes that are."""
        found = list(self._refused.glob("*/manifest.json"))
        for path in found:
            (path.parent / _REASON).unlink(missing_ok=True)
            path.parent.rename(self._folder / path.parent.name)
        return len(found)

    def _send_series(
        self,
        pass_id: uuid.UUID,
        folder: Path,
        manifest: dict[str, Any],
        received: dict[str, int],
        client: ServerClient,
    ) -> None:
        for attempt in range(1, _TRIES + 1):
            for series in manifest["series"]:
                _send_one(pass_id, folder, series, received.get(series["name"], 0), client)
            try:
                client.finish(pass_id)
            except Refused as error:
                # 409 with byte counts: something was damaged on its way and is wanted again.
                if not isinstance(error.received, dict) or attempt == _TRIES:
                    raise
                received = error.received
            else:
                return

    def _passes(self) -> list[Path]:
        found = [path for path in self._folder.iterdir() if not path.name.startswith(_SENT) and path != self._refused]
        return [path for path in found if (path / "job.json").exists()]


def _inline(folder: Path, manifest: dict[str, Any]) -> dict[str, str]:
    """The small series of a pass, base64 (RFC 4648, section 4) by name."""
    inline: dict[str, str] = {}
    left = _INLINE_IN_ALL
    for series in manifest["series"]:
        # What is not there is missed only if the server has not got it.
        if series["size"] <= min(left, _INLINE_BYTES) and _file_of(folder, series["name"]).exists():
            left -= series["size"]
            inline[series["name"]] = base64.b64encode(_file_of(folder, series["name"]).read_bytes()).decode()
    return inline


def _file_of(folder: Path, name: str) -> Path:
    return folder / f"{quote(name, safe='')}.series"


def _store(folder: Path, captured: Captured) -> dict[str, Any]:
    blob = pack(captured.columns)
    _write(_file_of(folder, captured.name), blob)
    return {
        "name": captured.name,
        "kind": captured.kind,
        "unit": captured.unit,
        "place": captured.place,
        "source": captured.source,
        "capacity": captured.capacity,
        "starts_at_s": captured.starts_at_s,
        "size": len(blob),
        "sha256": hashlib.sha256(blob).hexdigest(),
    }


def _send_one(pass_id: uuid.UUID, folder: Path, series: dict[str, Any], offset: int, client: ServerClient) -> None:
    with _file_of(folder, series["name"]).open("rb") as file:
        while offset < series["size"]:
            file.seek(offset)
            try:
                offset = client.send_chunk(pass_id, series["name"], offset, file.read(CHUNK_BYTES))
            except Refused as error:
                # An earlier try got further than we were told; go on from there.
                if error.status != 409 or not isinstance(error.received, int):
                    raise
                offset = error.received


def _write(path: Path, content: bytes) -> None:
    """Write a file that is either whole or not there, also after a power cut."""
    part = path.with_suffix(path.suffix + ".part")
    with part.open("wb") as file:
        file.write(content)
        file.flush()
        os.fsync(file.fileno())
    part.replace(path)
