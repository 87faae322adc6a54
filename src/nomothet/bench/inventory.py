"""What the machine at hand tells about itself; what it cannot tell is left out, never guessed."""

import json
import platform
import re
import shutil
import subprocess
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import psutil

from nomothet.bench.clean_environment import clean_environment

_FIELDS = {
    "Model name:": "processor",
    "CPU(s):": "logical processors",
    "Thread(s) per core:": "threads per core",
    "Core(s) per socket:": "cores per socket",
    "Socket(s):": "sockets",
    "L1d cache:": "first-level data cache",
    "L2 cache:": "second-level cache",
    "L3 cache:": "third-level cache",
    "CPU max MHz:": "highest clock in MHz",
    "Hypervisor vendor:": "hypervisor",
}
_DMI = Path("/sys/class/dmi/id")
_BLOCK = Path("/sys/block")
_NO_DRIVES = ("loop", "ram", "zram", "dm-", "md", "sr")


def inventory() -> dict[str, Any]:
    """Names and values as the operating system reports them, and under "memory modules" one entry for each slot."""
    found: dict[str, Any] = {"operating system": _system_name(), "kernel": platform.release()}
    found |= _processor()
    found["memory"] = f"{psutil.virtual_memory().total / 1024**3:.1f} GiB"
    modules = memory_modules(_run(["dmidecode", "-t", "memory"]))
    if modules:
        found["memory modules"] = modules
    swap = psutil.swap_memory().total
    found["swap"] = f"{swap / 1024**3:.1f} GiB" if swap else "none"
    found |= _firmware()
    found |= {f"drive {name}": words for name, words in _drives().items()}
    graphics = _graphics()
    if graphics:
        found["graphics"] = "; ".join(graphics)
    found["python"] = platform.python_version()
    return found


def observed(told: Mapping[str, Any]) -> dict[str, Any]:
    """Settings of a configuration that the inventory says something about."""
    speeds = {module["configured_mts"] for module in told.get("memory modules", []) if module.get("configured_mts")}
    seen: dict[str, Any] = {}
    if len(speeds) == 1:
        seen["memory_mts"] = speeds.pop()
    if "firmware version" in told:
        seen["firmware"] = told["firmware version"]
    return seen


def memory_modules(text: str) -> list[dict[str, Any]]:
    """Filled slots in what `dmidecode -t memory` writes: slot, size, rated and configured speed.

    Examples
    --------
    >>> memory_modules("Memory Device\\n\\tSize: 16 GB\\n\\tLocator: A1\\n\\tSpeed: 5600 MT/s\\n")
    [{'slot': 'A1', 'size_gb': 16.0, 'rated_mts': 5600}]
    """
    modules = []
    for block in re.split(r"\n\s*\n", text):
        if not re.search(r"^Memory Device$", block, re.MULTILINE):
            continue
        fields = dict(re.findall(r"^\s+([^:\n]+): (.+)$", block, re.MULTILINE))
        size = re.fullmatch(r"(\d+) (MB|GB)", fields.get("Size", ""))
        if size is None:
            continue
        module: dict[str, Any] = {
            "slot": fields.get("Locator", "unnamed"),
            "size_gb": float(size[1]) / (1024 if size[2] == "MB" else 1),
        }
        for key, name in (("rated_mts", "Speed"), ("configured_mts", "Configured Memory Speed")):
            speed = re.match(r"(\d+) MT/s", fields.get(name, ""))
            if speed:
                module[key] = int(speed[1])
        modules.append(module)
    return modules


def _system_name() -> str:
    try:
        release = platform.freedesktop_os_release()
    except OSError:
        return platform.system()
    return release.get("PRETTY_NAME", platform.system())


def _processor() -> dict[str, str]:
    try:
        rows = _flat(json.loads(_run(["lscpu", "-J"]))["lscpu"])
    except (ValueError, KeyError):
        return {"logical processors": str(psutil.cpu_count())}
    return {_FIELDS[field]: data for field, data in rows if field in _FIELDS}


def _firmware() -> dict[str, str]:
    """Board and firmware where the system lets everybody read them."""
    names = {
        "board": "board_name",
        "firmware version": "bios_version",
        "firmware date": "bios_date",
        "machine": "product_name",
    }
    found = {label: _text(_DMI / name) for label, name in names.items()}
    return {label: text for label, text in found.items() if text}


def _drives() -> dict[str, str]:
    drives = {}
    for path in sorted(_BLOCK.iterdir()) if _BLOCK.is_dir() else []:
        sectors = _text(path / "size")
        if path.name.startswith(_NO_DRIVES) or not sectors.isdigit() or int(sectors) == 0:
            continue
        model = _text(path / "device" / "model")
        turns = "turning" if _text(path / "queue" / "rotational") == "1" else "solid state"
        drives[path.name] = ", ".join(filter(None, [f"{int(sectors) * 512 / 1e9:.0f} GB", model, turns]))
    return drives


def _graphics() -> list[str]:
    """Graphics with the driver in use, from the system's list of cards."""
    found = []
    for path in sorted(Path("/sys/class/drm").glob("card[0-9]")):
        driver = path / "device" / "driver"
        name = driver.resolve().name if driver.exists() else "no driver"
        version = _text(driver / "module" / "version")
        vendor, device = _text(path / "device" / "vendor"), _text(path / "device" / "device")
        found.append(" ".join(filter(None, [vendor, device, f"driver {name}", version])))
    return found


def _text(path: Path) -> str:
    try:
        return path.read_text(errors="replace").strip()
    except OSError:
        return ""


def _run(words: list[str]) -> str:
    """What a tool of the operating system writes; nothing when it is not there or refuses."""
    command = shutil.which(words[0])
    if command is None:
        return ""
    try:
        done = subprocess.run(
            [command, *words[1:]],
            capture_output=True,
            text=True,
            check=False,
            timeout=10,
            env={**clean_environment(), "LC_ALL": "C"},
        )
    except (OSError, subprocess.TimeoutExpired):
        return ""
    return done.stdout if done.returncode == 0 else ""


def _flat(rows: list[dict[str, Any]]) -> list[tuple[str, str]]:
    found = []
    for row in rows:
        found.append((row["field"], row.get("data") or ""))
        found += _flat(row.get("children", []))
    return found
