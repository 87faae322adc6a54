"""The bench's main loop: take a pass, run it, spool it, send it."""

import threading
import time
import uuid
from collections import Counter
from collections.abc import Callable
from typing import Any

import structlog

from nomothet.bench.client import ServerClient
from nomothet.bench.errors import BenchError, Refused, Unreachable
from nomothet.bench.job import Control, Job, Machine
from nomothet.bench.spool import Spool

log = structlog.get_logger(__name__)

_ASK_S = 1.0
# How long the server may wait for work before it answers; what it reads meanwhile off its machine is as old.
_WAIT_S = 10.0
_AWAY_S = 3.0
_REPORT_S = 0.4
_FRESH_S = 0.25
_SERVER_FAILS = 500
_ANOTHER_BENCH = 409
_MOST_FAILURES = 3


class EndedWhileWaiting(BaseException):
    """The bench was told to end while it waited for work; as an end of the program it passes what catches errors."""


class Agent:
    """Runs passes on a machine for a server until it is told to end.

    Parameters
    ----------
    until_idle : bool
        End as soon as nothing is owed and everything is sent.
    """

    def __init__(self, machine: Machine, spool: Spool, client: ServerClient, *, until_idle: bool = False) -> None:
        self._machine = machine
        self._spool = spool
        self._client = client
        self._until_idle = until_idle
        self._over = threading.Event()
        self._control: Control | None = None
        self._next_id = uuid.uuid4()
        # Whether it is just now waiting for the server to have work.
        self._waits = False
        # Whether the server knows what this bench holds and has set aside.
        self._greeted = False
        # How often in a row the server has failed on a pass.
        self._failures: Counter[uuid.UUID] = Counter()

    def end(self) -> None:
        """End soon; a running pass is broken off and owed again."""
        self._over.set()
        if self._control is not None:
            self._control.interrupted.set()

    def end_by_signal(self) -> None:
        """End as soon, also while the server is waited for; called from the thread that runs the agent.

        Raises
        ------
        EndedWhileWaiting
            Which `run` takes.
        """
        if self._waits:
            self.end()
            raise EndedWhileWaiting
        # The handler may interrupt a wait that holds an event's lock, and would wait for it for good.
        threading.Thread(target=self.end).start()

    def run(self) -> None:
        """Until `end` is called, or nothing is owed.

        Raises
        ------
        BenchError
            When the server does not know the token.
        """
        try:
            self._run()
        except EndedWhileWaiting:
            log.info("ended while it waited for work")
        self._last_send()

    def _run(self) -> None:
        self._recover()
        while not self._over.is_set():
            try:
                if not self._greeted:
                    aside = self._spool.kept_aside()
                    answer = self._client.hello(self._machine.inventory(), self._spool.waiting(), aside)
                    log.info("connected", system=answer["system"])
                    self._greeted = True
                self._send_waiting()
                if not self._greeted:
                    continue
                asked_at = time.monotonic()
                job_taken = self._take_and_run()
                if self._client.wants_again:
                    log.info("sending again what was set aside", passes=self._spool.take_up_again())
                    self._greeted = False
                    continue
            except Unreachable as error:
                log.warning("server away", reason=str(error))
                # To greet anew would take the token from the bench that holds it now.
                self._greeted = error.status == _ANOTHER_BENCH
                self._over.wait(_AWAY_S)
                continue
            if not job_taken:
                if self._until_idle and self._greeted:
                    return
                # A server that waits has waited already.
                self._over.wait(max(0.0, _ASK_S - (time.monotonic() - asked_at)))

    def _recover(self) -> None:
        for pass_id, job, folder in list(self._spool.unfinished()):
            log.warning("recovering a pass that was broken off", id=str(pass_id))
            self._spool.close(pass_id, job, self._machine.recover(job, folder))

    def _send_waiting(self) -> None:
        """Send what waits. What the server does not take is told to it at the next greeting, which comes at once.

        A pass on which the server itself fails again and again is set aside, so that it does not hold up the others.
        """
        trouble = None
        for pass_id in self._spool.waiting():
            try:
                self._spool.send(pass_id, self._client)
                self._failures.pop(pass_id, None)
                log.info("sent", id=str(pass_id))
            except Refused as error:
                if error.status == 401:
                    raise BenchError(str(error)) from None
                log.error("refused; the pass is kept under refused/", id=str(pass_id), reason=str(error))
                self._greeted = False
            except Unreachable as error:
                if error.status != _SERVER_FAILS:
                    raise
                trouble = error
                self._failures[pass_id] += 1
                if self._failures[pass_id] >= _MOST_FAILURES:
                    log.error("the server fails on it; the pass is kept under refused/", id=str(pass_id))
                    self._spool.set_aside(pass_id, f"the server failed on it {_MOST_FAILURES} times: {error}")
                    self._greeted, trouble = False, None
        if trouble is not None:
            raise trouble

    def _take_and_run(self) -> bool:
        # Kept until it is used, so that an answer lost on its way is asked for again.
        pass_id = self._next_id
        try:
            readings = self._machine.readings()
            self._waits = not self._until_idle
            job = self._client.next_job(pass_id, readings, _WAIT_S if self._waits else 0.0)
        except Refused as error:
            if error.status == _ANOTHER_BENCH:
                log.error("another bench", reason=str(error))
                raise Unreachable(str(error), error.status) from None
            raise BenchError(str(error)) from None
        finally:
            self._waits = False
        if job is None:
            return False
        self._next_id = uuid.uuid4()
        folder = self._spool.open(pass_id, job)
        log.info("running", workload=job.workload, configuration=job.configuration, number=job.number)
        reporter = _Reporter(self._client, job)
        control = self._control = Control(reporter.note, self._keep_attempts(pass_id, reporter))
        reporter.control = control
        if self._over.is_set():
            control.interrupted.set()
        try:
            result = self._machine.run(job, folder, control)
        finally:
            self._control = None
            reporter.close()
        self._spool.close(pass_id, job, result)
        log.info("over", outcome=result.outcome, seconds=round(result.duration_s, 1))
        self._send_waiting()
        return True

    def _keep_attempts(self, pass_id: uuid.UUID, reporter: "_Reporter") -> Callable[[list[dict[str, Any]]], None]:
        """Attempts are on disk before they are told, so that a search goes on after a crash."""

        def keep(attempts: list[dict[str, Any]]) -> None:
            self._spool.keep_attempts(pass_id, attempts)
            reporter.note_attempts(attempts)

        return keep

    def _last_send(self) -> None:
        try:
            self._send_waiting()
        except BenchError as error:
            log.warning("unsent passes stay in the spool", reason=str(error))


class _Reporter:
    """Sends progress from a thread of its own, so that a slow network costs no frame: as soon as something is noted,
    and no more often than every `_REPORT_S`."""

    def __init__(self, client: ServerClient, job: Job) -> None:
        self._client = client
        self._entry = job.entry
        self._latest: dict[str, Any] | None = None
        self._attempts: list[dict[str, Any]] = []
        self._lock = threading.Lock()
        self._noted = threading.Event()
        self._closed = threading.Event()
        self.control: Control | None = None
        self._thread = threading.Thread(target=self._loop, name="progress", daemon=True)
        self._thread.start()

    def note(self, phase: str, elapsed_s: float, left_s: float | None, readings: dict[str, float | None]) -> None:
        with self._lock:
            self._latest = {"phase": phase, "elapsed_s": elapsed_s, "left_s": left_s, "readings": readings}
        self._noted.set()

    def note_attempts(self, attempts: list[dict[str, Any]]) -> None:
        with self._lock:
            self._attempts = list(attempts)

    def close(self) -> None:
        self._closed.set()
        self._noted.set()
        self._thread.join(timeout=5)

    def _loop(self) -> None:
        self._noted.wait()
        while True:
            self._noted.clear()
            with self._lock:
                latest, self._latest = self._latest, None
                if latest is not None and self._attempts:
                    latest["attempts"] = self._attempts
            if latest is not None:
                self._send(latest)
            if self._closed.wait(_REPORT_S):
                return
            if self._latest is None:
                self._noted.wait()
            else:
                # It was noted meanwhile and is old by now; if something newer is about to come, that is sent.
                self._noted.clear()
                self._noted.wait(_FRESH_S)

    def _send(self, progress: dict[str, Any]) -> None:
        started = time.monotonic()
        try:
            if self._client.report(self._entry, progress) and self.control is not None:
                self.control.stop_wanted.set()
        except BenchError as error:
            log.warning("progress not told", reason=str(error), waited_s=round(time.monotonic() - started, 1))
