"""Which machine takes a piece of a size, and the legal ways where none does. A way that is chosen rewrites the operation; no way ever takes a
guard off.

Where no machine takes the piece the work goes to the hand plane until a person chooses another way.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from grainet.kit.machine import Machine, MachineKind, Stuff, Work, refusals
from grainet.work.bench import Bench
from grainet.work.operation import Said
from grainet.work.other_ways import AWAY, BY_HAND, CARRIER, OVER, PIECES, PRESSED, SLED, WAYS
from grainet.work.step_cautions import cautions_at

HAND = "hand plane"
USUAL: dict[Work, str] = {Work.FACE: "planer", Work.THICKNESS: "thicknesser", Work.ROUT: "router"}
WORK_OF: dict[str, Work] = {"flatten": Work.FACE, "joint": Work.FACE, "shoot": Work.FACE, "thickness": Work.THICKNESS}
Size = tuple[float, float, float]

TURNED = "from both faces: turn it over, the bearing rides on the first pass"
# how much longer it takes than a pass through the machine
EXTRA_MIN: dict[str, float] = {CARRIER: 10.0, SLED: 6.0, OVER: 25.0, BY_HAND: 0.0, AWAY: 60.0}


@dataclass(frozen=True)
class Able:
    """Who does it: the machine's name and kind, what to say with it, and the ways that can be chosen where it is not the usual machine."""

    machine: str
    kind: str
    cautions: tuple[Said, ...] = ()
    ways: tuple[str, ...] = ()

    @property
    def settings(self) -> dict[str, Any]:
        """As an operation carries it."""
        return {"ways": list(self.ways)} if self.ways else {}


def able(bench: Bench, work: Work, size: Size) -> Able:
    """The first machine that takes a piece of a size; else the hand plane, with the other ways."""
    stuff = Stuff(*size)
    some = [m for m in bench.machines if work in m.does]
    fitting = next((m for m in some if not refusals([m], work, stuff)), None)
    if fitting is not None:
        return Able(fitting.name.lower(), fitting.kind.value, cautions_at("", fitting.kind.value, (), size, fitting.shortest_mm))
    if not some:
        return Able(USUAL[work], USUAL[work])
    why = "; ".join(refusals(some, work, stuff, bench.style))
    ways, words = ways_round(some[0], work, size)
    text = f"{why[:1].upper()}{why[1:]}. Ways: {', '.join(words)}."
    return Able(HAND, HAND, (Said(code="beyond_machine", grade="B", text=text),), ways)


def ways_round(machine: Machine, work: Work, size: Size) -> tuple[tuple[str, ...], list[str]]:
    """What can be done legally where a machine does not take a piece: the ways that can be chosen, and all of them in words. Ripping first and
    planing before it is cut to length are the plan's to change, so they are only said."""
    long, wide, thick = size
    ways: list[str] = []
    words: list[str] = []

    def add(way: str) -> None:
        ways.append(way)
        words.append(WAYS[way])

    if work is Work.ROUT and machine.deepest_mm is not None and thick > machine.deepest_mm:
        return (), [TURNED, "the rest by hand"]  # done so anyhow
    if machine.shortest_mm is not None and long < machine.shortest_mm:
        add(CARRIER)
        words.append("before it is cut to length")
    too_wide = machine.widest_mm is not None and wide > machine.widest_mm
    if too_wide:
        words.append("ripped and joined again after planing")
        add(PIECES)
        add(OVER)
    if machine.thinnest_mm is not None and thick < machine.thinnest_mm:
        add(SLED)
    add(BY_HAND)
    if too_wide:
        add(AWAY)
    else:
        words.append("another shop")
    return tuple(ways), words


def another_way(bench: Bench, kind: str, way: str, told: Mapping[str, Any]) -> dict[str, Any]:
    """What is told of an operation, done in a way that was chosen for it: machine, minutes, words, cautions of that machine."""
    if way in PRESSED or way not in told.get("settings", {}).get("ways", ()):
        return dict(told)
    machine, machine_kind = _machine(bench, kind, way, told)
    usual = cautions_at("", machine_kind, (), None, None)
    kept = tuple(s.changed(text=s.text.partition(" Ways:")[0]) if s.code == "beyond_machine" else s for s in told["cautions"])
    return {
        **told,
        "machine": machine,
        "machine_kind": machine_kind,
        "minutes": _minutes(way, told),
        "cautions": (*usual, *kept),
        "settings": {**told["settings"], "way": way},
        "text": f"{told['text']}; {WAYS[way]}",
    }


def _machine(bench: Bench, kind: str, way: str, told: Mapping[str, Any]) -> tuple[str, str]:
    """The name and the kind of what a way is done with."""
    if way in (CARRIER, SLED):
        work = Work.THICKNESS if way == SLED else WORK_OF[kind]
        one = next((m for m in bench.machines if work in m.does), None)
        return (one.name.lower(), one.kind.value) if one is not None else (USUAL[work], USUAL[work])
    if way == OVER:
        one = next((m for m in bench.machines if m.kind is MachineKind.ROUTER), None)
        return (one.name.lower() if one is not None else "router"), "router"
    return ("another shop", "") if way == AWAY else (told["machine"], told["machine_kind"])


def _minutes(way: str, told: Mapping[str, Any]) -> float:
    """A machine's pass instead of the hand plane's, and what the way adds to it."""
    base = told["minutes"] if way == BY_HAND else min(told["minutes"], 5.0)
    return float(base + EXTRA_MIN.get(way, 0.0))
