"""What each use needs of its wood: size, moisture, rings, slope, density, straightness, troubles. House rules, all of them editable.

The defaults are ours; each says where it comes from. Two presets, clear and character, serve two schools; a rule weighs rather than
bans where builders disagree.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any, Literal

from pydantic import BeforeValidator, Field

from grainet.design.role import FACTS, role_of
from grainet.kit.use import Use
from grainet.wood.value import Value

Strictness = Literal["must", "weigh", "off"]
Preset = Literal["clear", "character"]
PRESETS: tuple[Preset, ...] = ("clear", "character")
Weight = Annotated[float, Field(ge=0, le=10)]
Millimetres = Annotated[float, Field(gt=0, le=20_000)]
# what may be made stricter or laxer per use: rule id, its words, and how strict it is shipped
RULES: dict[str, tuple[str, Strictness]] = {
    "moisture": ("moisture over the shop's air", "must"),
    "core": ("the core's moisture is known", "must"),
    "rest": ("it has stopped moving", "must"),
    "rings": ("ring angle", "weigh"),
    "slope": ("slope of grain", "must"),
    "density": ("density at 12 %", "must"),
    "twist": ("twist over the part", "must"),
    "bow": ("bow over the part", "must"),
    "cup": ("cup over the part", "must"),
    "movement": ("movement over a year", "weigh"),
    "figure": ("figure", "off"),
    "tap": ("ring of a knock", "off"),
}


class UseRule(Value):
    """One use and what it needs. Sizes are finished, in mm; a part of the job or build may bring sizes of its own.

    ``strict`` overrides how strict single rules are; ``weights`` what a rule counts when pieces are ranked (1 where not named).
    """

    use: Annotated[Use, BeforeValidator(Use)]
    label: str = Field(min_length=1, max_length=40)
    length_mm: Millimetres
    width_mm: Millimetres
    thickness_mm: Millimetres
    leaves: int = Field(default=1, ge=1)
    counted_as: str = "piece"
    allows_shows: bool = True
    welcomes_shows: bool = False  # sound knots, sap, streaks and stains may stay in sight
    allows_moves: bool = False
    hides_bites: bool = False
    moisture_over_pct: float = Field(default=1.5, ge=0, le=30)
    core_matters: bool = True
    least_ring_deg: float | None = Field(default=None, ge=0, le=90)
    ring_strictness: Strictness = "weigh"
    most_slope_deg: float = Field(default=5.0, gt=0, le=45)
    density_kg_m3: tuple[float, float] = (0.0, 2000.0)
    most_cup_mm: float | None = Field(default=None, gt=0, le=300)
    most_twist_mm: float | None = Field(default=None, gt=0, le=300)
    most_bow_mm: float | None = Field(default=None, gt=0, le=300)
    most_movement_mm: float | None = Field(default=None, gt=0, le=50)
    wants_figure: float | None = Field(default=None, ge=0, le=1)
    strict: tuple[tuple[str, Strictness], ...] = ()
    weights: tuple[tuple[str, Weight], ...] = ()
    preset: Literal["clear", "character", "own"] = "clear"
    source: str = "house rule, shipped default"

    def strictness(self, rule: str) -> Strictness:
        """How strict one rule is for this use."""
        own = dict(self.strict).get(rule)
        if own is not None:
            return own
        return self.ring_strictness if rule == "rings" else RULES[rule][1] if rule in RULES else "must"

    def weight(self, rule: str) -> float:
        """What one rule counts when pieces are ranked; a tap counts nothing unless the shop says so."""
        return dict(self.weights).get(rule, 0.0 if rule == "tap" else 1.0)

    def with_strictness(self, rule: str, how: Strictness) -> UseRule:
        """The same with one rule stricter or laxer; it is no preset any more."""
        changes: dict[str, Any] = {"strict": (*((r, s) for r, s in self.strict if r != rule), (rule, how)), "preset": "own"}
        return self.changed(**changes)


@dataclass(frozen=True)
class UseFacts:
    """What a use is shipped as. ``in_sight``: no trouble may show where the preset is clear. ``covered``: what bites a tool may go under a
    cover where it is character."""

    rule: UseRule
    in_sight: bool
    covered: bool


USES: dict[Use, UseFacts] = {
    one.rule.use: one
    for one in (
        UseFacts(UseRule(use=Use.BODY_HALF, label="Body half", length_mm=470, width_mm=172, thickness_mm=44, counted_as="half",
                hides_bites=True, welcomes_shows=True, moisture_over_pct=2.0, most_slope_deg=10, density_kg_m3=(300, 850),
                most_twist_mm=6,
                preset="character", source="two-piece body of 344 wide, jointed and planed"),
                 in_sight=False, covered=True),
        UseFacts(UseRule(use=Use.MATCHED_TOP, label="Matched top", length_mm=470, width_mm=172, thickness_mm=7, leaves=2, counted_as="pair",
                moisture_over_pct=1.5, most_slope_deg=10, most_twist_mm=4, source="two leaves from one place, opened like a book"),
                 in_sight=True, covered=False),
        UseFacts(UseRule(use=Use.NECK, label="Neck", length_mm=690, width_mm=70, thickness_mm=22, counted_as="neck", allows_shows=False,
                moisture_over_pct=1.0, least_ring_deg=60, ring_strictness="weigh", most_slope_deg=3, density_kg_m3=(520, 1000),
                most_twist_mm=2, most_bow_mm=4,
                source="bolt-on neck, head flat with the shaft; quarter preferred, flat allowed with a reason"),
                 in_sight=True, covered=False),
        UseFacts(UseRule(use=Use.FRETBOARD, label="Fretboard", length_mm=485, width_mm=62, thickness_mm=6.5, counted_as="board",
                allows_shows=False, moisture_over_pct=1.0, most_slope_deg=5, density_kg_m3=(640, 1350), most_twist_mm=2,
                source="648 scale, 22 frets with overhang; hard enough to hold frets"),
                 in_sight=True, covered=False),
        UseFacts(UseRule(use=Use.LAMINATE_STRIP, label="Laminate strip", length_mm=700, width_mm=58, thickness_mm=12, counted_as="strip",
                allows_shows=False, moisture_over_pct=1.0, most_slope_deg=4, density_kg_m3=(450, 1200), most_twist_mm=3,
                source="one member of a laminated neck, ripped from the board's width"),
                 in_sight=True, covered=False),
        UseFacts(UseRule(use=Use.HEAD_PLATE, label="Head plate", length_mm=200, width_mm=82, thickness_mm=2.5, counted_as="plate",
                moisture_over_pct=2.0, most_slope_deg=15, most_cup_mm=2.0, preset="character", source="covers a head of 190 x 78"),
                 in_sight=True, covered=True),
        UseFacts(UseRule(use=Use.BINDING, label="Binding", length_mm=800, width_mm=7, thickness_mm=2.2, counted_as="strip", allows_shows=False,
                moisture_over_pct=2.0, most_slope_deg=2, density_kg_m3=(500, 1400), core_matters=False,
                source="bends over heat round a waist: straight grain, no defects"),
                 in_sight=True, covered=False),
        UseFacts(UseRule(use=Use.CORE, label="Core", length_mm=480, width_mm=110, thickness_mm=38, counted_as="core", allows_moves=False,
                hides_bites=True, welcomes_shows=True, moisture_over_pct=2.0, most_slope_deg=10, density_kg_m3=(250, 750), preset="character",
                source="the middle of a capped body: light, sound, unseen"),
                 in_sight=False, covered=True),
    )
}  # fmt: skip
SHIPPED_USES: tuple[UseRule, ...] = tuple(USES[use].rule for use in Use)


def shipped(use: str) -> UseRule:
    """A use as it is shipped."""
    return USES[Use(use)].rule


def with_shipped(uses: tuple[UseRule, ...]) -> tuple[UseRule, ...]:
    """A profile's uses in the order of the ids, with shipped ones where it has none."""
    own = {rule.use: rule for rule in uses}
    return tuple(own.get(use, shipped(use)) for use in Use)


def as_preset(rule: UseRule, preset: Preset) -> UseRule:
    """A use in one of the two presets; sizes stay the shop's own.

    Clear: no troubles in sight, quarter wished where the use has a wish, tight moisture. Character: what only shows is welcome, and
    what bites may go under a cover; ring angle weighs nothing, slopes and moisture a little wider. What breaks the wood or bites a
    tool stays out in both.
    """
    base = shipped(rule.use)
    sizes: dict[str, Any] = {
        name: getattr(rule, name) for name in ("length_mm", "width_mm", "thickness_mm", "leaves", "label", "source")
    }
    if preset == "clear":
        return base.changed(
            **sizes, preset="clear", allows_shows=not USES[rule.use].in_sight, welcomes_shows=False, hides_bites=False,
            moisture_over_pct=min(base.moisture_over_pct, 1.5), strict=(), weights=(),
        )  # fmt: skip
    return base.changed(
        **sizes, preset="character", allows_shows=True, welcomes_shows=True, hides_bites=USES[rule.use].covered,
        moisture_over_pct=max(base.moisture_over_pct, 1.5), most_slope_deg=min(45.0, base.most_slope_deg * 1.5),
        strict=(("rings", "off"), ("figure", "weigh")), weights=(("figure", 2.0),), wants_figure=0.5,
    )  # fmt: skip


def use_of_role(role: str) -> Use | None:
    """The use that a part's role means; None where the role is not known."""
    known = role_of(role)
    return None if known is None else Use(FACTS[known].use)


def rule_for_role(uses: tuple[UseRule, ...], role: str) -> UseRule:
    """The house rule that a part's role goes by. A role that nobody knows is held to what every part is: dry, at rest, swept, as
    strictly as a neck; what a use needs of its own (rings, density, size) it cannot be held to."""
    use = use_of_role(role)
    if use is not None:
        return next(rule for rule in with_shipped(uses) if rule.use == use)
    strict = next(rule for rule in with_shipped(uses) if rule.use == "neck")
    return strict.changed(
        label=(role or "a part without a role")[:40], density_kg_m3=(0.0, 2000.0), least_ring_deg=None, most_slope_deg=45.0,
        most_twist_mm=None, most_bow_mm=None, most_cup_mm=None, most_movement_mm=None, wants_figure=None,
        source="house rules for every part: its role is not one of the uses",
    )  # fmt: skip
