"""The application: one window over one shop, another shop in its place when asked for."""

from __future__ import annotations

import os
import shutil
import sys
import time
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QMessageBox

from grainet.demo.make import demo_folder, make_demo
from grainet.desk.main_window import Window, app_icon, prepare
from grainet.desk.services.dialogs import folder_to_use
from grainet.desk.services.sweeper import Sweeper
from grainet.desk.services.text_size import scale, without_our_size
from grainet.desk.services.unexpected import Unexpected
from grainet.paths import data_folder
from grainet.session.shop import Shop
from grainet.store.shop_file import ShopUnusable

USAGE = 2


class App:
    """Opens shops and refuses those that cannot be used, in a sentence."""

    def __init__(self) -> None:
        scale()
        self.qt = QApplication(sys.argv[:1])
        self.qt.setApplicationName("Grainet")
        self.qt.setDesktopFileName("grainet")
        prepare(self.qt)
        self.qt.setWindowIcon(app_icon())
        Unexpected(self.qt)
        self.sweeper = Sweeper(self.qt)
        self.window: Window | None = None

    def open_window(self, shop: Shop) -> None:
        """Show a shop; the window before it closes."""
        old, self.window = self.window, Window(shop, self.open_other, self.start_again)
        self.window.state.changed.connect(self.sweeper.touch)
        self.window.show()
        if old is not None:
            old.close()

    def start_again(self, arguments: list[str]) -> None:
        """Close this program and start it anew on the same shop: Qt takes another size only when it starts."""
        if self.window is None:
            return
        folder = str(self.window.state.shop.file.folder)
        self.window.close()
        python = [sys.executable, "-I", "-m", "grainet.desk", folder, *arguments]
        os.execve(sys.executable, python, without_our_size(os.environ))

    def refuse(self, fault: ShopUnusable) -> None:
        """Say why a shop is not opened, with the newest good backup."""
        more = f"\n\nThe newest good backup is {fault.backup}." if fault.backup else ""
        print(f"{fault}{more}", file=sys.stderr)
        if self.qt.platformName() != "offscreen":
            QMessageBox.warning(None, "Grainet", f"{fault}{more}")

    def open_other(self, which: str) -> None:
        """The demo shop, or one that the person chooses; an empty folder becomes a shop."""
        try:
            if which == "demo":
                self.open_window(make_demo(demo_folder(), past=True))
                return
            folder = folder_to_use(self.window, "A shop folder", data_folder())
            if folder:
                self.open_window(Shop.open(Path(folder), create=not any(Path(folder).iterdir())))
        except ShopUnusable as fault:
            self.refuse(fault)

    def open_first(self, arguments: list[str]) -> bool:
        """What the command line asks for; False where it was refused."""
        try:
            arguments, place = _parted(arguments)
            if arguments[:1] == ["--fresh-demo"]:
                shutil.rmtree(demo_folder(), ignore_errors=True)
                arguments = []
            if arguments[:1] == ["--new"] and len(arguments) > 1:
                self.open_window(Shop.open(Path(arguments[1]), create=True))
            elif arguments and not Path(arguments[0]).exists():
                raise ShopUnusable(f"There is nothing at {arguments[0]}. A new shop is begun there by: open --new {arguments[0]}")
            elif arguments:
                self.open_window(Shop.open(Path(arguments[0])))
            else:
                demo_folder().parent.mkdir(parents=True, exist_ok=True)
                self.open_window(make_demo(demo_folder(), past=True))
        except ShopUnusable as fault:
            self.refuse(fault)
            return False
        if place and self.window is not None:
            self.window.go_to(place[0], place[1:])
        return True

    def run(self, started: float | None = None) -> int:
        """Until the window closes. With ``started`` only to the first paint, and the seconds to it are printed."""
        if started is not None and self.window is not None:
            self.window.repaint()
            print(f"first paint after {time.monotonic() - started:.2f} s")
            QTimer.singleShot(0, self.qt.quit)
        return self.qt.exec()


def _parted(arguments: list[str]) -> tuple[list[str], list[str]]:
    """What to open, and the screen and piece to open it at (``--at SCREEN PIECE``, given by a start anew)."""
    if "--at" not in arguments:
        return arguments, []
    k = arguments.index("--at")
    return arguments[:k], arguments[k + 1 :]
