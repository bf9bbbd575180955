"""Rough treatment for a given time, one line each: programs killed in mid-edit, lines and files bent out of shape, a window used at random.

    ./run stress            120 seconds, shared by the four
    ./run stress 1200 soak  one of kills, lines, files, soak for so many seconds

What went wrong is printed with the seed that does it again, and the exit code is 1.
"""

from __future__ import annotations

import io
import json
import math
import os
import random
import shutil
import signal
import struct
import subprocess
import sys
import tempfile
import time
import traceback
import wave
from collections.abc import Callable, Iterator
from pathlib import Path
from types import TracebackType
from typing import Any

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
HERE = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(HERE))
sys.path.insert(0, str(HERE / "tools"))

EDITOR = """
import random, sys
from pathlib import Path
from grainet.session.shop import Shop
shop, r = Shop.open(Path(sys.argv[1])), random.Random(int(sys.argv[2]))
print("ready", flush=True)

def told(number, kg, act):
    print("begin", number, kg, flush=True)
    act()
    print("kept", number, kg, flush=True)

while True:
    number = r.choice(shop.pieces()).id
    old, kg = shop.piece(number).mass_kg, round(r.uniform(0.5, 40), 3)
    told(number, kg, lambda: shop.apply(f"{number} weighed", shop.piece(number).changed(mass_kg=kg)))
    if r.random() < 0.2:
        told(number, old, shop.undo)
        told(number, kg, shop.redo)
"""


def lost(before: dict[str, str], words: list[list[str]], found: dict[str, str]) -> list[str]:
    """What is not there of all that was said to be kept: only the one act that was begun and not yet told may be there or not."""
    wanted, begun = dict(before), ("", "")
    for word, number, kg in (w for w in words if len(w) == 3):
        if word == "kept":
            wanted[number], begun = kg, ("", "")
        else:
            begun = (number, kg)
    return [
        f"No. {number} has {found.get(number)}, {kg} was said to be kept"
        for number, kg in wanted.items()
        if found.get(number) != kg and (number, found.get(number)) != begun
    ]


class Told:
    """Counts what was done and what went wrong, and says it in one line."""

    def __init__(self, name: str) -> None:
        self.name, self.done, self.faults = name, 0, 0
        self.began = time.monotonic()

    def wrong(self, what: str) -> None:
        self.faults += 1
        print(f"  {self.name}: {what}", flush=True)

    def line(self, more: str = "") -> None:
        took = time.monotonic() - self.began
        print(f"{self.name:<7}{self.done:7d} in {took:6.1f} s, {self.faults} went wrong{'; ' + more if more else ''}", flush=True)


def kills(seconds: float, seed: int) -> Told:
    """A program that edits a shop is killed at some moment; whatever it said was kept must be there, and the history whole."""
    from grainet.demo.make import make_demo
    from grainet.session.shop import Shop

    told, r = Told("kills"), random.Random(seed)
    with tempfile.TemporaryDirectory() as scratch:
        folder = Path(scratch) / "Killed.grainet"
        with make_demo(folder) as shop:
            before = {p.id: str(p.mass_kg) for p in shop.pieces()}
        while time.monotonic() - told.began < seconds:
            told.done += 1
            step = r.randrange(2**31)
            child = subprocess.Popen([sys.executable, "-c", EDITOR, str(folder), str(step)], stdout=subprocess.PIPE, text=True)
            assert child.stdout is not None
            child.stdout.readline()
            time.sleep(r.uniform(0, 0.3))
            os.kill(child.pid, signal.SIGKILL)
            words = [line.split() for line in child.stdout.read().splitlines()]
            child.wait()
            with Shop.open(folder) as shop:
                if shop.items.look_through():
                    told.wrong(f"seed {step}: set aside: {shop.items.set_aside[0].message}")
                found = {p.id: str(p.mass_kg) for p in shop.pieces()}
            for what in lost(before, words, found):
                told.wrong(f"seed {step}: {what}")
            before = found
    told.line()
    return told


def bent_text(text: str, r: random.Random) -> str:
    """A text with some letters dropped, doubled, swapped or odd."""
    letters = list(text)
    for _ in range(r.randint(0, 3)):
        at = r.randint(0, len(letters))
        act = r.randrange(4)
        if act == 0 and at < len(letters):
            del letters[at]
        elif act == 1:
            letters.insert(at, r.choice("0123456789.,-+x×½²'\"°%!?#@ \t\0ßæ٣①e"))
        elif act == 2 and at < len(letters):
            letters[at] = r.choice("0123456789.,-xX kgmcin/")
        else:
            letters[at:at] = letters[: r.randint(0, 4)]
    return "".join(letters)


def lines(seconds: float, seed: int) -> Told:
    """Bent lines at the tape: a meaning whose pieces read back as they are, or a sentence."""
    from pydantic import ValidationError

    from grainet.demo.rack import rack
    from grainet.session.commands.line import read
    from grainet.session.commands.word_list import WORD_LIST
    from grainet.wood.piece import Piece
    from grainet.wood.units import LENGTH_STYLES
    from grainet.wood.value import BadEntry

    told, r = Told("lines"), random.Random(seed)
    pieces = [Piece(id="1"), *rack()]
    examples = [one.example for one in WORD_LIST]
    while time.monotonic() - told.began < seconds:
        told.done += 1
        line = bent_text(" ".join(r.choice(examples) for _ in range(r.choice((1, 1, 1, 2)))), r)
        try:
            found = read(line, r.choice(pieces), r.choice((0.0, 300.0, 1234.5)), r.choice(LENGTH_STYLES), "2026-11-24")
            for piece in filter(None, (found.piece, *found.more)):
                if Piece.model_validate_json(piece.model_dump_json()) != piece:
                    told.wrong(f"{line!r} does not read back")
        except (BadEntry, ValidationError) as fault:
            if not str(fault).strip():
                told.wrong(f"{line!r} ends without a sentence")
        except Exception as fault:
            told.wrong(f"{line!r}: {type(fault).__name__}: {fault}")
    told.line()
    return told


ODD: tuple[Any, ...] = (
    None,
    True,
    -1,
    0,
    1e300,
    1e9,
    float("nan"),
    "",
    "x" * 500,
    "1e999",
    "5²",
    "2026-02-30",
    [],
    {},
    [[0, 0], [1, 1]],
    "../../etc",
)


def bent_tree(data: Any, r: random.Random) -> Any:
    """A tree of JSON with one to three of its values replaced, doubled or gone."""
    data = json.loads(json.dumps(data))
    for _ in range(r.randint(1, 3)):
        here, path = data, []
        while isinstance(here, dict | list) and here and (not path or r.random() < 0.85):
            key = r.choice(list(here)) if isinstance(here, dict) else r.randrange(len(here))
            path.append((here, key))
            here = here[key]
        if path:
            owner, key = r.choice(path[-2:])
            act = r.randrange(4)
            if act == 0:
                del owner[key]
            elif act == 1 and isinstance(owner, list):
                owner.append(owner[key])
            elif act == 2 and isinstance(owner[key], int | float) and not isinstance(owner[key], bool):
                owner[key] = owner[key] * r.choice((-1, 0, 1e-9, 1000, 1e30))
            else:
                owner[key] = r.choice(ODD)
    return data


def bent_bytes(data: bytes, r: random.Random) -> bytes:
    """Bytes with some changed, some cut off, or a stretch put in twice."""
    made = bytearray(data)
    for _ in range(r.randint(1, 12)):
        made[r.randrange(len(made))] = r.randrange(256)
    if r.random() < 0.3:
        del made[r.randrange(len(made)) :]
    return bytes(made)


def a_sound() -> bytes:
    """A second of a struck bar as a WAV file."""
    out, rate = io.BytesIO(), 8000
    with wave.open(out, "wb") as made:
        made.setnchannels(1)
        made.setsampwidth(2)
        made.setframerate(rate)
        told = (int(20_000 * math.exp(-k / 900) * math.sin(2 * math.pi * 368 * k / rate)) for k in range(rate))
        made.writeframes(struct.pack(f"<{rate}h", *told))
    return out.getvalue()


def bent_files(folder: Path, r: random.Random) -> Iterator[tuple[str, Callable[[], object]]]:
    """Endless bent files of every kind that the program reads, and what reads each."""
    from grainet.demo.make import make_demo
    from grainet.demo.rack import rack
    from grainet.exchange.air_file import read_air
    from grainet.exchange.job_file import read_job, read_plan
    from grainet.exchange.picture_file import decode, encode
    from grainet.exchange.stock import read_rows, write_stock
    from grainet.exchange.wav import read_wav
    from grainet.picture.of_piece import face_picture
    from grainet.plan.planner import plan_job
    from grainet.plan.verify import check
    from grainet.session.shop import Shop
    from tests.jobs import SAW, job, part, piece

    good_job = job([piece()], [part()], SAW)
    plan = json.loads(plan_job(good_job).model_dump_json(exclude_none=True))
    job_tree = json.loads(good_job.model_dump_json(exclude_none=True))
    write_stock(folder / "stock.json", rack())
    write_stock(folder / "stock.csv", rack())
    stock = json.loads((folder / "stock.json").read_text())
    table = (folder / "stock.csv").read_bytes()
    air = b"time,temperature_c,humidity_pct\n" + b"".join(b"2026-01-%02dT08:00,20.5,4%d\n" % (d, d % 10) for d in range(1, 29))
    picture = encode(face_picture(rack()[0], "1", 0.2))
    sound = a_sound()
    make_demo(folder / "D.grainet").close()
    base = (folder / "D.grainet" / "shop.sqlite").read_bytes()

    def written(name: str, data: bytes | str) -> Path:
        path = folder / name
        path.write_bytes(data if isinstance(data, bytes) else data.encode())
        return path

    def opened() -> None:
        with Shop.open(folder / "B.grainet", read_only=True) as shop:
            shop.items.look_through()
            for one in shop.pieces():
                shop.judgements.verdict(one.id, "neck")

    while True:
        kind = r.choice(("stock", "table", "air", "picture", "sound", "job", "plan", "shop"))
        if kind == "stock":
            path = written(
                "b.json", json.dumps(bent_tree(stock, r)) if r.random() < 0.7 else bent_bytes(json.dumps(stock).encode(), r)
            )
            yield kind, lambda path=path: read_rows(path)
        elif kind == "table":
            path = written("b.csv", bent_bytes(table, r))
            yield kind, lambda path=path: read_rows(path)
        elif kind == "air":
            path = written("a.csv", bent_bytes(air, r))
            yield kind, lambda path=path: read_air(path)
        elif kind == "picture":
            data = bent_bytes(picture, r)
            yield kind, lambda data=data: decode(data)
        elif kind == "sound":
            path = written("b.wav", bent_bytes(sound, r))
            yield kind, lambda path=path: read_wav(path)
        elif kind == "job":
            path = written("job.json", json.dumps(bent_tree(job_tree, r)))
            yield kind, lambda path=path: read_job(path)
        elif kind == "plan":
            path = written("plan.json", json.dumps(bent_tree(plan, r)))
            yield kind, lambda path=path: check(good_job, read_plan(path))
        else:
            shutil.rmtree(folder / "B.grainet", ignore_errors=True)
            shutil.copytree(folder / "D.grainet", folder / "B.grainet")
            written("B.grainet/shop.sqlite", bent_bytes(base, r))
            yield kind, opened


def files(seconds: float, seed: int) -> Told:
    """Bent files of every kind: a value, or one of the sentences that such files are answered with."""
    from grainet.exchange.json_file import Unusable
    from grainet.store.shop_file import ShopUnusable

    told, r = Told("files"), random.Random(seed)
    with tempfile.TemporaryDirectory() as scratch:
        for kind, look in bent_files(Path(scratch), r):
            if time.monotonic() - told.began > seconds:
                break
            told.done += 1
            began = time.monotonic()
            try:
                look()
            except (Unusable, ShopUnusable) as fault:
                if not str(fault).strip():
                    told.wrong(f"{kind} number {told.done} of seed {seed} ends without a sentence")
            except Exception as fault:
                told.wrong(f"{kind} number {told.done} of seed {seed}: {type(fault).__name__}: {str(fault)[:160]}")
            if time.monotonic() - began > 20:
                told.wrong(f"{kind} number {told.done} of seed {seed} took {time.monotonic() - began:.0f} s")
    told.line()
    return told


def soak(seconds: float, seed: int) -> Told:
    """A window over the demo shop, used at random: nothing unforeseen, never deaf for long, memory that levels off."""
    from load import Heart, memory_mb
    from PySide6.QtCore import Qt, QTimer
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication

    from grainet.demo.make import make_demo
    from grainet.desk.main_window import Window, prepare
    from grainet.desk.screens.table import STATIONS
    from grainet.desk.services.sweeper import Sweeper
    from grainet.session.commands.word_list import WORD_LIST

    told, r = Told("soak"), random.Random(seed)
    app = QApplication.instance() or QApplication([])
    prepare(app)  # type: ignore[arg-type]
    sweeper = Sweeper(app)

    def unforeseen(kind: type[BaseException], fault: BaseException, trace: TracebackType | None) -> None:
        where = traceback.extract_tb(trace)[-6:]
        told.wrong(
            f"seed {seed}: {kind.__name__}: {str(fault)[:200]} at {', '.join(f'{Path(w.filename).name}:{w.lineno}' for w in where)}"
        )

    sys.excepthook = unforeseen
    with tempfile.TemporaryDirectory() as scratch:
        os.environ["XDG_CACHE_HOME"] = scratch
        window = Window(make_demo(Path(scratch) / "Soak.grainet"))
        window.resize(1280, 740)
        window.show()
        state, heart = window.state, Heart()
        screens = [*(row.name for row in STATIONS), "sort_rack", "plots", "kit_book", "guide", "aside"]
        examples = [one.example for one in WORD_LIST]
        uses = [rule.use for rule in state.shop.kit.every_use]

        def type_a_line() -> None:
            window.head.tape.setText(bent_text(r.choice(examples), r) if r.random() < 0.5 else r.choice(examples))
            QTest.keyClick(window.head.tape, Qt.Key.Key_Return)

        def press() -> None:
            keys = (
                Qt.Key.Key_Up,
                Qt.Key.Key_Down,
                Qt.Key.Key_Left,
                Qt.Key.Key_Right,
                Qt.Key.Key_Escape,
                Qt.Key.Key_Tab,
                Qt.Key.Key_F9,
                Qt.Key.Key_PageDown,
            )
            QTest.keyClick(app.focusWidget() or window, r.choice(keys))  # type: ignore[attr-defined]

        acts: list[Callable[[], object]] = [
            lambda: window.show_screen(r.choice(screens)), type_a_line, type_a_line, press, press, lambda: state.step_piece(r.choice((-3, -1, 1, 4))),
            lambda: state.choose_use(r.choice(uses)), lambda: state.undo(), lambda: state.undo(forward=True), lambda: state.roll(),
            lambda: window.resize(r.randint(960, 1500), r.randint(600, 900)), lambda: state.ask(None), window.primary_action,
        ]  # fmt: skip
        closer = QTimer()  # whatever stands before the window is sent away, as by Esc
        closer.timeout.connect(lambda: [one.close() for one in (app.activeModalWidget(), app.activePopupWidget()) if one])  # type: ignore[attr-defined]
        closer.start(20)
        early, worst = 0.0, (0.0, "")
        while time.monotonic() - told.began < seconds:
            told.done += 1
            try:
                r.choice(acts)()
                end = time.monotonic() + r.uniform(0, 0.05)
                while True:
                    app.processEvents()
                    if time.monotonic() > end:
                        break
            except Exception as fault:
                told.wrong(f"seed {seed}, act {told.done}: {type(fault).__name__}: {str(fault)[:200]}")
            if not early and time.monotonic() - told.began > seconds / 3:
                early = memory_mb()
            worst = max(worst, (heart.look(), state.screen))
        held = memory_mb()
        if not state.background.wait(60_000):
            told.wrong("work in the background never ended")
        window.close()
        sweeper.stop()
        told.line(
            f"memory {early:.0f} MB after a third, {held:.0f} MB at the end; deaf at most {1000 * worst[0]:.0f} ms at {worst[1]}"
        )
    return told


PARTS: dict[str, Callable[[float, int], Told]] = {"kills": kills, "lines": lines, "files": files, "soak": soak}


def main() -> int:
    seconds, chosen = 120.0, []
    for word in sys.argv[1:]:
        if word in PARTS:
            chosen.append(word)
        else:
            seconds = float(word)
    seed = int(os.environ.get("STRESS_SEED") or time.time())
    print(f"seed {seed} (STRESS_SEED={seed} does it again)")
    names = chosen or list(PARTS)
    told = [PARTS[name](seconds / len(names), seed) for name in names]
    return 1 if any(one.faults for one in told) else 0


if __name__ == "__main__":
    sys.exit(main())
