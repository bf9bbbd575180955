"""What each use wants of its wood: size, moisture, rings, slope, density, straightness, troubles. House rules, all of them editable.

The defaults are ours; each says where it comes from. Two presets, clear and character, serve two schools; a rule weighs rather than
bans where builders disagree.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from grainet.wood.value import Value

UseId = Literal["body_half", "matched_top", "neck", "fretboard", "laminate_strip", "head_plate", "binding", "core"]
USE_IDS: tuple[UseId, ...] = (
    "body_half", "matched_top", "neck", "fretboard", "laminate_strip", "head_plate", "binding", "core",
)  # fmt: skip
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
    """One use and what it wants. Sizes are finished, in mm; a part of the job or build may bring sizes of its own.

    ``strict`` overrides how strict single rules are; ``weights`` what a rule counts when pieces are ranked (1 where not named).
    """

    use: UseId
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
        changes: dict[str, Any] = {"strict": (*((r, s) for r, s in self.strict if r != rule), (rule, how)), "preset": "own"}
        return self.changed(**changes)


SHIPPED_USES: tuple[UseRule, ...] = (
    UseRule(use="body_half", label="Body half", length_mm=470, width_mm=172, thickness_mm=44, counted_as="half",
            hides_bites=True, welcomes_shows=True, moisture_over_pct=2.0, most_slope_deg=10, density_kg_m3=(300, 850),
            most_twist_mm=6,
            preset="character", source="two-piece body of 344 wide, jointed and planed"),
    UseRule(use="matched_top", label="Matched top", length_mm=470, width_mm=172, thickness_mm=7, leaves=2, counted_as="pair",
            moisture_over_pct=1.5, most_slope_deg=10, most_twist_mm=4, source="two leaves from one footprint, opened like a book"),
    UseRule(use="neck", label="Neck", length_mm=690, width_mm=70, thickness_mm=22, counted_as="neck", allows_shows=False,
            moisture_over_pct=1.0, least_ring_deg=60, ring_strictness="weigh", most_slope_deg=3, density_kg_m3=(520, 1000),
            most_twist_mm=2, most_bow_mm=4,
            source="bolt-on neck, head flat with the shaft; quarter preferred, flat allowed with a reason"),
    UseRule(use="fretboard", label="Fretboard", length_mm=485, width_mm=62, thickness_mm=6.5, counted_as="board",
            allows_shows=False, moisture_over_pct=1.0, most_slope_deg=5, density_kg_m3=(640, 1350), most_twist_mm=2,
            source="648 scale, 22 frets with overhang; hard enough to hold frets"),
    UseRule(use="laminate_strip", label="Laminate strip", length_mm=700, width_mm=58, thickness_mm=12, counted_as="strip",
            allows_shows=False, moisture_over_pct=1.0, most_slope_deg=4, density_kg_m3=(450, 1200), most_twist_mm=3,
            source="one member of a laminated neck, ripped from the board's width"),
    UseRule(use="head_plate", label="Head plate", length_mm=200, width_mm=82, thickness_mm=2.5, counted_as="plate",
            moisture_over_pct=2.0, most_slope_deg=15, most_cup_mm=2.0, preset="character", source="covers a head of 190 x 78"),
    UseRule(use="binding", label="Binding", length_mm=800, width_mm=7, thickness_mm=2.2, counted_as="strip", allows_shows=False,
            moisture_over_pct=2.0, most_slope_deg=2, density_kg_m3=(500, 1400), core_matters=False,
            source="bends over heat round a waist: straight grain, no troubles"),
    UseRule(use="core", label="Core", length_mm=480, width_mm=110, thickness_mm=38, counted_as="core", allows_moves=False,
            hides_bites=True, welcomes_shows=True, moisture_over_pct=2.0, most_slope_deg=10, density_kg_m3=(250, 750), preset="character",
            source="the middle of a capped body: light, sound, unseen"),
)  # fmt: skip


def shipped(use: str) -> UseRule:
    """A use as it is shipped."""
    return next(rule for rule in SHIPPED_USES if rule.use == use)


def with_shipped(uses: tuple[UseRule, ...]) -> tuple[UseRule, ...]:
    """A profile's uses in the order of the ids, with shipped ones where it has none."""
    own = {rule.use: rule for rule in uses}
    return tuple(own.get(use, shipped(use)) for use in USE_IDS)


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
        critical = rule.use in ("neck", "fretboard", "laminate_strip", "binding", "matched_top", "head_plate")
        return base.changed(
            **sizes, preset="clear", allows_shows=not critical, welcomes_shows=False, hides_bites=False,
            moisture_over_pct=min(base.moisture_over_pct, 1.5), strict=(), weights=(),
        )  # fmt: skip
    return base.changed(
        **sizes, preset="character", allows_shows=True, welcomes_shows=True, hides_bites=rule.use in ("body_half", "core", "head_plate"),
        moisture_over_pct=max(base.moisture_over_pct, 1.5), most_slope_deg=min(45.0, base.most_slope_deg * 1.5),
        strict=(("rings", "off"), ("figure", "weigh")), weights=(("figure", 2.0),), wants_figure=0.5,
    )  # fmt: skip


# what builders call a part besides the uses' own names
USE_OF_WORD: dict[str, UseId] = {
    "neck": "neck", "shaft": "neck", "ear": "neck", "heel": "neck", "body": "body_half", "half": "body_half", "wing": "body_half",
    "top": "matched_top", "cap": "matched_top", "fretboard": "fretboard", "fingerboard": "fretboard", "strip": "laminate_strip",
    "laminate": "laminate_strip", "headplate": "head_plate", "plate": "head_plate", "binding": "binding", "core": "core",
}  # fmt: skip


def use_of_role(role: str) -> UseId | None:
    """The use that a part's role means: its own name, or a word of it ("bolt_on_neck" is a neck); None where no word is known."""
    tidy = role.strip().lower().replace("-", "_").replace(" ", "_")
    if tidy in USE_IDS:
        return tidy  # type: ignore[return-value]
    words = tidy.split("_")
    single = [w.removesuffix("s") for w in words]
    named = [use for use in USE_IDS if "_" in use and set(use.split("_")) <= set(single)]
    if named:
        return max(named, key=len)
    return next((USE_OF_WORD[w] for w in reversed(single) if w in USE_OF_WORD), None)


def rule_for_role(uses: tuple[UseRule, ...], role: str) -> UseRule:
    """The house rule that a part's role goes by. A role that nobody knows is held to what every part is: dry, at rest, swept, as
    strictly as a neck; what a use wants of its own (rings, density, size) it cannot be held to."""
    use = use_of_role(role)
    if use is not None:
        return next(rule for rule in with_shipped(uses) if rule.use == use)
    strict = next(rule for rule in with_shipped(uses) if rule.use == "neck")
    return strict.changed(
        label=(role or "a part without a role")[:40], density_kg_m3=(0.0, 2000.0), least_ring_deg=None, most_slope_deg=45.0,
        most_twist_mm=None, most_bow_mm=None, most_cup_mm=None, most_movement_mm=None, wants_figure=None,
        source="house rules for every part: its role is not one of the uses",
    )  # fmt: skip
