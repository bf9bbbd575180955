"""All builds on one calendar: shared hands, hours and clamps; when each is finished, what is done today, what one more hand would change."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from functools import cached_property
from typing import TYPE_CHECKING

from grainet.kit.shop_profile import FREE_DAYS
from grainet.session.making import AtTheBench, at_the_bench, called, said
from grainet.session.shop import Shop
from grainet.wood.units import format_mark
from grainet.work.operation import Entry, Operation

if TYPE_CHECKING:
    from grainet.exchange.bench_sheets import SheetRow
    from grainet.exchange.ics_file import Event


TIMES = {2: "twice", 3: "three times"}
SAID_ONCE = ("extraction", "router_feed")  # at the head of a day's sheet, not at every step


@dataclass(frozen=True)
class Dated:
    """One operation on the calendar: of which plan and instrument, from when to when, and when its wait is over."""

    bench: AtTheBench
    operation: Operation
    name: str
    starts: datetime
    ends: datetime

    @property
    def over(self) -> datetime:
        """When its wait is over too."""
        return self.ends + timedelta(minutes=self.operation.wait_minutes)


@dataclass(frozen=True)
class WhatIf:
    """What one change would do: its words, and how many days sooner everything is done."""

    words: str
    days: float


@dataclass(frozen=True)
class Days:
    """Everything that is left, on days."""

    now: datetime
    rows: tuple[Dated, ...]
    what_ifs: tuple[WhatIf, ...] = ()

    @cached_property
    def finish(self) -> dict[str, datetime]:
        """When each instrument is done, waits counted."""
        found: dict[str, datetime] = {}
        for row in self.rows:
            found[row.name] = max(found.get(row.name, row.over), row.over)
        return found

    def on(self, day: date) -> list[Dated]:
        """What is done on a day, in order."""
        return [r for r in self.rows if r.starts.date() == day]

    def long_on(self, day: date) -> list[Dated]:
        """What is begun on a day so that nothing waits for it later: the long waits."""
        return [r for r in self.on(day) if r.operation.is_long]


def days_of(shop: Shop, *, quick: bool = False) -> Days:
    """The calendar of every accepted plan from now on: ``quick`` is the list schedule, which is there at once; else as short as a solver's
    budget makes it, with what one change would do."""
    benches = [b for u in shop.plans.accepted() if (b := at_the_bench(shop, u.id)) is not None and b.left]
    now = shop.clock()
    entries = _scheduled(benches, now, shop.kit.hands, shop.kit.hours, FREE_DAYS[shop.kit.free_days], quick=quick)
    names = {d.id: d.name for d in shop.designs()}
    of = {o.id: (b, o) for b in benches for o in b.left}
    rows = tuple(
        Dated(of[e.operation][0], of[e.operation][1], _name(of[e.operation], names), datetime.fromisoformat(e.starts), datetime.fromisoformat(e.ends))
        for e in entries
    )  # fmt: skip
    found = Days(now, rows)
    return Days(now, rows, tuple(_what_ifs(shop, benches, found))) if rows and not quick else found


def _name(row: tuple[AtTheBench, Operation], names: dict[str, str]) -> str:
    """The instrument that an operation is for; a board that several share is its plan's first."""
    bench, one = row
    build = one.board if one.board in bench.under_way.designs else bench.under_way.designs[0]
    return names.get(build, build)


def _scheduled(
    benches: Sequence[AtTheBench], now: datetime, hands: int, hours: tuple[str, str], free: Collection[int], *, clamps: bool = True, quick: bool = False
) -> list[Entry]:  # fmt: skip
    from grainet.work.best_days import best_days
    from grainet.work.schedule import schedule

    operations = [o if clamps else o.changed(clamps=()) for b in benches for o in b.left]
    rules = [t for b in benches for t in b.making.rules]
    since = {o.id: t for b in benches for o in b.making.operations if (t := b.over_at(o)) is not None}
    busy = {clamp: t for b in benches for clamp, t in b.busy_clamps.items()} if clamps else {}
    return (schedule if quick else best_days)(operations, rules, now, hands, hours, since, busy, free)


def _what_ifs(shop: Shop, benches: Sequence[AtTheBench], found: Days) -> list[WhatIf]:
    """One more hand, clamps enough for every joint at once, an hour more each day: how much sooner."""
    waits = {o.id: o.wait_minutes for b in benches for o in b.left}

    def done(entries: Sequence[Entry]) -> datetime:
        return max(datetime.fromisoformat(e.ends) + timedelta(minutes=waits[e.operation]) for e in entries)

    hours, hands, now, free = shop.kit.hours, shop.kit.hands, found.now, FREE_DAYS[shop.kit.free_days]
    later = min(23, int(hours[1][:2]) + 1)
    longer = (hours[0], f"{later:02d}{hours[1][2:]}")
    last = max(found.finish.values())
    tries = (
        ("one more hand", _scheduled(benches, now, hands + 1, hours, free)),
        ("clamps enough for every joint at once", _scheduled(benches, now, hands, hours, free, clamps=False)),
        ("an hour more each day", _scheduled(benches, now, hands, longer, free)),
    )
    # with more of anything the same days can still be kept, so what the solver found in its budget counts only where it is sooner
    return [WhatIf(words, max(0.0, (last - done(entries)).total_seconds() / 86400)) for words, entries in tries]


# on paper, and in a person's own calendar ---------------------------------------------------------------------------------
def day_rows(days: Days, day: date) -> list[SheetRow]:
    """A day's work as rows of a sheet, by instrument; a caution that is to be agreed to stands once above, by a letter, and its letter at every
    step that it is for."""
    from grainet.exchange.bench_sheets import SheetRow

    grave = {
        r.operation.id: [c.text for c in r.operation.cautions if c.grade == "A" and c.code not in SAID_ONCE] for r in days.on(day)
    }
    letters = {text: _letter(k) for k, text in enumerate(dict.fromkeys(text for texts in grave.values() for text in texts))}
    found = [SheetRow(head="Mind")] if letters else []
    found += [SheetRow(note=f"!{letter} {text}") for text, letter in letters.items()]
    for name in dict.fromkeys(r.name for r in days.on(day)):
        found.append(SheetRow(head=name))
        for row in (r for r in days.on(day) if r.name == name):
            one = row.operation
            mind = " ".join(f"!{letters[text]}" for text in grave[one.id])
            wait = f"then {one.wait_minutes / 60:.3g} h" if one.is_long else ""
            right = ", ".join(words for words in (mind, one.machine.partition(",")[0], wait) if words)
            found.append(SheetRow(number=f"{row.starts:%H:%M}", text=said(one), right=right, caution=_set_aside(row.bench, one)))
    return found


def _set_aside(bench: AtTheBench, one: Operation) -> str:
    """The rules that a person set aside for a step, each with its reason; empty where none was."""
    aside = dict.fromkeys(f"{t.rule}: set aside, {t.over}" for t in bench.making.rules if t.after == one.id and t.over)
    return "; ".join(aside)


def _letter(k: int) -> str:
    """a, b ... z, then aa, ab ..."""
    return (_letter(k // 26 - 1) if k >= 26 else "") + chr(ord("a") + k % 26)


def batch_rows(days: Days) -> list[SheetRow]:
    """What is left by machine, and under each by its setting, so that one setting is made once."""
    from grainet.exchange.bench_sheets import SheetRow

    found: list[SheetRow] = []
    by: dict[str, list[Dated]] = {}
    for row in days.rows:
        if row.operation.machine:
            by.setdefault(row.operation.machine, []).append(row)
    for machine in sorted(by):
        found.append(SheetRow(head=machine[:1].upper() + machine[1:]))
        for setting, rows in _by_setting(by[machine]).items():
            counts = Counter(called(w) for r in rows for w in r.operation.works_on)
            pieces = ", ".join(
                name if count == 1 else f"{name} {TIMES.get(count, f'{count} times')}" for name, count in counts.items()
            )
            found.append(
                SheetRow(
                    number=setting,
                    text=f"{rows[0].operation.kind}: {pieces}",
                    right=", ".join(dict.fromkeys(r.name for r in rows)),
                )
            )
    return found


def _by_setting(rows: Sequence[Dated]) -> dict[str, list[Dated]]:
    """Rows by what the machine is set to, in the house's own lengths, the smallest first; those without a setting before them."""
    found: dict[float, list[Dated]] = {}
    for row in rows:
        told = row.operation.settings
        mm = next((round(float(told[k]), 1) for k in ("thickness_mm", "fence_mm", "stop_mm", "depth_mm") if k in told), -1.0)
        found.setdefault(mm, []).append(row)
    named: dict[str, list[Dated]] = {}
    for mm, some in sorted(found.items()):
        name = format_mark(mm, some[0].bench.shop.kit.length_style) if mm >= 0 else ""
        named.setdefault(name, []).extend(some)
    return named


def events_of(days: Days) -> list[Event]:
    """For a person's own calendar: each day's work as one event, and each time that clamps come off or a wait is over."""
    from grainet.exchange.ics_file import Event

    found: list[Event] = []
    for day in dict.fromkeys(r.starts.date() for r in days.rows):
        some = days.on(day)
        names = ", ".join(dict.fromkeys(r.name for r in some))
        told = "\n".join(f"{r.starts:%H:%M} {r.name}: {said(r.operation)}" for r in some)
        found.append(
            Event(
                min(r.starts for r in some),
                max(r.ends for r in some),
                f"Bench: {names}, {len(some)} {'step' if len(some) == 1 else 'steps'}",
                f"day {day}",
                told,
            )
        )
    for row in days.rows:
        if row.operation.is_long or row.operation.kind == "cure":
            what = "clamps off" if row.operation.kind == "cure" else "rested"
            piece = ", ".join(called(w) for w in row.operation.works_on)
            found.append(
                Event(
                    row.over,
                    row.over + timedelta(minutes=5),
                    f"{row.name}: {what}, {piece}",
                    f"{row.bench.under_way.id} {row.operation.id}",
                )
            )
    return found
