"""The bench's instruments in the window: one key reads what is wanted next, off the interface thread, and says who read it."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QMenu, QWidget

from grainet.desk.view_state import State
from grainet.instruments.reading import INSTRUMENT_KINDS, InstrumentFault, InstrumentKind, Reading, parse_climate, parse_line
from grainet.kit.device import Device
from grainet.session.air_words import now_on
from grainet.session.missing_readings import tasks_of, unread_places
from grainet.wood.climate import AirReading
from grainet.wood.piece import Piece
from grainet.wood.species import SpeciesLibrary
from grainet.wood.value import BadEntry

LABELS: dict[str, str] = {
    "callipers": "Callipers: thickness", "moisture": "Pin meter: moisture", "scale": "Scale: weight", "tap": "Tap microphone: tone",
    "climate": "Climate logger: this shop's air", "camera": "Camera: a photo",
}  # fmt: skip


class InstrumentPanel(QObject):
    """The instruments. ``taken_in_hand`` is one kind, or empty: then each reading uses the one that the next task needs."""

    photo_wanted = Signal(str)  # the side to photograph
    devices_wanted = Signal()  # the page of real instruments
    done = Signal()

    def __init__(self, state: State) -> None:
        super().__init__()
        self.state = state
        self.in_hand: str = ""
        self.busy = False
        self._stand_ins: dict[str, object] = {}
        self._devices: dict[Device, object] = {}

    def stand_in(self, kind: str) -> Any:
        """The stand-in of a kind, made when first asked for."""
        from grainet.instruments.stand_ins import StandIn

        if kind not in self._stand_ins:
            self._stand_ins[kind] = StandIn(kind)
        return self._stand_ins[kind]

    def source(self, kind: str) -> Any:
        """Where the lines of a kind come from: the shop's own device where it has one, else the stand-in."""
        from grainet.instruments.source import FileSource, SerialSource

        device = next((d for d in self.state.shop.kit.devices if d.kind == kind), None)
        if device is None:
            return self.stand_in(kind)
        if device not in self._devices:
            made = (
                FileSource(Path(device.path), device.words)
                if device.source == "file"
                else SerialSource(device.path, device.baud, device.words)
            )
            self._devices[device] = made
        return self._devices[device]

    def next_kind(self, piece: Piece) -> str:
        """The instrument in hand, or the one that the next task needs."""
        if self.in_hand:
            return self.in_hand
        if not piece.racked and piece.outline and unread_places(piece):
            return "callipers"  # while it is being taken in, the whole grid is read
        tasks = tasks_of(piece, self.state.shop.kit.pin_depth_mm)
        return next((t.instrument for t in tasks if t.instrument), "")

    @property
    def label(self) -> str:
        """What its button says."""
        piece = self.state.piece
        kind = self.next_kind(piece) if piece else ""
        if not kind:
            return "Instruments"
        return ("Read: " if not self.in_hand else "") + LABELS[kind].partition(":")[0].lower().capitalize()

    def read_next(self) -> None:
        """Take a reading with the instrument that is wanted; what it says is kept, or a sentence says why not."""
        piece = self.state.piece
        if piece is None or self.busy:
            return
        kind = self.next_kind(piece)
        if not kind:
            self.state.notify("every instrument has read what it can; take one in hand to read more")
            return
        if kind == "camera":
            self.photo_wanted.emit(
                next((s for s in ("face1", "face2", "marked_end", "far_end") if piece.photo(s) is None), "face1")
            )
            return
        if kind in ("callipers", "moisture", "tap") and not piece.outline:
            self.state.warn("its length and width first: l 2390, then w 231")
            return
        self._ask(kind, piece)

    def _ask(self, kind: InstrumentKind | str, piece: Piece) -> None:
        x, y = self._place(kind, piece)
        expected = _expected(kind, piece, self.state.shop.kit.library)
        one = self.source(kind)
        if one is self._stand_ins.get(kind):
            one.point_at(piece, x, y, self.state.shop.kit.pin_depth_mm)
        self.busy = True

        def work() -> object:
            try:
                line = one.line()
                return line if kind == "climate" else parse_line(kind, line, one.name, expected)
            except InstrumentFault as fault:
                return fault

        self.state.background.start(work, lambda result: self._come(kind, piece, x, y, result), 3)
        self.state.notify(f"{one.name} is reading ...")

    def read_size(self, expected_mm: float, came: Callable[[Reading | InstrumentFault], None]) -> str:
        """Callipers read a size that is being made, off the thread; what came is handed on. Says who reads."""
        one = self.source("callipers")
        if one is self._stand_ins.get("callipers"):
            one.hold_to(expected_mm)

        def work() -> object:
            try:
                return parse_line("callipers", one.line(), one.name, expected_mm)
            except InstrumentFault as fault:
                return fault

        self.state.background.start(work, lambda r: came(r) if isinstance(r, Reading | InstrumentFault) else None, 3)
        return f"{one.name} is reading"

    def _place(self, kind: str, piece: Piece) -> tuple[float, float]:
        """Where it is read: thickness at the next unread place by the plumb, all else at the plumb."""
        middle = sum(piece.extents[1::2]) / 2
        left = unread_places(piece) if kind == "callipers" else []
        if not left:
            return self.state.cursor_mm, middle
        return min(left, key=lambda place: (abs(place[0] - self.state.cursor_mm) > 30, left.index(place)))

    def _come(self, kind: str, piece: Piece, x: float, y: float, result: object) -> None:
        self.busy = False
        if isinstance(result, InstrumentFault):
            self.state.warn(str(result))
        elif kind == "climate":
            self._climate(str(result))
        elif isinstance(result, Reading) and self.state.piece is not None and self.state.piece.id == piece.id:
            self._keep(result, x, y)
        self.done.emit()

    def _pins_reach(self, piece: Piece) -> float:
        """How deep the pins read: their length, or the middle of wood that is thinner."""
        deep, thick = self.state.shop.kit.pin_depth_mm, piece.least_thickness_mm
        return deep if thick is None or thick > deep else round(thick / 2, 2)

    def _keep(self, reading: Reading, x: float, y: float) -> None:
        piece = self.state.piece
        if piece is None:
            return
        rows = piece.reading_grid[1] > 1
        words = {
            "callipers": f"{x:.1f} mm t {reading.value:.2f} mm" + (f" y {y:.1f}" if rows else ""), "moisture": f"{x:.1f} mm raw {reading.value:.1f} d {self._pins_reach(piece):g} mm",
            "scale": f"kg {reading.value:.3f}", "tap": f"tap {reading.value:.1f}" + _decay(reading.line),
        }[reading.kind]  # fmt: skip
        if reading.doubt:
            self.state.tape_by = reading.by
            self.state.tape_wanted.emit(words)
            self.state.warn(f"{reading.by}: {reading.doubt} Enter keeps {reading.value:g}, Esc drops it")
            return
        try:
            meaning = self.state.understand(words, by=reading.by)
        except BadEntry as fault:
            self.state.warn(str(fault))
            return
        self.state.keep_meaning(meaning)
        self.state.notify(f"kept: {meaning.gloss}, by {reading.by}")
        left = unread_places(self.state.piece) if self.state.piece and reading.kind == "callipers" else []
        if left:
            self.state.move_cursor(left[0][0])

    def _climate(self, line: str) -> None:
        """``20.3 C 46.0 %`` becomes the shop's climate."""
        by = self.source("climate").name
        try:
            air = parse_climate(line, by)
        except InstrumentFault as fault:
            self.state.warn(str(fault))
            return
        celsius, humidity = air.temperature_c, air.humidity
        kit = self.state.shop.kit.changed(temperature_c=round(celsius, 1), humidity=round(humidity, 3))
        reading = AirReading(
            at=now_on(self.state.today.isoformat(), self.state.shop.clock), temperature_c=celsius, humidity=humidity, by=by
        )
        self.state.log_air([reading])
        if self.state.keep("climate by the logger", kit):
            self.state.notify(f"this shop: {celsius:.1f} °C, {humidity:.0%}; wood settles at {kit.target_moisture_pct:.1f} %")

    def menu(self, parent: QWidget) -> QMenu:
        """Take an instrument in hand, zero it, or let a stand-in misbehave."""
        from grainet.instruments.stand_ins import FAULT_KINDS, FAULT_WORDS

        menu = QMenu(parent)
        menu.setObjectName("bench.menu")
        menu.addAction("Read now, F12", self.read_next)
        auto = menu.addAction("The one that is wanted next", lambda: self._take(""))
        auto.setCheckable(True)
        auto.setChecked(not self.in_hand)
        for kind in INSTRUMENT_KINDS:
            action = menu.addAction(LABELS[kind], _bound(self._take, kind))
            action.setCheckable(True)
            action.setChecked(self.in_hand == kind)
        menu.addSeparator()
        menu.addAction("Connect an instrument: the kit book", lambda: self.devices_wanted.emit())
        menu.addSeparator()
        for kind in INSTRUMENT_KINDS:
            if any(d.kind == kind for d in self.state.shop.kit.devices):
                continue
            own = menu.addMenu(f"{self.stand_in(kind).name}")
            own.addAction("Zero it", self.stand_in(kind).zero)
            for fault in FAULT_KINDS:
                action = own.addAction(FAULT_WORDS[fault], _bound(self._misbehave, kind, fault))
                action.setCheckable(True)
                action.setChecked(self.stand_in(kind).fault == fault)
        return menu

    def _take(self, kind: str) -> None:
        self.in_hand = kind
        self.done.emit()
        if kind:
            self.read_next()

    def _misbehave(self, kind: str, fault: str) -> None:
        self.stand_in(kind).fault = fault


def _bound(act: Callable[..., None], *values: object) -> Callable[[], None]:
    return lambda: act(*values)


def _decay(line: str) -> str:
    """The decay that a tap microphone adds to its tone, as the tape line's option."""
    found = re.search(r"\sD([\d.]+)\s*$", line)
    return f" d {float(found[1]):.3f}" if found else ""


def _expected(kind: str, piece: Piece, library: SpeciesLibrary) -> float | None:
    """About what a reading should be, from what is known already."""
    if kind == "callipers":
        read_before = piece.all_thicknesses_mm
        return sum(read_before) / len(read_before) if read_before else piece.nominal_thickness_mm or 30.0
    if kind == "scale" and piece.outline and piece.all_thicknesses_mm:
        x0, y0, x1, y1 = piece.extents
        species = library.find(piece.species)
        density = species.density_12_kg_m3 if species and species.density_12_kg_m3 else 600.0
        return (x1 - x0) * (y1 - y0) * (piece.least_thickness_mm or 0.0) / 1e9 * density
    return None
