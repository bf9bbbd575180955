"""Photos of parts that are cut or joined: kept with the plan's bench log, shown where the part lies and told in the story."""

from __future__ import annotations

from grainet.session.making import AtTheBench, called
from grainet.work.bench_log import PartPhoto
from grainet.work.holds import Held, Hold


def photograph(bench: AtTheBench, workpiece: str, sha: str) -> str:
    """A photo of a workpiece is kept, by the name of its original; what was done in words. Raises Held where the part is not cut yet."""
    word = bench.states.get(workpiece, "")
    if not word or word.startswith(("in the board", "not ")):
        told = word or "no part of this plan"
        raise Held(Hold("order", "cut it", f"{called(workpiece)} is {told}: there is nothing of it to photograph yet."))
    photo = PartPhoto(workpiece=workpiece, on=bench.now.date().isoformat(), sha=sha)
    bench.shop.apply(f"a photo of {called(workpiece)}", bench.log.with_photo(photo))
    return f"the photo is kept with {called(workpiece)}"


def photos_of(bench: AtTheBench, workpiece: str) -> tuple[PartPhoto, ...]:
    """The photos of a workpiece, the first taken first."""
    return tuple(p for p in bench.log.photos if p.workpiece == workpiece)
