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

    become = commands.add_parser("become", help="what a stock list can become: instruments, ways, margins, or what fails")
    become.add_argument("stock", type=Path)
    become.add_argument(
        "guitars", type=Path, nargs="*", metavar="guitar", help="guitars of your own; without any, the six starting points"
    )
    become.add_argument("--kit", type=Path, help="the kit object of a job; without one nothing is lost")
    become.add_argument("--jobs", type=Path, help="a folder for the job behind each answer")
    become.add_argument("--out", type=Path, required=True)
    become.set_defaults(run=_become)

    rescue = commands.add_parser("rescue", help="ways out for a part that a piece does not give, each with its price")
    rescue.add_argument("job", type=Path)
    rescue.add_argument("--part", required=True)
    rescue.add_argument("--piece", required=True)
    rescue.add_argument(
        "--guitar", type=Path, action="append", default=[], help="the guitar that the part belongs to; may stand several times"
    )
    rescue.add_argument("--out", type=Path, required=True)
    rescue.set_defaults(run=_rescue)


def _rescue(options: argparse.Namespace) -> int:
    from grainet.exchange.guitar_file import read_guitar
    from grainet.exchange.job_file import read_job
    from grainet.exchange.json_file import Unusable
    from grainet.exchange.rescue_file import write_rescue
    from grainet.plan.rescue import Rescuer

    job = read_job(options.job)
    for what, name, known in (
        ("part", options.part, [p.id for p in job.parts]),
        ("piece", options.piece, [p.id for p in job.pieces]),
    ):
        if name not in known:
            raise Unusable([f"{options.job.name}: has no {what} “{name}”; there are {', '.join(known) or 'none'}"])
    found = Rescuer(job, options.part, options.piece, [read_guitar(path) for path in options.guitar]).rescue()
    write_rescue(options.out, found)
    print(f"{len(found.ways)} ways out: {', '.join(w.kind for w in found.ways) or 'none'}")
    return 0


def _become(options: argparse.Namespace) -> int:
    from grainet.design.starting_points import POINTS, begin
    from grainet.exchange.become_file import BecomeAnswer, Failing, write_become, write_jobs
    from grainet.exchange.guitar_file import read_guitar, read_kit
    from grainet.exchange.json_file import Unusable
    from grainet.exchange.stock import read_rows
    from grainet.plan.become import Heap

    rows = read_rows(options.stock)
    faults = [f"{options.stock.name}: {row.where}: {row.fault}" for row in rows if row.piece is None]
    if faults:
        raise Unusable(faults)
    guitars = [read_guitar(path) for path in options.guitars] or [begin(point, point, point) for point in POINTS]
    heap = Heap([row.piece for row in rows if row.piece is not None], read_kit(options.kit))
    found = [heap.with_reach(answer) for g in guitars for answer in heap.becomes(g)]
    answers = tuple(
        BecomeAnswer(
            guitar=a.instrument.id, scale_mm=a.instrument.scale_mm[0] if len(a.instrument.scale_mm) == 1 else a.instrument.scale_mm, ways=a.ways,
            fits=a.fits, pieces=a.pieces if a.fits else {}, margin_mm=a.margin_mm if a.fits else {}, largest_scale_mm=a.largest_scale_mm if a.fits else None,
            thickest_body_mm=a.thickest_body_mm if a.fits else None, widest_body_mm=a.widest_body_mm if a.fits else None, lacks=tuple(one.part for one in a.lacks),
            fails=Failing(part=a.fails.part, what=a.fails.what, found=a.fails.found, wanted=a.fails.wanted) if a.fails is not None else None,
        )
        for a in found
    )  # fmt: skip
    write_become(options.out, answers)
    if options.jobs is not None:
        write_jobs(options.jobs, [(a.instrument.id, heap.job_of(a.instrument)) for a in found])
    fits = sum(a.fits for a in answers)
    print(f"{fits} of {len(answers)} fit: {', '.join(dict.fromkeys(a.guitar for a in answers if a.fits)) or 'none'}")
    return 0


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
