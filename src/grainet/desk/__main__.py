"""Opens Grainet: ``python -m grainet.desk [SHOP.grainet | --new SHOP.grainet | --fresh-demo]``; the demo shop by default."""

from __future__ import annotations

if __name__ == "__main__":  # before anything is imported that a file of the working folder could stand in for
    from grainet.isolate import leave_the_working_folder

    leave_the_working_folder()

import os
import re
import shutil
import socket as socket_module
import sys
import time
from collections.abc import Mapping
from pathlib import Path

STARTED = time.monotonic()


def no_screen(environment: Mapping[str, str]) -> str:
    """Why no window can be opened here, with what works without one; empty where a screen answers.

    Qt would end the program with a signal and blame its own libraries.
    """
    if environment.get("QT_QPA_PLATFORM"):
        return ""
    display, wayland = environment.get("DISPLAY", ""), environment.get("WAYLAND_DISPLAY", "")
    instead = "Without one these work: ./run grainet plan, check, grade, import, export, find, sort, plot; and ./run test."
    if not display and not wayland:
        return f"Grainet's window wants a screen, and there is none here: neither DISPLAY nor WAYLAND_DISPLAY is set. {instead}"
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
    return f"Grainet's window wants a screen, and {named} does not answer. {instead}"


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
    if told := no_screen(os.environ):
        print(told, file=sys.stderr)
        return 2
    from PySide6.QtCore import QTimer
    from PySide6.QtWidgets import QApplication, QMessageBox

    from grainet.demo.make import demo_folder, make_demo
    from grainet.desk.main_window import Window, app_icon, prepare
    from grainet.desk.services.dialogs import folder_to_use
    from grainet.desk.services.sweeper import Sweeper
    from grainet.desk.services.unexpected import Unexpected
    from grainet.paths import data_folder
    from grainet.session.shop import Shop
    from grainet.store.shop_file import ShopUnusable

    arguments = [a for a in sys.argv[1:] if a != "--time"]
    app = QApplication(sys.argv[:1])
    app.setApplicationName("Grainet")
    app.setDesktopFileName("grainet")
    prepare(app)
    app.setWindowIcon(app_icon())
    Unexpected(app)
    sweeper = Sweeper(app)
    windows: list[Window] = []

    def open_window(shop: Shop) -> None:
        window = Window(shop, open_other)
        windows.append(window)
        window.state.changed.connect(sweeper.touch)
        window.show()
        for old in windows[:-1]:
            old.close()
        del windows[:-1]

    def refuse(fault: ShopUnusable) -> None:
        more = f"\n\nThe newest good backup is {fault.backup}." if fault.backup else ""
        print(f"{fault}{more}", file=sys.stderr)
        if app.platformName() != "offscreen":
            QMessageBox.warning(None, "Grainet", f"{fault}{more}")

    def open_other(which: str) -> None:
        try:
            if which == "demo":
                open_window(make_demo(demo_folder()))
                return
            folder = folder_to_use(windows[-1] if windows else None, "A shop folder", data_folder())
            if folder:
                open_window(Shop.open(Path(folder), create=not any(Path(folder).iterdir())))
        except ShopUnusable as fault:
            refuse(fault)

    try:
        if arguments[:1] == ["--fresh-demo"]:
            shutil.rmtree(demo_folder(), ignore_errors=True)
            arguments = []
        if arguments[:1] == ["--new"] and len(arguments) > 1:
            open_window(Shop.open(Path(arguments[1]), create=True))
        elif arguments:
            open_window(Shop.open(Path(arguments[0])))
        else:
            demo_folder().parent.mkdir(parents=True, exist_ok=True)
            open_window(make_demo(demo_folder()))
    except ShopUnusable as fault:
        refuse(fault)
        return 2
    if "--time" in sys.argv:
        windows[-1].repaint()
        print(f"first paint after {time.monotonic() - STARTED:.2f} s")
        QTimer.singleShot(0, app.quit)
    return app.exec()


if __name__ == "__main__":
    sys.exit(main())
