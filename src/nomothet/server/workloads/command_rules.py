"""What an approval of a command covers, and what no admin can approve."""

import hashlib
import json
import re
from collections.abc import Iterator, Mapping, Sequence
from pathlib import PurePosixPath, PureWindowsPath
from typing import Any

from nomothet.server.workloads.models import Workload

# As the bench fills them in; see bench/command_plan.py.
PLACE = re.compile(r"\{([a-z][a-z0-9_]*)\}")
_SHELLS = {
    "sh", "bash", "dash", "zsh", "ksh", "fish", "ash", "csh", "tcsh", "busybox", "pwsh", "powershell", "cmd", "python",
    "pypy", "perl", "ruby", "node", "deno", "bun", "php", "lua", "luajit", "tclsh", "osascript", "guile", "rscript",
}  # fmt: skip
# Their first word is a program, with no option before it.
_BY_WORD = {"awk", "gawk", "mawk", "nawk", "sed", "jq", "eval", "xargs", "parallel"}
_CODE = re.compile(
    r"-[A-Za-z]*[ceEr][A-Za-z]*|--?(?:eval|command|execute|print|run|encodedcommand)(?:=.*)?|/[ck]", re.I
)
# What decides which code a program loads or finds.
_LOADING = re.compile(
    r"(?:LD_|DYLD_|PYTHON|PERL5|RUBY|NODE_|LUA_|JAVA_|_JAVA|GCONV).*|PATH|BASH_ENV|ENV|IFS|SHELL", re.I
)


def placeholders(command: Mapping[str, Any]) -> set[str]:
    """The settings that a command names."""
    return {key for text in _texts(command) for key in PLACE.findall(text)}


def allowed_values(workload: Workload) -> dict[str, list[Any] | None]:
    """What may stand for each placeholder of a workload's command: a list, or None for any single value."""
    declared = {one["key"]: one.get("values") or None for one in workload.settings}
    return {key: declared.get(key) for key in sorted(placeholders(workload.command))}


def approval_digest(workload: Workload) -> str:
    """The fingerprint of what an approval covers: each word, and what may stand for each placeholder."""
    covered = {"command": workload.command, "values": allowed_values(workload)}
    return hashlib.sha256(json.dumps(covered, sort_keys=True).encode()).hexdigest()


def refusal(command: Mapping[str, Any]) -> str:
    """Why a command cannot be approved, empty where it can."""
    for words in _lists(command):
        if words and PLACE.search(words[0]):
            return f"{words[0]!r} lets a setting say which program runs. Write the program out."
        said = _runs_a_setting(words)
        if said:
            return said
    for name, text in command.get("environment", {}).items():
        if PLACE.search(text) and _LOADING.fullmatch(name):
            return f"{name} decides what code is loaded, and a setting must not say that. Write its value out."
    return ""


def _runs_a_setting(words: Sequence[str]) -> str:
    """Whether a setting would become code."""
    filled = [word for word in words if PLACE.search(word)]
    if not filled:
        return ""
    for at, word in enumerate(words):
        program = _program(word)
        if program in _BY_WORD:
            return (
                f"{program} takes its words for a program, and {filled[0]!r} would become part of it. "
                "Write a script that takes the setting as an argument."
            )
        if program in _SHELLS and any(_CODE.fullmatch(one) for one in words[at + 1 :]):
            return (
                f"{program} runs what stands after its option as code, and {filled[0]!r} would become part of it. "
                "Write a script that takes the setting as an argument."
            )
    return ""


def _program(word: str) -> str:
    """The plain name of what a word would start: "/usr/bin/Python3.11" is python."""
    name = PurePosixPath(PureWindowsPath(word).name).name.lower().removesuffix(".exe")
    return re.sub(r"[\d.]+$", "", name)


def _lists(command: Mapping[str, Any]) -> Iterator[Sequence[str]]:
    yield command.get("arguments", [])
    yield from command.get("prepare", [])
    yield from command.get("clean_up", [])


def _texts(command: Mapping[str, Any]) -> Iterator[str]:
    for words in _lists(command):
        yield from words
    yield from command.get("environment", {}).values()
