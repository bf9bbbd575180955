"""The page of the machines: each by its name with what it does, takes and holds, and what all work takes beside them."""

from __future__ import annotations

from typing import Any

from PySide6.QtGui import QPainter
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.screens.shop_profile.figures import FiguresPage, Row, inner
from grainet.desk.screens.shop_profile.plain import SimplePage
from grainet.desk.screens.shop_profile.tables import Column, TableBlock, free_id
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton
from grainet.kit.machine import SAW_WORK, USUAL_WORK, Machine, MachineKind, Work, machine_for, read_work
from grainet.wood.value import Value

OWN_SAW = "Shipped as a guess: measure it on your own boards"
LOSS_ROWS: tuple[Row, ...] = (
    Row("Skim, each face", "Levelling takes", *inner("losses", "skim_mm"), 0, 20, why=OWN_SAW), Row("Skim, each sawn face", "Levelling takes", *inner("losses", "resaw_skim_mm"), 0, 20, why=OWN_SAW),
    Row("Edge, each long side", "Levelling takes", *inner("losses", "edge_mm"), 0, 50, why=OWN_SAW), Row("Trim, each end", "Levelling takes", *inner("losses", "trim_mm"), 0, 200, why="Snipe and end checks; look at your own ends"),
    Row("Margin all round", "Caution keeps", *inner("losses", "margin_mm"), 0, 50, why="Beside what the leaning saw asks for by itself"), Row("Clear of metal", "Caution keeps", *inner("losses", "metal_clear_mm"), 0, 200, why="Shipped judgement: a tooth must not meet what a detector only guessed"),
    Row("Cracks grow by", "Caution keeps", *inner("losses", "growth_mm"), 0, 200, why="Shipped judgement: a crack runs on beyond what one sees"),
    Row("Parts are sawn", "The shop", *inner("losses", "cutting"), choices=("outline", "straight"), why="outline: the band saw follows each part; straight: only cuts right across what is in hand"),
    Row("Longest rule", "The shop", *inner("rule_mm"), 50, 10_000, may_be_empty=True),
)  # fmt: skip


class WorkColumn(Column):
    """What a machine does, words parted by commas."""

    def read(self, text: str, style: Any) -> tuple[Work, ...]:
        """The works. Raises BadEntry."""
        return read_work(text)


def _limit(title: str, field: str, wide: int = 70) -> Column:
    return Column(title, field, "length", wide, may_be_empty=True)


COLUMNS: tuple[Column, ...] = (
    Column("Name", "name"), Column("Kind", "kind", "choice", 98, tuple(MachineKind)), WorkColumn("Does", "does", "words", 122), _limit("Kerf", "kerf_mm", 56),
    _limit("High", "highest_mm", 58), _limit("Wide", "widest_mm", 58), _limit("Shortest", "shortest_mm"), _limit("Thinnest", "thinnest_mm"), _limit("Deepest", "deepest_mm"),
    _limit("Bench", "bench_mm", 60), Column("Leans °", "lean_deg", "number", 64), Column("Wanders", "wander_mm", "length", 74),
)  # fmt: skip


class MachinesPage(SimplePage):
    """Machines in a table, losses and cautions below."""

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.machines = TableBlock(state, "kit.machines", COLUMNS, self.keep_kit("machines"), self._machine, self)
        self.losses = FiguresPage(state, LOSS_ROWS, ("Levelling takes", "Caution keeps", "The shop"), "", -14, 40)
        self.losses.setParent(self)
        self.first = WordButton(state, "Use it first", "", chalk=False, parent=self, name="kit.machines.first")
        self.first.setToolTip("Where several machines do the same work, the one that stands first does it")
        self.first.clicked.connect(self.use_first)

    def _machine(self, values: tuple[Value, ...]) -> Machine:
        kind = MachineKind.BAND_SAW
        return Machine(id=free_id(values, "machine"), name="New band saw", kind=kind, does=USUAL_WORK[kind])

    def use_first(self) -> None:
        """Put the chosen machine before the others, so that it does its work."""
        row, rows = self.machines.table.currentIndex().row(), self.machines.model.values
        if not 0 <= row < len(rows):
            self.state.warn("Choose the machine first.")
            return
        chosen = rows[row]
        turned = (chosen, *rows[:row], *rows[row + 1 :])
        if self.machines.keep(f"{chosen.name} first", turned):
            self.machines.model.set_values(turned)
            self.machines.table.setCurrentIndex(self.machines.model.index(0, 0))

    def fill(self) -> None:
        """Take over what the shop has."""
        self.machines.model.set_values(self.state.shop.kit.machines)
        self.losses.refresh()

    def place(self) -> None:
        """Put everything in its place."""
        foot = self.height() - 204
        flow.fill(self.machines, 0, 46, self.width(), foot - 6)
        flow.row([(self.first, 130)], 290, foot - 50)
        flow.fill(self.losses, 0, foot, self.width(), self.height())

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        theme, kit = self.state.theme, self.state.shop.kit
        p.fillRect(self.rect(), theme.bench)
        x = draw.text_at(p, 0, 18, "Machines", theme.ink, 16, 700) + 14
        draw.text_at(
            p, x, 18, "ochre is only guessed; an empty field is not known; each machine's own manual wins", theme.ink2, 14
        )
        draw.text_at(p, 0, 38, work_words(kit.machines), theme.ink2, 14, room=self.width())


def work_words(machines: tuple[Machine, ...]) -> str:
    """Which machine does which cut, or that none does."""
    found = []
    for work in SAW_WORK:
        machine = machine_for(machines, work)
        found.append(f"{work.value}: {machine.name.lower() if machine is not None else 'none'}")
    return "; ".join(found)
