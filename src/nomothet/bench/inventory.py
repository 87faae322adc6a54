"""What the machine at hand tells about itself; what it cannot tell is left out."""

import json
import os
import platform
import shutil
import subprocess
from typing import Any

import psutil

_FIELDS = {
    "Model name:": "processor",
    "CPU(s):": "logical processors",
    "Thread(s) per core:": "threads per core",
    "Core(s) per socket:": "cores per socket",
    "Socket(s):": "sockets",
    "L2 cache:": "second-level cache",
    "L3 cache:": "third-level cache",
}


def inventory() -> dict[str, Any]:
    """Names and values as the operating system reports them."""
    found: dict[str, Any] = {"operating system": _system_name(), "kernel": platform.release()}
    found |= _processor()
    found["memory"] = f"{psutil.virtual_memory().total / 1024**3:.1f} GiB"
    swap = psutil.swap_memory().total
    found["swap"] = f"{swap / 1024**3:.1f} GiB" if swap else "none"
    found["python"] = platform.python_version()
    return found


def usable_processors() -> list[int]:
    """Logical processors that this process may run on."""
    return sorted(os.sched_getaffinity(0))


def _system_name() -> str:
    try:
        release = platform.freedesktop_os_release()
    except OSError:
        return platform.system()
    return release.get("PRETTY_NAME", platform.system())


def _processor() -> dict[str, str]:
    command = shutil.which("lscpu")
    if command is None:
        return {"logical processors": str(psutil.cpu_count())}
    done = subprocess.run(
        [command, "-J"], capture_output=True, text=True, check=False, timeout=10, env={**os.environ, "LC_ALL": "C"}
    )
    try:
        rows = _flat(json.loads(done.stdout)["lscpu"])
    except (ValueError, KeyError):
        return {"logical processors": str(psutil.cpu_count())}
    return {_FIELDS[field]: data for field, data in rows if field in _FIELDS}


def _flat(rows: list[dict[str, Any]]) -> list[tuple[str, str]]:
    found = []
    for row in rows:
        found.append((row["field"], row.get("data") or ""))
        found += _flat(row.get("children", []))
    return found
