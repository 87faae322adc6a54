"""The bench's side of the protocol: requests to the server, repeated where that helps."""

import uuid
from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from typing import Any

import httpx

from nomothet.bench.errors import Refused, Unreachable
from nomothet.bench.job import Job

CHUNK_BYTES = 1 << 20


class ServerClient:
    """Requests of one bench. Network failures and server errors become `Unreachable`, refusals `Refused`."""

    def __init__(self, address: str, token: str, transport: httpx.BaseTransport | None = None) -> None:
        # Tells this bench from another one that holds the same token.
        self._instance = str(uuid.uuid4())
        # Whether somebody has asked for what was set aside, told with the last answer to `next_job`.
        self.wants_again = False
        self._http = httpx.Client(
            base_url=address.rstrip("/") + "/api/bench",
            headers={"Authorization": f"Bench {token}"},
            timeout=httpx.Timeout(30, connect=5),
            transport=transport,
        )

    def close(self) -> None:
        self._http.close()

    def hello(
        self,
        inventory: Mapping[str, Any],
        holding: Sequence[uuid.UUID] = (),
        set_aside: Sequence[Mapping[str, str]] = (),
    ) -> dict[str, Any]:
        """Connect. Passes that this bench took but does not hold any more go back to the docket; those that the server
        would not take are told with the reason."""
        told = {
            "inventory": inventory,
            "holding": [str(pass_id) for pass_id in holding],
            "set_aside": [dict(one) for one in set_aside],
            "instance": self._instance,
            **_clock(),
        }
        return self._send("POST", "/hello", json=told)

    def next_job(
        self, pass_id: uuid.UUID, readings: Mapping[str, float] | None = None, wait_s: float = 0.0
    ) -> Job | None:
        """The next owed pass; asking again with the same id gives the same one.

        `readings` say how the idle machine is; the server ticks pre-run checks with them. Where nothing is owed, the
        server may wait `wait_s` for it before it answers.
        """
        asked: dict[str, Any] = {
            "pass_id": str(pass_id),
            "readings": dict(readings or {}),
            "instance": self._instance,
            **_clock(),
        }
        if wait_s:
            asked["wait_s"] = wait_s
        answer = self._send("POST", "/next", json=asked)
        self.wants_again = bool(answer.get("send_again"))
        return Job.from_server(answer) if "entry" in answer else None

    def report(self, entry: int, progress: Mapping[str, Any]) -> bool:
        """Tell how a pass goes; returns whether it should stop."""
        return bool(self._send("POST", f"/docket/{entry}/progress", json=progress)["stop"])

    def announce(self, pass_id: uuid.UUID, manifest: Mapping[str, Any]) -> dict[str, Any]:
        return self._send("PUT", f"/passes/{pass_id}", json={**manifest, **_clock()})

    def send_chunk(self, pass_id: uuid.UUID, name: str, offset: int, data: bytes) -> int:
        answer = self._send(
            "PUT",
            f"/passes/{pass_id}/series/{name}",
            params={"offset": offset},
            content=data,
            headers={"Content-Type": "application/octet-stream"},
        )
        return int(answer["received"])

    def finish(self, pass_id: uuid.UUID) -> None:
        self._send("POST", f"/passes/{pass_id}/finish")

    def _send(self, method: str, path: str, **options: Any) -> dict[str, Any]:
        try:
            response = self._http.request(method, path, **options)
        except httpx.HTTPError as error:
            raise Unreachable(f"the server does not answer: {error}") from None
        if response.status_code >= 500 or response.status_code == 429:
            told = _problem(response).get("detail", "")
            words = f"the server answers with status {response.status_code}{': ' if told else ''}{told}"
            raise Unreachable(words, response.status_code)
        if response.status_code >= 400:
            problem = _problem(response)
            if not problem:
                raise Unreachable(_between(response.status_code), response.status_code)
            raise Refused(response.status_code, str(problem.get("detail", response.text)), problem.get("received"))
        return dict(response.json()) if response.content else {}


def _clock() -> dict[str, str]:
    """What this machine's clock shows; the server holds it against its own."""
    return {"clock": datetime.now(UTC).isoformat()}


def _between(status: int) -> str:
    """Words for a refusal that the server did not write: our server tells problems as JSON."""
    hint = "; let it pass bodies of 2 MiB" if status == 413 else ""
    return f"something between this machine and the server answers with status {status}, not the server itself{hint}"


def _problem(response: httpx.Response) -> dict[str, Any]:
    try:
        body = response.json()
    except ValueError:
        return {}
    return body if isinstance(body, dict) else {}
