"""Timings of what must be quick, in seconds and as ratios to a plain baseline run beside them in the same process.

    ./run bench            all rows      ./run bench quick     without the large racks      ./run bench yield     only what plans yield
    ./run bench variants   hundreds of random jobs told otherwise, made harder and easier
    ./run bench making     the operations of a build, and five builds on one calendar
    ./run bench peers      the planner beside general packers and a plain programme

The baseline is the sequential greedy planner and, for fields, a direct exact walk; ratios hold on a noisy machine.
"""

from __future__ import annotations

import json
import os
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
HERE = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(HERE))


def timed(work, times: int = 5) -> float:  # type: ignore[no-untyped-def]
    """Median seconds of some runs after one that does not count."""
    work()
    found = []
    for _ in range(times):
        began = time.perf_counter()
        work()
        found.append(time.perf_counter() - began)
    return statistics.median(found)


def row(what: str, seconds: float, budget: float, beside: str = "") -> None:
    print(f"{what:<58} {seconds:9.3f} s   budget {budget:6.2f}   {beside}", flush=True)


def rack(count: int, seed: int = 7):  # type: ignore[no-untyped-def]
    """Invented pieces: planks, slabs, plates with troubles, enough thick ones to work with."""
    import numpy as np

    from tests.jobs import piece

    r = np.random.default_rng(seed)
    pieces = []
    for k in range(count):
        kind = k % 4
        length = float(r.integers(*((1200, 2400), (700, 1500), (500, 640), (900, 1800))[kind]))
        width = float(r.integers(*((180, 300), (80, 130), (66, 80), (150, 230))[kind]))
        thick = float(r.integers(*((48, 54), (26, 60), (8, 11), (20, 50))[kind]))
        marks = []
        for j in range(int(r.integers(0, 5))):
            x, y = float(r.uniform(0, length - 60)), float(r.uniform(0, width - 30))
            kinds = ("knot", "crack", "stain", "hole", "worm")
            marks.append(
                {
                    "id": f"d{j}",
                    "kind": kinds[int(r.integers(0, 5))],
                    "face": "1",
                    "depth_mm": float(r.integers(2, 20)),
                    "polygon": [[x, y], [x + 50, y], [x + 50, y + 22], [x, y + 22]],
                }
            )
        pieces.append(piece(f"P{k}", length, width, thick, defects=marks))
    return pieces


def builds_job(builds: int, pieces: int):  # type: ignore[no-untyped-def]
    from grainet.demo.designs import MERROW, PLOVER
    from grainet.kit.shop_profile import GUESSED_CUTS
    from tests.jobs import job

    made = job(rack(pieces), [], None)
    designs = (PLOVER, MERROW)
    parts = {p.id: p for d in designs for p in d.parts}
    wanted = []
    for k in range(builds):
        design = designs[k % 2]
        wanted.append(design.build.changed(id=f"{design.id}-{k}"))
    return made.changed(kit=GUESSED_CUTS, parts=tuple(parts.values()), builds=tuple(wanted))


def fields() -> None:
    import numpy as np

    from grainet.demo.designs import PLOVER
    from grainet.fit.board_geometry import BoardGeometry
    from grainet.fit.exact import Exact, seats
    from grainet.fit.field import Layers, fit_field
    from grainet.fit.orientation import orientations_of
    from tests.jobs import job, piece

    marks = [
        {
            "id": f"k{j}",
            "kind": "knot",
            "face": "1",
            "depth_mm": 9,
            "polygon": [[300 * j + 80, 60], [300 * j + 120, 60], [300 * j + 120, 90], [300 * j + 80, 90]],
        }
        for j in range(7)
    ]
    made = job([piece("A", 2400, 300, 50, defects=marks)], [], None)
    part = PLOVER.parts[0]
    sheet = BoardGeometry(made.pieces[0], made.kit)
    layers = Layers(sheet)
    ways = orientations_of(part)
    walk_grid = np.stack(np.meshgrid(np.arange(0, 1900, 20.0), np.arange(0, 130, 20.0)), -1).reshape(-1, 2)

    def walk() -> None:
        seats(Exact(sheet, ways[0]), walk_grid)

    one, direct = timed(lambda: fit_field(layers, ways[0])), timed(walk, 3)
    per_place = direct / len(walk_grid)
    row(
        "a field of a body half, 2400 x 300 at 2 mm",
        one,
        0.02,
        f"{per_place * fit_field(layers, ways[0]).fits.size / one:.0f} x quicker than walking it exactly",
    )
    row(f"all {len(ways)} ways of lying of it", timed(lambda: [fit_field(layers, w) for w in ways]), 0.3)
    exact = Exact(sheet, ways[0])
    row("dragging a part: one exact answer", timed(lambda: exact.seat(500.0, 20.0), 50), 0.016)


def plans(quick: bool) -> None:
    from grainet.fit.board_geometry import BoardGeometry
    from grainet.plan.greedy import greedy_plan, worth_of
    from grainet.plan.planner import PlannerCache, plan_job

    for builds, pieces, cold, warm in ((1, 10, 8, 3), (6, 40, 40, 20), (12, 80, 70, 30))[: 1 if quick else 3]:
        job = builds_job(builds, pieces)
        memory = PlannerCache()
        began = time.perf_counter()
        plan = plan_job(job, memory=memory)
        first = time.perf_counter() - began
        began = time.perf_counter()
        plan_job(job, memory=memory)
        second = time.perf_counter() - began
        sheets = {p.id: BoardGeometry(p, job.kit) for p in job.pieces}
        began = time.perf_counter()
        chosen = greedy_plan(job, sheets)
        greedy = time.perf_counter() - began
        value = worth_of(job, chosen)
        gap = 100 * (plan.bound - plan.value) / max(plan.bound, 1e-9)
        row(
            f"{builds} builds on {pieces} pieces, cold",
            first,
            cold,
            f"value {plan.value:g} bound {plan.bound:g} ({plan.bound_scope}, gap {gap:.1f} %); greedy {value:g} in {greedy:.1f} s",
        )
        row(
            f"{builds} builds on {pieces} pieces, warm",
            second,
            warm,
            f"{second / first:.2f} of cold, {first / greedy:.1f} x the greedy's time",
        )


def yields(quick: bool) -> None:
    """What plans yield where the best is known (planted), and against hand's rule where a rack is too small, with what the bound leaves."""
    from grainet.plan.planner import plan_job
    from tools import racks

    shares = []
    for seed in range(4 if quick else 12):
        asked, best = racks.grid(seed)
        shares.append(plan_job(asked).value / best)
    print(
        f"{len(shares)} grids of alike, planted: {min(shares):.3f} of the best at least, {statistics.mean(shares):.3f} on the mean"
    )
    for seed in range(1 if quick else 3):
        asked, best = racks.planted(seed, 10 if quick else 40)
        began = time.perf_counter()
        plan = plan_job(asked)
        count = sum(p.quantity for p in asked.parts)
        seconds = time.perf_counter() - began
        row(
            f"{count} footprints planted in {len(asked.pieces)} boards",
            seconds,
            120,
            f"{plan.value / best:.3f} of the planted value",
        )
    for pieces in (8,) if quick else (20, 16):
        contest(6 if quick else 12, pieces, 2 if quick else 10)
    print(f"memory of this process: {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB (budget 400)")


def contest(builds: int, pieces: int, racks_asked: int) -> None:
    """Racks that do not give all builds: what the planner makes of them against hand's rule, and what the bound over everything leaves above it."""
    from grainet.fit.board_geometry import BoardGeometry
    from grainet.plan.greedy import greedy_plan, worth_of
    from grainet.plan.planner import plan_job
    from tools import racks

    gains, leaves, gaps, among = [], [], [], []
    for seed in range(racks_asked):
        asked = racks.contested(seed, builds, pieces)
        sheets = {p.id: BoardGeometry(p, asked.kit) for p in asked.pieces}
        by_hand = worth_of(asked, greedy_plan(asked, sheets))
        began = time.perf_counter()
        plan = plan_job(asked)
        over_all = plan.bound if plan.bound_scope == "all" else plan.bound_all or plan.bound
        gains.append(100 * (plan.value / by_hand - 1))
        leaves.append(100 * (over_all / by_hand - 1))
        gaps.append(100 * (over_all / plan.value - 1))
        among.append(100 * (plan.bound / plan.value - 1))
        told = (
            f"{gains[-1]:+.1f} % over hand's rule ({by_hand:g}), of {leaves[-1]:.1f} that the bound leaves; gap {gaps[-1]:.1f} %, among the places "
            f"tried {among[-1]:.1f} %; {len(plan.builds)} builds"
        )
        row(f"{builds} builds that {pieces} boards may not give", time.perf_counter() - began, 120, told)
    room = [gain for gain, left in zip(gains, leaves) if left >= 10]
    where = f"; where it leaves 10 % or more, on {len(room)} racks, {statistics.mean(room):+.1f} %" if room else ""
    print(
        f"over hand's rule: {statistics.mean(gains):+.1f} % on the mean, {min(gains):+.1f} % at the least{where}; gap to the bound over everything "
        f"{statistics.mean(gaps):.1f} % on the mean, at most 5 % on {sum(gap <= 5 for gap in gaps)} of {racks_asked} racks"
    )


def shop() -> None:
    from grainet.demo.rack import rack as demo_rack
    from grainet.session.shop import Shop

    base = demo_rack()
    with tempfile.TemporaryDirectory() as scratch:
        folder = Path(scratch) / "Large.grainet"
        with Shop.open(folder, create=True) as made:
            made.apply("5,000 pieces", *(base[k % len(base)].changed(id=str(k + 1)) for k in range(5000)))

        def open_it() -> None:
            with Shop.open(folder):
                pass

        row("opening a shop of 5,000 pieces", timed(open_it, 3), 2.0)
        with Shop.open(folder) as opened:
            db = opened.file._db
            query = "SELECT id FROM item WHERE kind = 'piece' AND length_mm >= 700 AND width_mm >= 110 AND thickness_mm >= 30"
            row("searching 5,000 pieces by size", timed(lambda: db.execute(query).fetchall(), 9), 0.05)


def taking_in() -> None:
    """Stock lists, asking the rack, and a very large photo, whose parts run off the interface thread."""
    import numpy as np

    from grainet.demo.rack import rack as demo_rack
    from grainet.exchange.picture_file import decode, encode
    from grainet.exchange.stock import read_rows, write_stock
    from grainet.kit.shop_profile import ShopProfile
    from grainet.picture.reading import squared, suggestions_of
    from grainet.picture.rectify import fit
    from grainet.session.import_preview import bring_in, preview
    from grainet.session.query import matches, parse_query
    from grainet.session.shop import Shop
    from grainet.wood.photo import Photo, TruePoint
    from tests.session.test_asking import seeded

    base = demo_rack()
    pieces = [base[k % len(base)].changed(id=f"{k + 1}") for k in range(500)]
    with tempfile.TemporaryDirectory() as scratch:
        path = Path(scratch) / "s.csv"
        write_stock(path, pieces)
        with Shop.open(Path(scratch) / "S.grainet", create=True) as shop:
            began = time.perf_counter()
            bring_in(shop, [r for r in preview(shop, read_rows(path)) if r.by_default])
            row("500 rows of CSV read, shown and brought in", time.perf_counter() - began, 5.0)
    query, kit, boards = parse_query("at least 30 x 110 x 700 clear, quartered, ready"), ShopProfile(), seeded()
    row("asking 200 pieces by part size and words", timed(lambda: [p for p in boards if matches(p, query, kit)]), 1.0)
    rng = np.random.default_rng(1)
    tile = rng.integers(90, 160, (600, 860, 3), dtype=np.uint8)
    big = np.tile(tile, (10, 10, 1))[:5900, :8500]  # 50 megapixels
    data = encode(big)
    opened = timed(lambda: decode(data), 2)
    row(f"opening a JPEG of {big.shape[0] * big.shape[1] / 1e6:.0f} megapixels", opened, 3.0)
    piece = base[8]
    x1, y1 = piece.extents[2:]
    corners = ((300, 900, 0, y1), (8200, 1100, x1, y1), (8100, 2000, x1, 0), (350, 1900, 0, 0))
    points = tuple(TruePoint(px=a, py=b, u_mm=u, v_mm=v) for a, b, u, v in corners)
    photo = Photo(side="face1", sha="0" * 64, width_px=big.shape[1], height_px=big.shape[0], points=points)
    row("laying it square for the screen", timed(lambda: squared(big, piece, photo, 1.0), 2), 2.0)
    row("all that it suggests", timed(lambda: suggestions_of(big, piece, photo), 1), 6.0)
    more = (*points, *(TruePoint(px=300 + 1000 * k, py=905 + 25 * k, v_mm=y1) for k in range(1, 7)))
    row("fitting ten points and the lens, in the window's thread", timed(lambda: fit(more, (8500, 5900))), 0.05)


def large_shop(count: int):  # type: ignore[no-untyped-def]
    """Pieces of a large rack with species, moisture, rings and slope."""
    import numpy as np

    from grainet.wood.piece import MoistureReading
    from tests.jobs import job

    r = np.random.default_rng(1)
    names = ("European ash", "Red alder", "Sugar maple (hard)", "European walnut", "Indian rosewood")
    return [
        one.changed(
            species=names[k % 5], ring_angle_deg=(float(r.integers(0, 90)), float(r.integers(0, 90))), grain_slope_deg=float(r.uniform(0, 5)),
            moisture=(MoistureReading(x_mm=100, y_mm=20, depth_mm=20, moisture_pct=round(float(r.uniform(7, 13)), 1), on="2026-11-01"),),
        )
        for k, one in enumerate(job(rack(count), [], None).pieces)
    ]  # fmt: skip


def drawing() -> None:
    """An instrument's blanks, a change with all that it moves over a rack of forty, what twenty pieces can become, a way out."""
    from grainet.design.blanks import blanks_of
    from grainet.design.starting_points import POINTS, begin
    from grainet.kit.shop_profile import GUESSED_CUTS
    from grainet.plan.become import Heap
    from grainet.plan.rescue import Rescuer
    from grainet.present.draw_up import knock_ons, lanes_of
    from grainet.session.shop import Shop
    from grainet.session.stock_answers import stock_answer
    from grainet.wood.piece import Piece

    def wood(count: int) -> list[Piece]:
        return [Piece.model_validate_json(json.dumps(one)) for one in rack(count)]

    g, kit = begin("set", "g", "G"), GUESSED_CUTS.allowances
    row(
        "the blanks of an instrument", timed(lambda: blanks_of(g.changed(name="G"), kit), 15), 0.02
    )  # a new value each time: what is kept does not count

    def change() -> None:
        other = g.with_figures({"frets": 24, "head.angle_deg": 10.0})
        knock_ons(g, other, kit, "mm")
        lanes_of(other, kit, "mm")

    row("a change with all that it moves", timed(change, 9), 0.15)
    with tempfile.TemporaryDirectory() as scratch:
        os.environ["XDG_CACHE_HOME"] = scratch
        with Shop.open(Path(scratch) / "S.grainet", create=True) as shop:
            shop.apply("racked", *(p.changed(racked=True) for p in wood(40)))
            lanes = lanes_of(g, kit, "mm")
            began = time.perf_counter()
            for lane in lanes:
                stock_answer(shop, lane.part, lane.blank, lane.count)
            row("what a rack of 40 gives for each of its blanks", time.perf_counter() - began, 1.0)
    heap = Heap(wood(20), GUESSED_CUTS)
    began = time.perf_counter()
    fits = sum(next(iter(heap.becomes(begin(point, point, point)))).fits for point in POINTS)
    row("what 20 pieces can become, six starting points", time.perf_counter() - began, 3.0, f"{fits} of 6 fit as drawn")
    job = Heap(wood(40), GUESSED_CUTS).job_of(g)
    began = time.perf_counter()
    found = Rescuer(job, "g.neck", "P1", [g], seconds=5.0).rescue()
    row("ways out for a neck on a rack of 40", time.perf_counter() - began, 5.0, f"{len(found.ways)} ways")


def making() -> None:
    """Every operation of a build, and five builds on one calendar."""
    from datetime import datetime

    from grainet.design.starting_points import begin
    from grainet.kit.shop_profile import GUESSED_CUTS, ShopProfile
    from grainet.plan import in_hand
    from grainet.plan.become import Heap
    from grainet.plan.planner import plan_job
    from grainet.wood.piece import Piece
    from grainet.work.bench import Bench, each_clamp
    from grainet.work.best_days import best_days, finish
    from grainet.work.making import making_of
    from grainet.work.schedule import schedule

    start, bench = datetime(2026, 12, 1, 8), Bench(clamps=each_clamp(ShopProfile().clamps))
    made = []
    for k in range(5):
        sizes = (("1", 1700, 220, 52), ("2", 1500, 110, 42), ("3", 900, 90, 14), ("4", 700, 190, 34))
        wood = [
            Piece.model_validate_json(
                json.dumps({"id": f"{k}{n}", "outline": [[0, 0], [a, 0], [a, b], [0, b]], "thickness_mm": t})
            )
            for n, a, b, t in sizes
        ]
        g = begin("set", f"g{k}", "G")
        job = Heap(wood, GUESSED_CUTS).job_of(g)
        plan = plan_job(job, seconds=4)
        made.append(making_of(job, plan, [g], bench))
        if not k:

            def anew(g=g, job=job, plan=plan) -> object:
                in_hand.forget()  # as if it were asked for the first time
                return making_of(job, plan, [g], bench, start)

            one = timed(anew, 7)
            row("steps of a build, with order, calendar and balance", one, 0.1, f"{len(made[0].operations)} operations")
    operations = [o for m in made for o in m.operations]
    ties = [t for m in made for t in m.rules]
    row(
        "a calendar of five builds, the list",
        timed(lambda: schedule(operations, ties, start), 3),
        3.0,
        f"{len(operations)} operations",
    )
    listed, began = finish(operations, schedule(operations, ties, start)), time.perf_counter()
    best = finish(operations, best_days(operations, ties, start))
    row(
        "the same by constraints",
        time.perf_counter() - began,
        3.0,
        f"{(listed - best).total_seconds() / 3600:.1f} h sooner than the list",
    )


def knowing(count: int = 5000) -> None:
    """A large rack opened, asked, judged and sorted; and one board's settling forecast."""
    from datetime import date

    from grainet.fit.board_geometry import BoardGeometry
    from grainet.fit.field import Layers, fit_field
    from grainet.fit.orientation import orientations_of
    from grainet.grade.judge import part_for
    from grainet.session.query import matches, parse_query
    from grainet.session.shop import Shop
    from grainet.session.sorting import sorted_rack
    from grainet.wood.settling import settle

    row("a settling forecast of 200 days", timed(lambda: settle(50, 14, 8.5, 200)), 0.1)
    pieces = large_shop(count)
    with tempfile.TemporaryDirectory() as scratch:
        os.environ["XDG_CACHE_HOME"] = scratch
        folder = Path(scratch) / "L.grainet"
        with Shop.open(folder, create=True) as shop:
            shop.apply("racked", *pieces)
        began = time.perf_counter()
        shop = Shop.open(folder)
        shop.pieces()
        row(f"opening a shop of {count} pieces, all of them read", time.perf_counter() - began, 2.0)
        began = time.perf_counter()
        while shop.questions.keep_rows(5.0):
            pass
        row("getting its rows ready, once, in the background", time.perf_counter() - began, 20.0)
        for question in ("at least 30 x 110 x 700 clear, quartered, ready", "at least 20 x 80 x 600 clear", "walnut, flat"):
            query, kit = parse_query(question), shop.kit
            quick = timed(lambda q=query: shop.questions.ask(q), 7)
            began = time.perf_counter()
            found = {p.id for p in shop.pieces() if matches(p, query, kit)}
            slow = time.perf_counter() - began
            same = "the same answer" if found == shop.questions.ask(query) else "NOT THE SAME ANSWER"
            row(f"asking it for {question}", quick, 0.05, f"{slow / quick:.0f} x quicker than each by itself, {same}")
        for use in ("neck", "body_half", "fretboard"):
            began = time.perf_counter()
            shop.judgements.standings(use, date(2026, 11, 26))  # the way the window goes: dates of some hundred boards at once
            whole = time.perf_counter() - began
            rule, some = shop.kit.use(use), shop.pieces()[:: count // 40]
            began = time.perf_counter()
            for one in some:
                layers = Layers(BoardGeometry(one, shop.kit.cuts))
                for way in orientations_of(part_for(rule)):
                    fit_field(layers, way)
            raster = (time.perf_counter() - began) / len(some) * count
            row(
                f"judging all of it for a {use.replace('_', ' ')}",
                whole,
                5.0,
                f"{raster / whole:.1f} x quicker than by rasters alone",
            )
        shop.apply("one read anew", shop.piece("P7").changed(grain_slope_deg=0.4))
        began = time.perf_counter()
        shop.judgements.standings("neck", date(2026, 11, 26))
        row("judging again after one piece changed", time.perf_counter() - began, 0.5)
        began = time.perf_counter()
        sorted_rack(shop, "neck", date(2026, 11, 26))
        row("sorting it for necks, judged already", time.perf_counter() - began, 3.0)
        shop.close()
        began = time.perf_counter()
        with Shop.open(folder) as again:
            again.questions.ask(parse_query("at least 20 x 80 x 600 clear"))
        row("opening it again and asking, rows read back", time.perf_counter() - began, 2.0)
        os.environ.pop("XDG_CACHE_HOME")


def first_paint() -> None:
    with tempfile.TemporaryDirectory() as scratch:
        environment = {**os.environ, "XDG_DATA_HOME": scratch, "XDG_CACHE_HOME": scratch}
        found = []
        for _ in range(5):
            began = time.perf_counter()
            out = subprocess.run(
                [sys.executable, "-m", "grainet.desk", "--time"], capture_output=True, text=True, env=environment, check=True
            )
            found.append(float(out.stdout.split()[-2]))
            whole = time.perf_counter() - began
        row(
            "first paint of the window with the demo shop",
            statistics.median(found[1:]),
            1.0,
            f"{found[0]:.2f} s when the demo is made; process and exit {whole:.1f} s",
        )


KINDS = {"quick": "all, with small racks", "variants": "jobs and what must not change them", "making": "steps and calendar",
         "peers": "against other packers", "yield": "ten scarce racks", "knowing": "five thousand pieces"}  # fmt: skip


def main() -> int:
    if unknown := [w for w in sys.argv[1:] if w not in KINDS]:
        print(f"{unknown[0]} is no measure; there are: all (no word), " + "; ".join(f"{k} ({v})" for k, v in KINDS.items()))
        return 2
    quick = "quick" in sys.argv[1:]
    if "variants" in sys.argv[1:]:
        from tools import variants

        return variants.main(20 if quick else 200)
    if "making" in sys.argv[1:]:
        making()
        return 0
    if "knowing" in sys.argv[1:]:
        knowing()
        return 0
    if "peers" in sys.argv[1:]:
        from tools import peers

        peers.main()
        return 0
    if "yield" in sys.argv[1:]:
        yields(quick)
        return 0
    fields()
    shop()
    first_paint()
    plans(quick)
    yields(quick=True)  # all of it: ./run bench yield
    children = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
    own = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"memory: planning here {own:.0f} MB, the window {children:.0f} MB (together budgeted 500 MB)")
    drawing()
    making()
    taking_in()  # last: large photos and five thousand pieces in this process would count as the planner's memory
    knowing()
    return 0


if __name__ == "__main__":
    sys.exit(main())
