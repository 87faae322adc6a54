"""Has files that people bring in looked at by the installation's own scanner, where one is set."""

import contextlib
import shlex
import shutil
import subprocess
from typing import BinaryIO

import structlog
from django.conf import settings

from nomothet.server.problems import Problem, unusable

# The scanner reads the file on its standard input: 0 lets it in, 1 refuses it, all else says that it could not look.
_CLEAN, _REFUSED = 0, 1
_LONGEST_S = 120
_TOLD = 200

log = structlog.get_logger(__name__)


def scan(file: BinaryIO) -> None:
    """Refuse a file that the scanner refuses; it stands at its beginning afterwards. Nothing happens without a scanner.

    Raises
    ------
    Problem
        422 with what the scanner said; 503 where it could not look, as a file that nobody has looked at stays out.
    """
    if not settings.SCANNER:
        return
    file.seek(0)
    try:
        status, said = _run(shlex.split(settings.SCANNER), file)
    except (OSError, ValueError, subprocess.TimeoutExpired) as error:
        log.warning("the scanner does not run", error=str(error))
        status, said = -1, ""
    file.seek(0)
    if status == _REFUSED:
        raise unusable(
            f"The scanner of this installation refuses the file: {said or 'it does not say why'}.", field="file"
        )
    if status != _CLEAN:
        raise Problem(
            503,
            "Not looked at",
            "The scanner of this installation could not look at the file, so it was not taken. Try again, or tell "
            "whoever looks after the installation.",
        )


def _run(command: list[str], file: BinaryIO) -> tuple[int, str]:
    scanner = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL)
    try:
        assert scanner.stdin is not None
        # One that has seen enough stops reading.
        with contextlib.suppress(BrokenPipeError):
            shutil.copyfileobj(file, scanner.stdin, 1 << 20)
        with contextlib.suppress(BrokenPipeError):
            scanner.stdin.close()
        scanner.stdin = None
        said, _ = scanner.communicate(timeout=_LONGEST_S)
    finally:
        if scanner.poll() is None:
            scanner.kill()
            scanner.wait()
    lines = said.decode(errors="replace").strip().splitlines()
    return scanner.returncode, lines[-1][:_TOLD].rstrip(".") if lines else ""
