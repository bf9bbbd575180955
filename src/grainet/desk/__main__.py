"""Opens Grainet: ``python -m grainet.desk [SHOP.grainet | --new SHOP.grainet | --fresh-demo]``; the demo shop by default."""

from __future__ import annotations

import shutil
import sys
import time
from pathlib import Path

STARTED = time.monotonic()


def main() -> int:
    """Run the application until its window closes."""
    from PySide6.QtCore import QTimer
    from PySide6.QtWidgets import QApplication, QFileDialog, QMessageBox

    from grainet.demo.make import data_folder, demo_folder, make_demo
    from grainet.desk.unexpected import Unexpected
    from grainet.desk.window import Window, app_icon, prepare
    from grainet.session.shop import Shop
    from grainet.store.shop_file import ShopUnusable

    arguments = [a for a in sys.argv[1:] if a != "--time"]
    app = QApplication(sys.argv[:1])
    app.setApplicationName("Grainet")
    app.setDesktopFileName("grainet")
    prepare(app)
    app.setWindowIcon(app_icon())
    Unexpected(app)
    windows: list[Window] = []

    def open_window(shop: Shop) -> None:
        window = Window(shop, open_other)
        windows.append(window)
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
            folder = QFileDialog.getExistingDirectory(windows[-1] if windows else None, "A shop folder", str(data_folder()))
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
    from grainet.isolate import leave_the_working_folder

    leave_the_working_folder()
    sys.exit(main())
