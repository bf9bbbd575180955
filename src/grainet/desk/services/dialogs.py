"""Asking for a file or folder: begins in the person's documents, then where the last one was, and gives the keys back afterwards."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QStandardPaths
from PySide6.QtWidgets import QFileDialog, QWidget

_last: list[Path] = []


def begin_in() -> Path:
    """The folder that the next dialog begins in."""
    if _last and _last[0].is_dir():
        return _last[0]
    documents = Path(QStandardPaths.writableLocation(QStandardPaths.StandardLocation.DocumentsLocation) or Path.home())
    return documents if documents.is_dir() else Path.home()


def file_to_read(parent: QWidget, title: str, forms: str) -> str:
    """A file to read; empty where none was chosen."""
    return _done(parent, QFileDialog.getOpenFileName(parent, title, str(begin_in()), forms)[0])


def file_to_write(parent: QWidget, title: str, name: str, forms: str) -> tuple[str, str]:
    """A file to write and the form that was chosen; empty where none was."""
    chosen, form = QFileDialog.getSaveFileName(parent, title, str(begin_in() / name.replace("/", "-")), forms)
    return _done(parent, chosen), form


def folder_to_use(parent: QWidget | None, title: str, begin: Path | None = None) -> str:
    """A folder; empty where none was chosen."""
    return _done(parent, QFileDialog.getExistingDirectory(parent, title, str(begin or begin_in())), folder=True)


def _done(parent: QWidget | None, chosen: str, *, folder: bool = False) -> str:
    if chosen:
        _last[:] = [Path(chosen) if folder else Path(chosen).parent]
    give_keys_back(parent)
    return chosen


def give_keys_back(parent: QWidget | None) -> None:
    """After a dialog the window has the keys again, also where no window manager hands them back."""
    if parent is None:
        return
    window = parent.window()
    window.activateWindow()
    if window.focusWidget() is None:
        window.setFocus()
