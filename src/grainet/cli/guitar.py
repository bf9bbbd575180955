"""Commands about guitars: the blanks of one, and figures asked for alone."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any


def add_to(commands: Any) -> None:
    """Add them to the program's commands."""
    blanks = commands.add_parser("blanks", help="the blanks that a guitar asks for, every size a sum")
    blanks.add_argument("guitar", type=Path)
    blanks.add_argument("--kit", type=Path, help="the kit object of a job; without one nothing is lost")
    blanks.add_argument("--out", type=Path, required=True)
    blanks.set_defaults(run=_blanks)
    figures = commands.add_parser("figures", help="figures asked for alone: frets, scarfs, stacks, tapers, movement and more")
    figures.add_argument("figures", type=Path)
    figures.add_argument("--out", type=Path, required=True)
    figures.set_defaults(run=_figures)


def _blanks(options: argparse.Namespace) -> int:
    from grainet.design.answer import blanks_answer
    from grainet.exchange.guitar_file import read_guitar, read_kit
    from grainet.exchange.json_file import write_json
    from grainet.wood.species import library_with

    g, kit = read_guitar(options.guitar), read_kit(options.kit)
    found = blanks_answer(g, kit.allowances, library_with())
    write_json(options.out, found)
    red = [c.what for c in found.checks if not c.holds]
    print(f"{len(found.blanks)} blanks" + (f"; does not hold: {', '.join(red)}" if red else ""))
    return 0


def _figures(options: argparse.Namespace) -> int:
    from grainet.exchange.guitar_file import answer_figures
    from grainet.exchange.json_file import write_text

    found = answer_figures(options.figures)
    write_text(options.out, json.dumps(found, indent=1) + "\n")
    print(f"{len(found['answers'])} figures")
    return 0
