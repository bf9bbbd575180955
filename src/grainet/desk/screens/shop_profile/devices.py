"""The page of instruments: of each kind the stand-in, a serial port or a file; and what each line means, told while it arrives."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import get_args

from PySide6.QtCore import Qt
from PySide6.QtGui import QHideEvent, QPainter, QPen
from PySide6.QtWidgets import QMenu
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.screens.shop_profile.plain import SimplePage
from grainet.desk.services.background import Failed
from grainet.desk.services.dialogs import file_to_read
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, wrapped
from grainet.instruments.reading import InstrumentFault, meaning
from grainet.kit.device import BAUDS, Device, DeviceKind
from grainet.wood.value import BadEntry

KINDS: tuple[DeviceKind, ...] = get_args(DeviceKind)
WORDS: dict[str, str] = {
    "callipers": "Callipers",
    "moisture": "Moisture meter",
    "scale": "Scale",
    "tap": "Tap microphone",
    "climate": "Climate logger",
}
SAYS: dict[str, str] = {
    "callipers": "T +052.41 mm",
    "moisture": "MC 8.4 %",
    "scale": "ST +31.400 kg",
    "tap": "F 368.0 Hz D0.062",
    "climate": "20.3 C 46.0 %",
}
ROW_H, MOST_LINES = 62, 8


class DevicesPage(SimplePage):
    """The page."""

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.listening = ""  # the kind whose lines are shown as they come
        self.lines: list[tuple[str, str, bool]] = []  # line, what it means, whether it can be kept
        self._round, self._source_turn = 0, -1
        self.buttons: dict[tuple[str, str], WordButton] = {}
        for kind in KINDS:
            acts = (("stand-in", "Stand-in", partial(self.use, kind, None)), ("serial", "Serial ...", partial(self.offer_ports, kind)),
                    ("file", "File ...", partial(self.choose_file, kind)), ("listen", "Listen", partial(self.listen, kind)))  # fmt: skip
            for name, words, act in acts:
                button = WordButton(state, words, "", parent=self, name=f"kit.devices.{kind}.{name}")
                button.setCheckable(True)
                button.clicked.connect(lambda _=False, act=act: act())
                self.buttons[kind, name] = button

    # acts -----------------------------------------------------------------------------------------------------------
    def device(self, kind: str) -> Device | None:
        """The shop's own instrument of a kind."""
        return next((d for d in self.state.shop.kit.devices if d.kind == kind), None)

    def use(self, kind: DeviceKind, device: Device | None) -> None:
        """Take a device, or the stand-in again."""
        kit = self.state.shop.kit
        rest = tuple(d for d in kit.devices if d.kind != kind)
        self.stop()
        words = f"{WORDS[kind]}: {device.words if device is not None else 'the stand-in'}"
        self.state.keep(words, kit.changed(devices=(*rest, device) if device is not None else rest))
        self.refresh()

    def offer_ports(self, kind: DeviceKind) -> None:
        """The serial ports that are there, each with the speeds that instruments have."""
        from grainet.instruments.source import ports

        menu = QMenu(self)
        menu.setObjectName(f"kit.devices.{kind}.ports")
        found = ports()
        for path, told in found:
            speeds = menu.addMenu(f"{path}  {told}".strip())
            for baud in BAUDS:
                speeds.addAction(
                    f"{baud} baud", partial(self.use, kind, Device(kind=kind, source="serial", path=path, baud=baud))
                )
        if not found:
            menu.addAction("No serial port is there. Plug the adapter in, and look again.").setEnabled(False)
        menu.addAction("Another port: type port and its path", lambda: self.state.tape_wanted.emit(f"port {kind} /dev/"))
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        button = self.buttons[kind, "serial"]
        menu.popup(button.mapToGlobal(button.rect().bottomLeft()))
        self.refresh()

    def port(self, words: str) -> Device:
        """``scale /dev/ttyUSB0 9600`` as a device. Raises BadEntry."""
        parts = words.split()
        if len(parts) not in (2, 3) or parts[0] not in KINDS:
            raise BadEntry(f"port needs what and where, such as port scale /dev/ttyUSB0 9600; what is one of {', '.join(KINDS)}.")
        if len(parts) == 3 and not (parts[2].isdecimal() and 50 <= int(parts[2]) <= 4_000_000):
            raise BadEntry(f"port: found {parts[2]}, needs a speed such as 9600.")
        return Device(kind=parts[0], source="serial", path=parts[1], baud=int(parts[2]) if len(parts) == 3 else 9600)

    def choose_file(self, kind: DeviceKind, path: str | None = None) -> None:
        """A text file that another program writes a line a reading into."""
        chosen = path or file_to_read(
            self, f"{WORDS[kind]}: a file with a line a reading", "Text (*.txt *.csv *.log);;All files (*)"
        )
        if chosen:
            self.use(kind, Device(kind=kind, source="file", path=chosen))
        self.refresh()

    def listen(self, kind: DeviceKind) -> None:
        """Show the lines of an instrument as they come; pressed again it stops."""
        if self.listening == kind:
            self.stop()
            return
        self.stop()
        self.listening = kind
        self._next(self._round)
        self.refresh()

    def stop(self) -> None:
        """No longer listen."""
        self.listening, self.lines = "", []
        self._round += 1
        self.refresh()

    def _next(self, turn: int) -> None:
        """Ask for one line more, off the window's thread."""
        kind = self.listening
        device = self.device(kind)
        if turn != self._round or device is None:
            return
        from grainet.instruments.source import FileSource, SerialSource

        if turn != self._source_turn:
            self._source_turn = turn
            self._source = (
                FileSource(Path(device.path), device.words)
                if device.source == "file"
                else SerialSource(device.path, device.baud, device.words)
            )
        source = self._source

        def work() -> object:
            try:
                line = source.line(1.5)
            except InstrumentFault as fault:
                return "", str(fault), False
            try:
                return line, meaning(kind, line, device.words), True
            except InstrumentFault as fault:
                return line, str(fault), False

        self.state.background.start(work, partial(self._came, turn), 2)

    def _came(self, turn: int, found: object) -> None:
        if turn != self._round or not self.isVisible():
            return
        row = ("", found.text, False) if isinstance(found, Failed) else found
        assert isinstance(row, tuple)
        if not self.lines or self.lines[-1] != row or row[0]:
            self.lines = [*self.lines[-(MOST_LINES - 1) :], row]
        self.update()
        if row[2] or row[0]:
            self._next(turn)
        else:
            self.listening = ""
            self.refresh()

    @override
    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.stop()

    # placing --------------------------------------------------------------------------------------------------------
    @override
    def place(self) -> None:
        """Lay the buttons out."""
        self.fill()

    @override
    def fill(self) -> None:
        """Bring the buttons up to date and in their places."""
        for k, kind in enumerate(KINDS):
            device = self.device(kind)
            for name in ("stand-in", "serial", "file"):
                self.buttons[kind, name].setChecked((device.source if device is not None else "stand-in") == name)
            listen = self.buttons[kind, "listen"]
            listen.setVisible(device is not None)
            listen.setChecked(self.listening == kind)
            row = [(self.buttons[kind, name], 104) for name in ("stand-in", "serial", "file", "listen")]
            flow.row(row, 180, 56 + k * ROW_H, high=40, gap=6)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        draw.text_at(p, 0, 24, "Instruments", theme.ink, 18, 700)
        told = "Each is a stand-in until you connect your own: on a serial line, or through a file that its own program writes a line a reading into."
        draw.text_at(p, 130, 24, told, theme.ink2, 14, room=self.width() - 130)
        for k, kind in enumerate(KINDS):
            y, device = 56 + k * ROW_H, self.device(kind)
            draw.text_at(p, 0, y + 18, WORDS[kind], theme.ink, 15.5, 700, room=170)
            draw.text_at(p, 0, y + 36, f"says {SAYS[kind]}", theme.ink2, 13, room=174)
            where = (
                "the stand-in that ships"
                if device is None
                else device.path + (f", {device.baud} baud" if device.source == "serial" else "")
            )
            draw.text_at(p, 180 + 4 * 110 + 10, y + 25, where, theme.ink2, 14, room=self.width() - 640)
            p.setPen(QPen(theme.hair, 1))
            p.drawLine(0, y + ROW_H - 8, self.width(), y + ROW_H - 8)
        self._lines(p, 56 + len(KINDS) * ROW_H + 24)

    def _lines(self, p: QPainter, y: float) -> None:
        """What arrived, and what each line means."""
        theme = self.state.theme
        if not self.listening and not self.lines:
            draw.text_at(
                p, 0, y, "Listen shows each line as it comes, and what it would be kept as; nothing is kept.", theme.ink2, 14
            )
            return
        draw.text_at(p, 0, y, "What it sends, and what that means", theme.ink, 15.5, 700)
        for line, words, good in self.lines:
            y += 24
            draw.text_at(p, 0, y, line or "no line", theme.ink if line else theme.ink2, 15, 600, figures=True, room=300)
            for row in wrapped(words, 14.5, self.width() - 320)[:2]:
                draw.text_at(p, 320, y, row, theme.ink2 if good else theme.wine, 14.5)
                y += 18
            y -= 18
