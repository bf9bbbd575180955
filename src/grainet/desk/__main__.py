"""Opens Grainet: ``python -m grainet.desk [SHOP.grainet | --new SHOP.grainet | --fresh-demo]``; the demo shop by default."""

from __future__ import annotations

if __name__ == "__main__":  # before anything is imported that a file of the working folder could stand in for
    from grainet.isolate import leave_the_working_folder

    leave_the_working_folder()

import os
import re
import socket as socket_module
import sys
import time
from collections.abc import Mapping

STARTED = time.monotonic()
WORDS = """usage: grainet.desk [SHOP.grainet | --new SHOP.grainet | --fresh-demo]

Opens Grainet's window: over a shop's folder, over a new one, over the demo shop begun afresh; without any of them the demo shop as it was left.
What works without a window: grainet --help."""


def no_screen(environment: Mapping[str, str]) -> str:
    """Why no window can be opened here, with what works without one; empty where a screen answers.

    Qt would end the program with a signal and blame its own libraries.
    """
    if environment.get("QT_QPA_PLATFORM"):
        return ""
    display, wayland = environment.get("DISPLAY", ""), environment.get("WAYLAND_DISPLAY", "")
    instead = "Without one these work: ./run grainet plan, check, grade, import, export, find, sort, plot; and ./run test."
    if not display and not wayland:
        return f"Grainet's window needs a screen, and there is none here: neither DISPLAY nor WAYLAND_DISPLAY is set. {instead}"
    socket = re.fullmatch(r":([0-9]+)(?:\.[0-9]+)?", display)
    reached = not socket if display else False
    if socket:
        reached = _answers(f"/tmp/.X11-unix/X{socket[1]}") or _answers(f"\0/tmp/.X11-unix/X{socket[1]}")
    if wayland and not reached:
        path = wayland if wayland.startswith("/") else f"{environment.get('XDG_RUNTIME_DIR', '/run')}/{wayland}"
        reached = _answers(path)
    if reached:
        return ""
    named = " or ".join(
        name for name in (f"DISPLAY {display}" if display else "", f"WAYLAND_DISPLAY {wayland}" if wayland else "") if name
    )
    return f"Grainet's window needs a screen, and {named} does not answer. {instead}"


def _answers(path: str) -> bool:
    """Whether somebody listens at a local socket."""
    with socket_module.socket(socket_module.AF_UNIX, socket_module.SOCK_STREAM) as one:
        one.settimeout(2)
        try:
            one.connect(path)
        except OSError:
            return False
    return True


def main() -> int:
    """Run the application until its window closes."""
    if {"-h", "--help"} & set(sys.argv[1:]):
        print(WORDS)
        return 0
    if told := no_screen(os.environ):
        print(told, file=sys.stderr)
        return 2
    from grainet.desk.app import USAGE, App

    app = App()
    if not app.open_first([a for a in sys.argv[1:] if a != "--time"]):
        return USAGE
    return app.run(STARTED if "--time" in sys.argv else None)


if __name__ == "__main__":
    sys.exit(main())
