"""The plain pages: clamps and glues, meters and air, house rules, the brief."""

from __future__ import annotations

from typing import Any

from PySide6.QtGui import QPainter, QPaintEvent, QResizeEvent, QShowEvent
from PySide6.QtWidgets import QComboBox, QLineEdit, QWidget
from typing_extensions import override

from grainet.design.brief import STATUSES, WORDS, Hardware, demands, held_roles
from grainet.desk.painting import draw
from grainet.desk.painting.tokens import font
from grainet.desk.screens.shop_profile.figures import FiguresPage, Row, inner
from grainet.desk.screens.shop_profile.tables import Column, TableBlock, free_id
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.kit.gluing import PRESSURE_KINDS, WORKING_FORCE_KN, Clamp, Glue
from grainet.kit.shop_profile import FREE_DAYS, ShopProfile
from grainet.kit.uses import use_of_role
from grainet.session.brief import with_brief
from grainet.wood.climate import MONTHS, recent_pct
from grainet.wood.meters import Correction, Meter
from grainet.wood.units import format_length
from grainet.wood.value import Value


def with_reach(kit: ShopProfile, mm: float) -> ShopProfile:
    """The reach of the meter in hand, and of readings that are typed."""
    meter = kit.meter.changed(reach_mm=mm)
    return kit.changed(pin_depth_mm=mm, meters=tuple(meter if m.id == meter.id else m for m in kit.meters))


AIR_ROWS: tuple[Row, ...] = (
    Row("Temperature", "The air the wood is dried to", *inner("temperature_c"), -20, 60, is_length=False, unit="°C", why="Shipped 20: a heated shop"),
    Row("Humidity", "The air the wood is dried to", lambda k: k.humidity * 100, lambda k, v: k.changed(humidity=v / 100), 5, 95, is_length=False, unit="%", why="Shipped 45: a middling year; your own log is better (Ctrl+Shift+P)"),
    Row("Meter pins reach", "The air the wood is dried to", lambda k: k.pin_depth_mm, with_reach, 1, 200, why="What a reading typed with mc is taken at; the meter in hand reaches as deep"),
)  # fmt: skip
GATES = ("block", "advise", "off")
MORNING, EVENING = (tuple(f"{h:02d}:{m:02d}" for h in hours for m in (0, 30)) for hours in (range(4, 12), range(12, 24)))
RULE_ROWS: tuple[Row, ...] = (
    Row("Ready within", "Moisture", *inner("rules", "ready_within_pct"), 0.1, 10, is_length=False, unit="% of the air's", why="Shipped 1: the forecast's own tolerance"),
    Row("Mating parts, warn over", "Moisture", *inner("rules", "gap_warns_pct"), 0.1, 10, is_length=False, unit="% apart", why="Shipped 2, the usual advice for glue lines"),
    Row("Mating parts, stop over", "Moisture", *inner("rules", "gap_blocks_pct"), 0.1, 20, is_length=False, unit="% apart", why="Shipped 3"),
    Row("Glue lines may move", "Moisture", *inner("rules", "most_movement_mm"), 0.05, 20, why="Over a year, one member against the other; shipped judgement"),
    Row("Still means within", "Rest", *inner("rules", "rest_within_mm"), 0.05, 10, why="About what shows as light under a rule"),
    Row("Still for", "Rest", *inner("rules", "rest_days"), 1, 365, is_length=False, unit="days"), Row("A moving neck piece", "Rest", *inner("rules", "rest_neck"), choices=GATES, why="A bent neck costs more than waiting"),
    Row("A moving fretboard", "Rest", *inner("rules", "rest_fretboard"), choices=GATES), Row("A moving body piece", "Rest", *inner("rules", "rest_body"), choices=GATES, why="Bodies forgive: advised only"),
    Row("Hands", "The bench", lambda k: k.hands, lambda k, v: k.changed(hands=int(v)), 1, 20, is_length=False, unit="people", why="Who work at one time"),
    Row("The day begins", "The bench", lambda k: k.hours[0], lambda k, v: k.changed(hours=(v, k.hours[1])), choices=MORNING, why="Hand work is put into these hours; glue cures by night"),
    Row("The day ends", "The bench", lambda k: k.hours[1], lambda k, v: k.changed(hours=(k.hours[0], v)), choices=EVENING, why="A step that does not fit before it begins in the morning"),
    Row("Free days", "The bench", *inner("free_days"), choices=tuple(FREE_DAYS), why="No hand work is put on them; glue and rests go on"),
    Row("Cavities under a top", "The bench", *inner("rules", "cavities"), choices=("before", "after"), why="Before it goes on, or through it afterwards: builders disagree"),
    Row("Pressure on a joint", "The bench", *inner("rules", "pressure_mpa"), 0, 3, is_length=False, unit="MPa, 0 by the wood", why="0.7 for faces, by the wood's density at edges"),
    Row("Clamps stay on", "The bench", *inner("rules", "clamp_time"), choices=("label", "two hours", "overnight", "a day"), why="At the least: as the glue's label says, or longer. Builders disagree; a joint is planed flush a day later anyhow"),
    Row("Middle of a joint", "The bench", *inner("rules", "hollow_mm"), 0, 2, is_length=False, unit="mm open, at 1000", why="In its middle; 0 is flat with no light. Its ends are closed in every school"),
    Row("One joint face takes", "The bench", *inner("rules", "seconds_a_face"), 1, 600, is_length=False, unit="seconds", why="To spread and close it: stages follow from it and the open time"), Row("Glue to a face", "The bench", *inner("rules", "spread_g_m2"), 1, 1000, is_length=False, unit="g/m²", why="Usual are 150 to 200"),
    Row("Stash after", "Keeping", *inner("rules", "stash_days"), 1, 10_000, is_length=False, unit="days"), Row("Suppliers stand out from", "Keeping", *inner("rules", "surprise_rate_pct"), 0, 100, is_length=False, unit="% hid something"),
    Row("Look at an edge after", "Keeping", *inner("rules", "dull_m"), 1, 100_000, is_length=False, unit="metres that count", why="Before dear or figured wood; silica counts five times, gum and dense wood half as much again. Shipped judgement"),
    Row("A knock weighs", "Keeping", *inner("rules", "tap_weight"), 0, 10, is_length=False, unit="0 leaves it out", why="Builders disagree whether it matters; recorded, weightless unless you say so"),
)  # fmt: skip
CLAMP_COLUMNS = (
    Column("Name", "name"), Column("Kind", "kind", "choice", 100, PRESSURE_KINDS), Column("Opens", "reach_mm", "length", 84), Column("kN", "force_kn", "number", 64),
)  # fmt: skip
GLUE_COLUMNS = (
    Column("Name", "name"), Column("Open, min", "open_min", "number", 84), Column("Closed, min", "closed_min", "number", 94), Column("Handle, h", "handling_h", "number", 84), Column("Machine, h", "machining_h", "number", 92),
    Column("Full, h", "full_h", "number", 70), Column("Least °C", "least_c", "number", 78), Column("Fills", "fills_gaps", "flag", 56), Column("Water", "water_based", "flag", 62), Column("Goes off", "expires", "text", 104),
)  # fmt: skip
METER_COLUMNS = (
    Column("Name", "name"), Column("Kind", "kind", "choice", 90, ("pin", "pinless")), Column("Reaches", "reach_mm", "length", 80), Column("Set to SG", "set_to_sg", "number", 90),
)  # fmt: skip
CORRECTION_COLUMNS = (
    Column("Species", "species"),
    Column("Offset", "offset", "number", 80),
    Column("Slope", "slope", "number", 80),
)
MONTH_COLUMNS = (Column("°C", "temperature_c", "number", 90), Column("Humidity, %", "humidity", "percent", 100))


class Counted(Column):
    """A column of whole numbers."""

    def read(self, text: str, style: Any) -> int:
        """A whole number. Raises BadEntry."""
        return int(super().read(text, style))


class SimplePage(QWidget):
    """A page that paints words over its tables."""

    def __init__(self, state: State) -> None:
        super().__init__()
        self.state = state
        state.changed.connect(self.refresh)

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if self.isVisible():
            self.fill()
            self.update()

    def fill(self) -> None:
        """Bring the tables up to date."""

    def keep_kit(self, field: str) -> Any:
        """A writer of a tuple field of the kit."""

        def keep(label: str, values: tuple[Value, ...]) -> bool:
            return self.state.keep(f"kit: {label}", self.state.shop.kit.changed(**{field: values}))

        return keep

    @override
    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.place()

    def place(self) -> None:
        """Lay the tables out."""


class GluingPage(SimplePage):
    """Clamps and glues."""

    def __init__(self, state: State) -> None:
        super().__init__(state)
        columns = (*CLAMP_COLUMNS, Counted("How many", "count", "number", 90))
        self.clamps = TableBlock(state, "kit.clamps", columns, self.keep_kit("clamps"), self._clamp, self)
        self.glues = TableBlock(state, "kit.glues", GLUE_COLUMNS, self.keep_kit("glues"), self._glue, self)
        self.use = QComboBox(self)
        self.use.setObjectName("kit.glueInUse")
        self.use.setAccessibleName("The glue in use")
        self.use.setFont(font(15, 600))
        self.use.activated.connect(self._choose)

    def _clamp(self, values: tuple[Value, ...]) -> Clamp:
        return Clamp(
            id=free_id(values, "clamp"), name="New clamps", kind="bar", reach_mm=600, force_kn=WORKING_FORCE_KN["bar"], count=1
        )

    def _glue(self, values: tuple[Value, ...]) -> Glue:
        return Glue(
            id=free_id(values, "glue"), name="New glue", open_min=5, handling_h=1, machining_h=12, full_h=24, source="this shop"
        )

    def _choose(self, k: int) -> None:
        kit = self.state.shop.kit
        if self.use.itemData(k) != kit.glue_in_use:
            self.state.keep(f"glue in use: {self.use.itemText(k)}", kit.changed(glue_in_use=self.use.itemData(k)))

    def fill(self) -> None:
        """Take over what the shop has."""
        kit = self.state.shop.kit
        self.clamps.model.set_values(kit.clamps)
        self.glues.model.set_values(kit.glues)
        if [self.use.itemData(k) for k in range(self.use.count())] != [g.id for g in kit.glues]:
            self.use.clear()
            for glue in kit.glues:
                self.use.addItem(glue.name, glue.id)
        self.use.setCurrentIndex(max(0, self.use.findData(kit.glue_in_use)))

    def place(self) -> None:
        """Put everything in its place."""
        half = (self.height() - 76) // 2
        flow.fill(self.clamps, 0, 28, self.width(), half - 6)
        flow.fill(self.glues, 0, half + 50, self.width(), self.height() - 6)
        flow.row_to_right([(self.use, 230)], self.width(), half + 6, high=38)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        draw.text_at(p, 0, 18, "Clamps and other pressure", theme.ink, 16, 700)
        y = self.use.geometry().bottom() - 10
        x = draw.text_at(p, 0, y, "Glues", theme.ink, 16, 700) + 14
        today = self.state.today.isoformat()
        stale = [g.name for g in self.state.shop.kit.glues if g.stale(today)]
        words = f"gone off: {', '.join(stale)}" if stale else "usual times at 20 °C; the label in hand wins"
        draw.text_at(p, x, y, words, theme.wine if stale else theme.ink2, 14)
        draw.text_at(p, self.width() - 300, y, "in use", theme.ink2, 14)


class MetersPage(SimplePage):
    """Meters with their correction tables, and the year of air."""

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.figures = FiguresPage(state, AIR_ROWS, ("The air the wood is dried to",), "", -8)
        self.figures.setParent(self)
        self.meters = TableBlock(state, "kit.meters", METER_COLUMNS, self.keep_kit("meters"), self._meter, self)
        self.corrections = TableBlock(
            state, "kit.corrections", CORRECTION_COLUMNS, self._keep_corrections, self._correction, self
        )
        self.months = TableBlock(state, "kit.months", MONTH_COLUMNS, self.keep_kit("year"), None, self)
        self.months.model.names = MONTHS
        self.months.table.verticalHeader().setVisible(True)
        self.months.table.verticalHeader().setDefaultSectionSize(24)
        self.months.table.setFont(font(14, 500))
        self.hand = QComboBox(self)
        self.hand.setObjectName("kit.meterInHand")
        self.hand.setAccessibleName("The meter in hand")
        self.hand.setFont(font(15, 600))
        self.hand.activated.connect(self._choose)

    def _meter(self, values: tuple[Value, ...]) -> Meter:
        return Meter(id=free_id(values, "meter"), name="New meter", source="this shop")

    def _correction(self, _values: tuple[Value, ...]) -> Correction:
        piece = self.state.piece
        return Correction(species=piece.species if piece and piece.species != "unknown" else "European ash")

    def _keep_corrections(self, label: str, values: tuple[Value, ...]) -> bool:
        kit = self.state.shop.kit
        known = [kit.library.find(v.species) for v in values]
        if None in known:
            lost = values[known.index(None)].species
            self.state.warn(f"“{lost}” is not in the species library; a correction needs a species of it.")
            return False
        meter = kit.meter.changed(corrections=values)
        return self.state.keep(
            f"{meter.name}: {label}", kit.changed(meters=tuple(meter if m.id == meter.id else m for m in kit.meters))
        )

    def _choose(self, k: int) -> None:
        kit = self.state.shop.kit
        if self.hand.itemData(k) != kit.meter_in_hand:
            new = kit.changed(meter_in_hand=self.hand.itemData(k))
            self.state.keep(f"meter in hand: {self.hand.itemText(k)}", with_reach(new, new.meter.reach_mm))

    def fill(self) -> None:
        """Take over what the shop has."""
        kit = self.state.shop.kit
        self.meters.model.set_values(kit.meters)
        self.corrections.model.set_values(kit.meter.corrections)
        self.months.model.set_values(kit.year)
        if [self.hand.itemText(k) for k in range(self.hand.count())] != [m.name for m in kit.meters]:
            self.hand.clear()
            for meter in kit.meters:
                self.hand.addItem(meter.name, meter.id)
        self.hand.setCurrentIndex(max(0, self.hand.findData(kit.meter_in_hand)))
        self.figures.refresh()

    def place(self) -> None:
        """Put everything in its place."""
        left = int(self.width() * 0.62)
        flow.fill(self.meters, 0, 28, left - 30, 218)
        flow.row_to_right([(self.hand, 220)], left - 30, 230, high=38)
        flow.fill(self.corrections, 0, 276, left - 30, self.height() - 6)
        flow.fill(self.figures, left, 0, self.width(), 190)
        flow.fill(self.months, left, 268, self.width(), self.height() - 6)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        theme, kit = self.state.theme, self.state.shop.kit
        p.fillRect(self.rect(), theme.bench)
        left = int(self.width() * 0.62)
        draw.text_at(p, 0, 18, "Meters", theme.ink, 16, 700)
        draw.text_at(p, 0, 256, f"Corrections of the {kit.meter.name.lower()}", theme.ink, 16, 700, room=left - 290)
        draw.text_at(p, left - 310, 254, "in hand", theme.ink2, 14)
        draw.text_at(p, left, 218, f"wood in this air settles at {kit.target_moisture_pct:.1f} %", theme.ochre, 15, 600)
        draw.text_at(p, left, 256, "A year of air, where nothing was logged", theme.ink, 16, 700)
        logged = [m[:3] for m, yes in zip(MONTHS, self.state.shop.air.year.logged) if yes]
        recent = recent_pct(self.state.shop.air.readings)
        words = f"logged: {', '.join(logged)}" if len(logged) < 12 else "every month is logged (Ctrl+Shift+P)"
        words += f"; the last four weeks: {recent:.1f} %" if recent is not None else ""
        draw.text_at(
            p,
            left,
            236,
            words if logged else "nothing logged yet: air 20.5 46, or Ctrl+Shift+P",
            theme.ink2,
            13,
            room=self.width() - left,
        )


class RulesPage(FiguresPage):
    """House rules, and the house's own words for figure."""

    def __init__(self, state: State) -> None:
        super().__init__(
            state,
            RULE_ROWS,
            ("Moisture", "Rest", "Keeping", "The bench"),
            "what this house holds to; each rule says on its tip where the shipped figure comes from",
        )
        self.words = self._scale("kit.FigureWords", "House words for figure, weakest first", "figure_words", "figure is called")
        self.ranks = self._scale(
            "kit.RankWords", "House words for how well a piece suits a use, lowest first", "rank_words", "pieces are called"
        )

    def _scale(self, name: str, words: str, field: str, message: str) -> QLineEdit:
        line = QLineEdit(self)
        line.setObjectName(name)
        line.setFont(font(15, 500))
        line.setAccessibleName(words)
        line.setToolTip(f"{words}, parted by commas; Enter keeps it. The measured facts stand beside it.")
        line.editingFinished.connect(lambda: self._keep_scale(line, field, message))
        return line

    def _keep_scale(self, line: QLineEdit, field: str, message: str) -> None:
        """Keep one of the house's own scales; a sentence says what cannot be used."""
        kit = self.state.shop.kit
        kept: tuple[str, ...] = getattr(kit, field)
        found = tuple(w.strip().lower() for w in line.text().split(",") if w.strip())
        if found == kept:
            return
        if not 2 <= len(found) <= 9 or len(set(found)) != len(found) or any(" " in w or len(w) > 20 for w in found):
            line.setText(", ".join(kept))
            self.state.warn("House words want two to nine different single words, weakest first, parted by commas.")
            return
        if self.state.keep(f"house words: {', '.join(found)}", kit.changed(**{field: found})):
            self.state.notify(f"{message} {', '.join(found)} here now")

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        super().refresh()
        if not self.isVisible():
            return
        for line, y, field in ((self.words, 400, "figure_words"), (self.ranks, 480, "rank_words")):
            flow.row([(line, self.width() * 0.6)], 0, y, high=38)
            if not line.hasFocus():
                line.setText(", ".join(getattr(self.state.shop.kit, field)))

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        with QPainter(self) as p:
            for line in (self.words, self.ranks):
                draw.text_at(p, 0, line.geometry().top() - 12, line.accessibleName(), self.state.theme.ink, 16, 700)


class BriefPage(SimplePage):
    """The brief of the build in hand: what its bought parts measure, how sure that is, and what it makes of the blanks."""

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.design = QComboBox(self)
        self.design.setObjectName("kit.briefOf")
        self.design.setAccessibleName("The build")
        self.design.setFont(font(16, 600))
        self.design.activated.connect(lambda k: state.choose_design(self.design.itemData(k)))
        columns = (
            Column("Bought part", "kind", "choice", 240, tuple(WORDS), tuple(words for words, _ in WORDS.values())),
            Column("mm", "mm", "length", 110),
            Column("How sure", "status", "choice", 140, STATUSES),
        )
        self.table = TableBlock(state, "kit.brief", columns, self._keep, self._hardware, self)

    def _hardware(self, values: tuple[Value, ...]) -> Hardware:
        taken = {v.kind for v in values}
        kind = next((k for k in WORDS if k not in taken), "cavity_depth")
        return Hardware(kind=kind, mm=10.0, status="guessed")

    def _keep(self, label: str, values: tuple[Value, ...]) -> bool:
        design = self.state.design
        kinds = [v.kind for v in values]
        if len(set(kinds)) != len(kinds):
            self.state.warn("That part stands in the brief already.")
            return False
        return design is not None and self.state.keep_brief(
            design, label, lambda: with_brief(self.state.shop, design, tuple(v for v in values if isinstance(v, Hardware)))
        )

    def fill(self) -> None:
        """Take over what the shop has."""
        designs = self.state.shop.designs()
        if [self.design.itemData(k) for k in range(self.design.count())] != [d.id for d in designs]:
            self.design.clear()
            for one in designs:
                self.design.addItem(one.name, one.id)
        self.design.setCurrentIndex(max(0, self.design.findData(self.state.design_id)))
        self.table.model.set_values(self.state.design.brief if self.state.design else ())

    def place(self) -> None:
        """Put everything in its place."""
        flow.row([(self.design, 240)], 70, 0, high=40)
        flow.fill(self.table, 0, 56, self.width() * 0.52, self.height() - 6)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        draw.text_at(p, 0, 27, "Build", theme.ink, 16, 700)
        design = self.state.design
        x, y = int(self.width() * 0.52) + 36, 76
        draw.text_at(p, x, y, "What it makes of the blanks", theme.ink, 16, 700)
        if design is None:
            draw.text_at(p, x, y + 28, "There is no build yet.", theme.ink2, 15)
            return
        style = self.state.shop.kit.length_style
        for one in demands(design.brief):
            y += 44
            figure = format_length(one.least_mm, style)
            draw.text_at(p, x, y, one.what, theme.ink, 15, 600)
            draw.text_at(
                p, self.width() - draw.text_width(figure, 19, 600, figures=True), y, figure, theme.ink, 19, 600, figures=True
            )
            words = one.sum_text + (f"; only guessed: {', '.join(one.guessed).lower()}" if one.guessed else "")
            draw.text_at(p, x, y + 18, words, theme.ochre if one.guessed else theme.ink2, 13.5, room=self.width() - x - 10)
        y += 52
        for text, caution in self._warnings(design):
            draw.text_at(p, x, y, text, theme.wine if caution else theme.ochre, 14, 600, room=self.width() - x)
            y += 22

    def _warnings(self, design: Any) -> list[tuple[str, bool]]:
        from grainet.design.brief import falls_short

        found = []
        for part in design.parts:
            if short := falls_short(design.brief, use_of_role(part.role) or part.role, part.thickness_mm):
                found.append((f"{part.shown_name}: {short}", True))
        names = {name for names in held_roles(design.brief).values() for name in names}
        found += [(f"cuts wait until {name} is measured or ordered", False) for name in sorted(names)]
        return found
