"""What the shop's records say, lane by lane, in words; what went wrong; and how far each edge has cut."""

from __future__ import annotations

from dataclasses import dataclass

from grainet.present.bench_view import TITLES
from grainet.session.learning import learnt_of, title_of, told_figure
from grainet.session.mishaps import mishaps_of, repeated, sentence, wear
from grainet.session.shop import Shop
from grainet.work.learning import FROM, RATIOS, Lane

UNITS: dict[str, str] = {"lean": "°", "minutes": "times the usual minutes", "settling": "times the book's pace"}
SPREAD_WORDS = {"few": "", "agrees": "", "proposes": "", "asks": ": too spread to plan with", "kept": ": you kept it"}


@dataclass(frozen=True)
class LaneView:
    """One lane as it stands on the screen: heading, what is below it, two lines of words, what its buttons say (empty: none)."""

    lane: Lane
    title: str
    below: str
    words: str
    more: str
    take: str
    keep: str
    back: str

    @property
    def scale(self) -> tuple[float, float]:
        """From where to where its axis goes: 0, or the least that is below it, to a round figure beyond everything."""
        every = [*self.lane.values, *([self.lane.assumed] if self.lane.assumed is not None else [])]
        top = max([*every, 0.1]) * 1.15
        for nice in (0.2, 0.5, 1, 2, 3, 4, 5, 6, 8, 10, 15, 20, 30, 50, 100, 200):
            if top <= nice:
                return 0.0, float(nice)
        return 0.0, top


def lane_view(shop: Shop, lane: Lane) -> LaneView:
    """A lane in words."""
    unit = UNITS.get(lane.what, "")
    style = shop.kit.length_style

    def told(value: float, form: str = "g") -> str:
        return told_figure(lane.what, value, style, form)

    figure, form = told(lane.figure), ".2f" if lane.what in RATIOS else ".1f"
    n = len(lane.records)
    below = ", ".join(w for w in (lane.species if lane.what != "settling" else "", f"{n} record{'s' if n > 1 else ''}") if w)
    spread = told(lane.median, form)
    took = "within" if lane.what == "miss" else "is" if lane.what in ("lean", "settling") else "takes"
    shown = figure if lane.what == "miss" else spread
    off = told(lane.spread, form)
    words = f"planned {told(lane.assumed)}, {took} {shown} ± {off}" if lane.assumed is not None else f"{took} {shown} ± {off}"
    words += f" {unit}" if unit and unit != "°" else unit
    change = learnt_of(shop).taken(lane.key)
    more = {
        "few": f"{FROM - n} more record{'s' if FROM - n > 1 else ''} before it may speak", "agrees": "nothing to learn" if lane.assumed is not None else "nothing is planned with it",
        "proposes": "nothing changes till you say so", "asks": lane.cause, "kept": "kept as it was; it speaks again with five more records",
    }[lane.stand]  # fmt: skip
    if change is not None and lane.stand == "agrees":
        more = f"planned with {told(change.now)} since {change.on}, was {told(change.was)}"
    proposes = lane.stand == "proposes"
    return LaneView(
        lane, _title(lane), below, words + SPREAD_WORDS[lane.stand], more, f"Plan with {figure}" if proposes else "",
        f"Keep {told(lane.assumed)}" if proposes and lane.assumed is not None else "", f"Take {told(change.now)} back" if change is not None else "",
    )  # fmt: skip


def _title(lane: Lane) -> str:
    """A lane's heading: of minutes the kind of step as the bench calls it."""
    return f"{TITLES.get(lane.tool, lane.tool.capitalize())}: how long it takes" if lane.what == "minutes" else title_of(lane)


def went_wrong(shop: Shop) -> tuple[list[str], list[str]]:
    """What repeats, and every mishap, the last one first."""
    rows = mishaps_of(shop)
    return [r.text for r in repeated(rows)], [f"{m.on}  {sentence(m, shop.kit.length_style)}" for m in rows]


def edges(shop: Shop) -> list[tuple[str, str, bool]]:
    """Each machine that has cut: its name, how far in words, whether it is to be looked at before dear wood."""
    found = []
    for one in wear(shop):
        since = f"since {one.since[:10]}" if one.since else "since the first cut that was ticked here"
        counts = f", counts {one.counts:.0f} in such wood" if one.counts > one.metres + 0.5 else ""
        found.append((one.tool.capitalize(), f"{one.metres:.1f} m {since}{counts}", one.counts >= shop.kit.rules.dull_m))
    return found
