"""The same work without a window: plan, check, grade, import and export.

Exit 0 done; 1 when check finds faults; 2 on input that cannot be used, one line per fault on standard error.
"""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from grainet import __version__
from grainet.cli import archive, guitar, steps, story
from grainet.kit.use import Use

DONE, FAULTS, UNUSABLE, REFUSED, UNFORESEEN = 0, 1, 2, 3, 70
USES = tuple(Use)
PLOTS = ("moisture", "weight", "rest", "movement", "air", "density", "overview", "taps", "yield")
GROUPS = ("board", "supplier", "species", "instrument", "month", "year")


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command; returns the exit code."""
    options = _parser().parse_args(arguments)
    from grainet.exchange.json_file import Unusable
    from grainet.store.log_file import LOG, begin_log
    from grainet.store.shop_file import ShopUnusable

    try:
        return int(options.run(options))
    except Unusable as fault:
        for line in fault.lines:
            print(line, file=sys.stderr)
        return UNUSABLE
    except ShopUnusable as fault:
        print(f"{fault}" + (f" The newest good backup is {fault.backup}." if fault.backup else ""), file=sys.stderr)
        return UNUSABLE
    except Exception as fault:  # nobody foresaw it: a sentence and a log, never a page of the program's inside
        where = begin_log()
        LOG.exception("grainet %s", " ".join(sys.argv[1:2]))
        told = f" What led to it stands in {where}." if where else ""
        print(f"grainet: something unexpected happened ({type(fault).__name__}: {str(fault)[:200]}).{told}", file=sys.stderr)
        return UNFORESEEN
    except BrokenPipeError:  # whoever read the lines has seen enough
        sys.stdout = None
        return DONE


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="grainet", description="Plan, check and grade the cutting of odd wood for guitars.")
    parser.add_argument("--version", action="version", version=f"grainet {__version__}")
    commands = parser.add_subparsers(required=True, metavar="command")
    plan = commands.add_parser("plan", help="plan a job")
    plan.add_argument("job", type=Path)
    plan.add_argument("--out", type=Path, required=True)
    plan.add_argument("--effort", type=_whole(1, 100), default=1, help="deterministic budget, 1 is the default")
    plan.add_argument("--seconds", type=_seconds, help="only caps the effort")
    plan.add_argument("--seed", type=_whole(0, 2**31 - 1), default=0)
    plan.add_argument("--timed", action="store_true", help="write how long it took too: then the file differs from run to run")
    plan.set_defaults(run=_plan)
    check = commands.add_parser("check", help="check a plan against its job, independently of the planner")
    check.add_argument("job", type=Path)
    check.add_argument("plan", type=Path)
    check.set_defaults(run=_check)
    grade = commands.add_parser("grade", help="grade the pieces of a job for every use")
    grade.add_argument("job", type=Path)
    grade.add_argument("--out", type=Path, required=True)
    grade.set_defaults(run=_grade)
    guitar.add_to(commands)
    steps.add_to(commands)
    archive.add_to(commands)
    story.add_to(commands)
    _shop_commands(commands)
    bring = commands.add_parser("import", help="bring a stock list (JSON or CSV) into a shop folder")
    bring.add_argument("stock", type=Path)
    bring.add_argument("--shop", type=Path, required=True)
    bring.add_argument("--preview", action="store_true", help="say row by row what would happen, and store nothing")
    bring.add_argument("--good", action="store_true", help="bring in the good rows though others are broken")
    bring.add_argument("--replace", action="store_true", help="let rows change pieces that are there already")
    bring.set_defaults(run=_import)
    export = commands.add_parser("export", help="write a shop's stock as JSON or CSV")
    export.add_argument("--shop", type=Path, required=True)
    export.add_argument("--out", type=Path, required=True)
    export.set_defaults(run=_export)
    return parser


def _shop_commands(commands: Any) -> None:
    """Finding, sorting and plotting in a shop folder."""
    find = commands.add_parser("find", help="ask a shop's rack, such as: find SHOP '30 x 110 x 700 clear, quartered, ready'")
    find.add_argument("shop", type=Path)
    find.add_argument("question")
    find.set_defaults(run=_find)
    sort = commands.add_parser("sort", help="what is fit for a use, best first, and why not the others")
    sort.add_argument("shop", type=Path)
    sort.add_argument("--use", required=True, choices=USES)
    sort.set_defaults(run=_sort)
    plot = commands.add_parser("plot", help="draw a plot of a piece or of the whole shop to PDF, SVG or CSV")
    plot.add_argument("shop", type=Path)
    plot.add_argument("plot", choices=PLOTS)
    plot.add_argument("--piece", help="its number, for the plots of one piece")
    plot.add_argument("--use", default="neck", choices=USES, help="for the rack overview")
    plot.add_argument("--by", default="board", choices=GROUPS, help="for what became of the wood")
    plot.add_argument("--out", type=Path, required=True)
    plot.set_defaults(run=_plot)


def _whole(least: int, most: int) -> Any:
    def parse(text: str) -> int:
        try:
            value = int(text)
        except ValueError:
            raise argparse.ArgumentTypeError(f"found {text!r}, needs a whole number") from None
        if not least <= value <= most:
            raise argparse.ArgumentTypeError(f"found {value}, needs {least} to {most}")
        return value

    return parse


def _seconds(text: str) -> float:
    try:
        value = float(text)
    except ValueError:
        value = -1.0
    if not 0 < value < 1e6:
        raise argparse.ArgumentTypeError(f"found {text!r}, needs a number of seconds above 0")
    return value


def _plan(options: argparse.Namespace) -> int:
    from grainet.exchange.job_file import read_job
    from grainet.exchange.json_file import write_json
    from grainet.job.answer import Plans
    from grainet.plan.planner import PlanFault, plans_for

    job = read_job(options.job)
    try:
        plan, *more = plans_for(job, options.effort, options.seconds, options.seed, _teller())
    except PlanFault as fault:
        print(f"grainet: the plan made was refused by the verifier and is not shown: {fault}", file=sys.stderr)
        return REFUSED
    several = Plans(plans=(plan, *more)) if job.plans is not None else None
    left_out: Any = None if options.timed else {"plans": {"__all__": {"seconds"}}} if several else {"seconds"}
    write_json(options.out, several or plan, leave_out=left_out)
    print(
        f"value {plan.value:g}, bound {plan.bound:g} ({plan.bound_scope}), {plan.seconds:.1f} s"
        + (", capped" if plan.capped else "")
    )
    return DONE


def _teller() -> Any:
    if not sys.stderr.isatty():
        return None

    def tell(what: str, share: float) -> None:
        print(f"\r{share:4.0%} {what:<70.70}", end="" if share < 0.95 else "\n", file=sys.stderr, flush=True)

    return tell


def _check(options: argparse.Namespace) -> int:
    from grainet.exchange.job_file import read_job, read_plans
    from grainet.plan.verify import check

    job, plans = read_job(options.job), read_plans(options.plan)
    found = [(f"plans[{k}]: " if len(plans) > 1 else "", fault) for k, plan in enumerate(plans) for fault in check(job, plan)]
    for where, fault in found:
        print(f"{where}{fault}")
    return FAULTS if found else DONE


def _grade(options: argparse.Namespace) -> int:
    from grainet.exchange.job_file import read_job
    from grainet.exchange.json_file import write_json
    from grainet.grade.report import grade_job

    write_json(options.out, grade_job(read_job(options.job)))
    return DONE


def _import(options: argparse.Namespace) -> int:
    from grainet.exchange.json_file import Unusable
    from grainet.exchange.stock import read_rows
    from grainet.session.import_preview import WORDS, bring_in, preview
    from grainet.session.shop import Shop

    rows = read_rows(options.stock)
    with Shop.open(options.shop, create=not options.preview) as shop:
        found = preview(shop, rows)
        if options.preview:
            for row in found:
                print(f"{row.where}: No. {row.number or '?'} {WORDS[row.outcome]}: {row.text}")
            return DONE
        name = options.stock.name
        faults = [f"{name}: {r.where}: {r.text}" for r in found if r.outcome == "broken" and not options.good]
        faults += [
            f"{name}: {r.where}: number {r.number} is on the rack already with other figures ({r.text})"
            for r in found
            if r.outcome == "changes" and not (options.replace or options.good)
        ]
        if faults:
            raise Unusable([*faults, "nothing was brought in"])
        added = bring_in(shop, [r for r in found if r.by_default or (options.replace and r.may_go_in)])
    print(f"{added} pieces brought in")
    return DONE


def _export(options: argparse.Namespace) -> int:
    from grainet.exchange.stock import write_stock
    from grainet.session.shop import Shop

    with Shop.open(options.shop, read_only=True) as shop:
        pieces = shop.pieces()
        _tell_set_aside(shop)
        write_stock(options.out, pieces)
    print(f"{len(pieces)} pieces written")
    return DONE


def _open(folder: Path) -> Any:
    """A shop to read; what of it cannot be understood is said. Raises Unusable with the shop's own sentence."""
    from grainet.exchange.json_file import Unusable
    from grainet.session.shop import Shop
    from grainet.store.shop_file import ShopUnusable

    try:
        shop = Shop.open(folder, read_only=True)
    except ShopUnusable as fault:
        raise Unusable([f"{folder.name}: {fault}"]) from None
    _tell_set_aside(shop)
    return shop


def _tell_set_aside(shop: Any) -> None:
    """Name what a shop holds that cannot be understood; the rest goes on without it."""
    for one in shop.items.look_through():
        print(f"set aside: {one.message}", file=sys.stderr)


def _find(options: argparse.Namespace) -> int:
    from grainet.exchange.json_file import Unusable
    from grainet.session.query import parse_query
    from grainet.wood.value import BadEntry

    with _open(options.shop) as shop:
        try:
            query = parse_query(options.question, shop.kit.length_style, shop.kit.figure_words, shop.kit.library)
        except BadEntry as fault:
            raise Unusable([str(fault)]) from None
        found = shop.questions.ask(query)
        for piece in shop.pieces():
            if piece.id in found:
                x0, y0, x1, y1 = piece.extents
                print(
                    f"No. {piece.id}\t{piece.species}\t{x1 - x0:.0f} x {y1 - y0:.0f} x {piece.least_thickness_mm or 0:.1f}\t{piece.place}"
                )
        print(f"{len(found)} of {len(shop.pieces())}: {query.message(shop.kit.length_style) or 'every piece'}", file=sys.stderr)
    return DONE


def _sort(options: argparse.Namespace) -> int:
    from grainet.session.sorting import sorted_rack

    with _open(options.shop) as shop:
        for one in sorted_rack(shop, options.use, shop.today):
            days = f" in {one.days[0]:.0f} to {one.days[2]:.0f} days" if one.days else ""
            words = one.why or "; ".join(one.best)
            print(f"{one.group}{days}\tNo. {one.piece}\t{one.rank:.2f}\t{one.count}\t{words}")
    return DONE


def _plot(options: argparse.Namespace) -> int:
    from grainet.exchange.chart_file import write_chart
    from grainet.exchange.json_file import Unusable
    from grainet.session.charts import chart_of

    with _open(options.shop) as shop:
        try:
            chart = chart_of(shop, options.plot, shop.today, options.piece, options.use, options.by)
            write_chart(options.out, chart)
        except ValueError as fault:
            raise Unusable([str(fault)]) from None
    print(chart.message)
    return DONE
