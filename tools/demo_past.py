"""Makes what has happened in the demo shop before it is opened: one instrument whole, one in its clamps, one laid out; figures that were measured, what
went wrong. It is really made, step by step through the session with a clock of its own; the values that are left go into the package, their days
counted from REFERENCE, so that the demo shop opens at once. Run it anew when what a shop keeps has changed.

    .venv/bin/python tools/demo_past.py
"""

from __future__ import annotations

import json
import lzma
import sys
import tempfile
from datetime import datetime, timedelta
from pathlib import Path

HERE = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(HERE / "src"), str(HERE)]

from grainet.demo.make import make_demo  # noqa: E402
from grainet.demo.past import FILE, FINISHED, IN_CLAMPS, REFERENCE, boards_of, heron_5, heron_6  # noqa: E402
from grainet.design.parts import design_of  # noqa: E402
from grainet.plan.become import Heap  # noqa: E402
from grainet.plan.planner import plan_job  # noqa: E402
from grainet.session.kinds import ALL, KIT  # noqa: E402
from grainet.session.learning import typed  # noqa: E402
from grainet.session.making import at_the_bench, do, letters_on  # noqa: E402
from grainet.session.mishaps import typed as mishap  # noqa: E402
from grainet.session.shop import Shop  # noqa: E402
from grainet.session.stories import weigh  # noqa: E402

TOOK = (2.1, 2.2, 2.4, 2.6, 2.7)


class Clock:
    """The clock of the making."""

    def __init__(self) -> None:
        self.now = FINISHED

    def __call__(self) -> datetime:
        return self.now


def make(shop: Shop, clock: Clock, plan_id: str, until) -> None:  # type: ignore[no-untyped-def]
    """Do what comes next, at working hours, until a step that is wanted is done."""
    for _ in range(3000):
        bench = at_the_bench(shop, plan_id)
        if bench is None or not bench.left:
            return
        if not 8 <= clock.now.hour < 17:
            clock.now = (clock.now + timedelta(hours=8 if clock.now.hour < 8 else 16)).replace(hour=8, minute=0)
            continue
        if not bench.ready:
            clock.now = min(
                t for o in bench.left if not bench.lacking(o) and (t := bench.waits_until(o)) is not None
            ) + timedelta(seconds=30)
            continue
        one = bench.ready[0]
        clock.now += timedelta(minutes=one.minutes * 1.04)
        bench = at_the_bench(shop, plan_id)
        assert bench is not None
        figures = {"fit": {"ends_mm": 0.0, "middle_mm": 0.02}, "trial": {"mm": 0.05}}.get(one.kind, {})
        if one.kind == "fit" and one.settings.get("middle_mm", 0.0) < 0.02:
            figures = {"ends_mm": 0.0, "middle_mm": 0.0}
        agreed = [c.code for c in one.cautions if c.grade == "A"]
        do(bench, one, figures=figures, letters=letters_on(bench.making, one) if one.kind == "glue" else (), agreed=agreed)
        if until(one):
            return


def main() -> int:
    """Make it, and write what is left."""
    clock = Clock()
    with tempfile.TemporaryDirectory() as scratch, make_demo(Path(scratch) / "D.grainet", clock) as shop:
        before = {kind.name: {str(v.id) for v in shop.items.all(kind)} for kind in ALL}
        for guitar in (heron_5(), heron_6()):
            shop.instruments.keep(f"{guitar.name} drawn up", guitar)
            boards = boards_of(guitar.id)
            shop.apply("boards", *boards)
            design = design_of(guitar)
            job = Heap(boards, shop.kit.cuts).job_of(guitar)
            plan = plan_job(job)
            kept = shop.plans.accept(design, job, plan)
            print(guitar.name, "value", plan.value, "of", plan.bound, [p.piece for p in plan.placements])
            if guitar.id == "heron-5":
                make(shop, clock, kept.id, lambda _one: False)
                weigh(shop, guitar.id, 3.36)
                for mm in TOOK:
                    shop.apply("took", typed(shop, f"planer {mm} on {boards[1].id}"))
                told = "tear-out 420 60 because fed from the marked end, helped a scraper"
                shop.apply("mishap", mishap(shop, told, boards[1].id, tool="planer", step="flatten"))
                clock.now = IN_CLAMPS
            else:
                make(shop, clock, kept.id, lambda one: one.kind == "glue")
        for piece in [p for p in shop.pieces() if p.parent and not p.place]:
            shop.apply("shelved", piece.changed(place="B1" if piece.extents[2] > 400 else "box"))
        plover = next(d for d in shop.designs() if d.id == "plover")
        job = shop.jobs.job_for([plover])
        shop.plans.accept(plover, job, plan_job(job))
        shift = (REFERENCE - timedelta(minutes=25)) - clock.now
        rows = []
        for kind in ALL:
            for value in shop.items.all(kind):
                if kind is KIT or (str(value.id) in before[kind.name]):
                    continue
                text = shop.items.text(kind, str(value.id))
                late = kind.name == "bench" and str(value.id).startswith("heron-6")
                rows.append(
                    {
                        "kind": kind.name,
                        "id": str(value.id),
                        "late_s": round(shift.total_seconds()) if late else 0,
                        "json": json.loads(text or "{}"),
                    }
                )
    target = HERE / "src" / "grainet" / "data" / FILE
    target.write_bytes(lzma.compress(json.dumps(rows, separators=(",", ":"), ensure_ascii=False).encode(), preset=9))
    print(len(rows), "values,", target.stat().st_size, "bytes; clock at", clock.now)
    return 0


if __name__ == "__main__":
    sys.exit(main())
