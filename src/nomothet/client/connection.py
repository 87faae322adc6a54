"""The connection to a server, and what can be asked of it."""

import io
import uuid
from collections.abc import Iterable, Mapping, Sequence
from types import TracebackType
from typing import Any, Self

import httpx
import pandas as pd

_TIMEOUT_S = 60.0


class Refused(Exception):
    """The server has not done what was asked; `status` and `problem` say why (RFC 9457)."""

    def __init__(self, status: int, problem: Mapping[str, Any]) -> None:
        super().__init__(str(problem.get("detail") or f"the server answered {status}"))
        self.status = status
        self.problem = dict(problem)


class Nomothet:
    """A server, seen with a personal token.

    Parameters
    ----------
    address : str
        Where the server is reached, such as "https://reviews.example".
    token : str
        A personal token; one for reading reads, one for recording records figures too.
    """

    def __init__(self, address: str, token: str, *, transport: httpx.BaseTransport | None = None) -> None:
        self._http = httpx.Client(
            base_url=address.rstrip("/"),
            headers={"Authorization": f"Bearer {token}", "Accept": "application/json"},
            timeout=_TIMEOUT_S,
            transport=transport,
        )

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()

    def close(self) -> None:
        """Close the connection."""
        self._http.close()

    def reviews(self) -> pd.DataFrame:
        """Every review: its id, key, question, answer, state and how many passes it has."""
        return pd.DataFrame(self._json("/api/reviews"))

    def review(self, review: int | str) -> dict[str, Any]:
        """A review with its brief, its configurations and its tests, by its id or its key."""
        return dict(self._json(f"/api/reviews/{self._pk(review)}"))

    def figures(self, review: int | str) -> pd.DataFrame:
        """Every figure of every pass, one a row."""
        return self._csv(f"/api/reviews/{self._pk(review)}/figures.csv")

    def cells(self, review: int | str) -> pd.DataFrame:
        """Every cell with its centre, interval, comparison and verdict."""
        return self._csv(f"/api/reviews/{self._pk(review)}/comparisons.csv")

    def passes(self, review: int | str) -> pd.DataFrame:
        """Every pass, one a row, without its figures."""
        found = self.figures(review)
        own = [name for name in found.columns if name in _OF_PASSES]
        return found[own].drop_duplicates("pass_id").reset_index(drop=True)

    def findings(self, review: int | str) -> pd.DataFrame:
        """What the review says: each finding with its kind, sentence, amount, verdict and how sure it is."""
        found = self._json(f"/api/reviews/{self._pk(review)}/findings")["findings"]
        return pd.DataFrame([{name: one[name] for name in _OF_FINDINGS} for one in found], columns=_OF_FINDINGS)

    def captures(self, review: int | str, test: int, column: int) -> pd.DataFrame:
        """The captures of a cell: the id that `capture` takes, the name, kind and unit, and of which pass."""
        cell = self._json(f"/api/reviews/{self._pk(review)}/tests/{test}/columns/{column}")
        rows = [
            {"pass": one["number"], "pass_id": one["id"], **{name: capture[name] for name in _OF_CAPTURES}}
            for one in cell["passes"]
            for capture in one["captures"]
        ]
        return pd.DataFrame(rows, columns=["pass", "pass_id", *_OF_CAPTURES])

    def capture(self, capture: int) -> pd.DataFrame:
        """The columns of a capture in full precision."""
        return self._csv(f"/api/captures/{capture}.csv")

    def record(
        self,
        review: int | str,
        *,
        test: int,
        column: int,
        metric: str,
        values: Iterable[float | str],
        method: str,
        half_width: float | None = None,
        batch: uuid.UUID | None = None,
    ) -> uuid.UUID:
        """Record figures of a cell, one pass after the other; sent again with the same batch, they are stored once.

        Parameters
        ----------
        test, column : int
            The ids of the cell's test and configuration, as `review` tells them.
        values : iterable of float or str
            Numbers, or readings as they are typed: "~25", "30 to 32".
        method : str
            How they were read, such as "meter" or "read from output".
        half_width : float, optional
            How inexact a reading is, in the metric's unit.

        Raises
        ------
        Refused
            Where the server does not take them; nothing is stored then.
        """
        key = batch or uuid.uuid4()
        text = " ".join(str(value) for value in values)
        cell = {
            "test": test, "column": column, "metric": metric, "text": text, "method": method, "half_width": half_width,
        }  # fmt: skip
        self._sent("PUT", f"/api/reviews/{self._pk(review)}/typed/{key}", {"cells": [cell]})
        return key

    def _pk(self, review: int | str) -> int:
        if isinstance(review, int):
            return review
        found = [one["id"] for one in self._json("/api/reviews?archived=true") if one["key"] == review]
        if not found:
            raise Refused(404, {"detail": f"There is no review with the key {review!r}."})
        return int(found[0])

    def _json(self, path: str) -> Any:
        return self._sent("GET", path).json()

    def _csv(self, path: str) -> pd.DataFrame:
        return pd.read_csv(io.StringIO(self._sent("GET", path).text))

    def _sent(self, method: str, path: str, body: object = None) -> httpx.Response:
        answer = self._http.request(method, path, json=body)
        if answer.is_success:
            return answer
        try:
            problem = answer.json()
        except ValueError:
            problem = {}
        raise Refused(answer.status_code, problem if isinstance(problem, dict) else {})


_OF_PASSES: Sequence[str] = (
    "test", "version", "detail", "settings", "configuration", "letter", "pass", "pass_id", "outcome", "counts",
    "set_aside", "reason", "note", "group", "by", "helped_by", "typed_by", "started_at",
)  # fmt: skip
_OF_FINDINGS = ["key", "kind", "sentence", "told", "verdict", "sure"]
_OF_CAPTURES = ["id", "name", "kind", "unit"]
