"""What a workload gets of the bench's environment: what programs need to run, and no secret.

A bench holds its token in its environment, and so may whoever started it hold others. A workload is a program of
others: it gets what is on this list, what its own command sets, and what the bench was told to pass on.
"""

import os
import re
from collections.abc import Iterable

_PASSED = re.compile(
    r"PATH|HOME|USER|LOGNAME|SHELL|TERM|LANG|LANGUAGE|LC_\w+|TZ|TMPDIR|TEMP|TMP"
    r"|DISPLAY|WAYLAND_DISPLAY|XAUTHORITY|XDG_\w+|DBUS_SESSION_BUS_ADDRESS|PULSE_SERVER|PIPEWIRE_\w+"
    r"|LD_LIBRARY_PATH|VK_\w+|MESA_\w+|LIBGL_\w+|EGL_\w+|DRI_PRIME|__GL\w*|__EGL\w*"
    r"|SYSTEMROOT|SYSTEMDRIVE|WINDIR|COMSPEC|PATHEXT|USERPROFILE|HOMEDRIVE|HOMEPATH|APPDATA|LOCALAPPDATA|PROGRAMDATA"
    r"|PROGRAMFILES(?:\(X86\))?|COMMONPROGRAMFILES(?:\(X86\))?|NUMBER_OF_PROCESSORS|PROCESSOR_\w+|OS",
    re.I,
)
_named: set[str] = set()


def pass_on(names: Iterable[str]) -> None:
    """Variables that workloads of this bench get besides; asked for by who starts it."""
    _named.update(names)


def clean_environment() -> dict[str, str]:
    """The variables that every workload of this bench gets."""
    return {name: value for name, value in os.environ.items() if _PASSED.fullmatch(name) or name in _named}
