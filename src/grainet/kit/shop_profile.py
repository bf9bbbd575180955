"""The shop profile: what sawing takes, the climate, the house rules, and how the window shows lengths and light."""

from __future__ import annotations

from functools import cached_property
from typing import Annotated, Any, Literal, Self

from pydantic import Field

from grainet.design.role import FACTS, role_of
from grainet.kit.choosing import Choosing
from grainet.kit.cut_kit import CutKit, Kerfs, Limit, Losses, Machines
from grainet.kit.device import Device
from grainet.kit.gluing import SHIPPED_CLAMPS, SHIPPED_GLUES, Clamp, Glue
from grainet.kit.machine import Machine, cut_kit, machines_of
from grainet.kit.pair_limits import PairLimits
from grainet.kit.uses import SHIPPED_USES, UseRule, with_shipped
from grainet.wood.climate import SHIPPED_YEAR, MonthAir
from grainet.wood.figure import HOUSE_WORDS
from grainet.wood.meters import Meter
from grainet.wood.moisture import equilibrium_pct
from grainet.wood.species import Species, SpeciesLibrary, library_with
from grainet.wood.units import LengthStyle
from grainet.wood.value import Hour, Value, says_nothing

GUESSED_CUTS = CutKit(
    kerf_mm=Kerfs(crosscut=3.0, rip=3.0, resaw=1.2, outline=3.0),
    skim_mm=0.6, resaw_skim_mm=0.4, edge_mm=1.0, trim_mm=4.0, metal_clear_mm=15.0, growth_mm=25.0,
    machines=Machines(resaw_height_mm=300, planer_width_mm=260, thicknesser_width_mm=330, thicknesser_least_mm=5, least_length_mm=300),
)  # fmt: skip
GUESSED_FIELDS = frozenset({"table.kerf_mm", "resaw.kerf_mm", "resaw.highest_mm", "thicknesser.widest_mm", "planer.widest_mm"})
SHIPPED_MACHINES = machines_of(GUESSED_CUTS, GUESSED_FIELDS)
SHIPPED_LOSSES = Losses(**{name: getattr(GUESSED_CUTS, name) for name in Losses.model_fields})

SHIPPED_METERS: tuple[Meter, ...] = (
    Meter(id="pins", name="Pin meter", kind="pin", reach_mm=10),
    Meter(id="hammer", name="Hammer probe", kind="pin", reach_mm=25),
    Meter(id="plate", name="Pinless meter", kind="pinless", reach_mm=20, set_to_sg=0.5),
)
Gate = Literal["block", "advise", "off"]
Pct = Annotated[float, Field(ge=0, le=30)]


RANK_WORDS = ("poor", "fair", "good", "choice")  # shipped scale; a shop writes its own


ClampTime = Literal["label", "two hours", "overnight", "a day"]
# the weekdays without hand work, as people say them; Monday is 0
FreeDays = Literal["none", "Sunday", "weekend", "weekdays"]
FREE_DAYS: dict[FreeDays, tuple[int, ...]] = {"none": (), "Sunday": (6,), "weekend": (5, 6), "weekdays": (0, 1, 2, 3, 4)}
CLAMP_HOURS: dict[ClampTime, float] = {"label": 0.0, "two hours": 2.0, "overnight": 12.0, "a day": 24.0}


class HouseRules(Value):
    """Thresholds of the house that are no single use's; each says in its comment where the shipped figure comes from."""

    ready_within_pct: Pct = 1.0  # of the equilibrium: the settling forecast's own tolerance (notes)
    gap_warns_pct: Pct = 2.0  # between mating parts (notes)
    gap_blocks_pct: Pct = 3.0  # between mating parts (notes)
    most_movement_mm: float = Field(default=0.6, gt=0, le=20)  # over a year across a glue line; shipped judgement
    rest_within_mm: float = Field(default=0.2, gt=0, le=10)  # what still counts as still; about a sheet of paper under a rule
    rest_days: int = Field(default=7, ge=1, le=365)
    rest_neck: Gate = "block"  # a bent neck costs more than waiting
    rest_fretboard: Gate = "block"
    rest_body: Gate = "advise"
    stash_days: int = Field(default=365, ge=1, le=10_000)
    surprise_rate_pct: float = Field(default=25.0, ge=0, le=100)  # from which a supplier is pointed out
    cavities: Literal["before", "after"] = "before"  # the top goes on: builders disagree
    pressure_mpa: float = Field(default=0.0, ge=0, le=3)  # of every joint; 0: by the wood and the kind of joint
    hollow_mm: float = Field(default=0.2, ge=0, le=2)  # open in the middle of a joint of a metre; 0: flat with no light
    seconds_a_face: float = Field(default=40.0, gt=0, le=600)  # to spread and close one joint face; shipped, better measured
    clamp_time: ClampTime = "label"  # how long clamps stay on at the least: builders disagree
    spread_g_m2: float = Field(default=175.0, gt=0, le=1000)  # of glue; middle of the usual 150 to 200
    dull_m: float = Field(
        default=200.0, ge=0.1, le=100_000
    )  # metres, as they count, from which an edge is looked at before dear wood
    tap_weight: float = Field(default=0.0, ge=0, le=10)  # recorded but weightless: builders disagree whether it matters

    def rest_gate(self, use: str) -> Gate:
        """What a moving piece does to a use: blocks it, only advises, or nothing."""
        role = role_of(use)
        by_class = {"neck": self.rest_neck, "fretboard": self.rest_fretboard, "body": self.rest_body}
        return by_class[FACTS[role].rest if role is not None else "body"]


class ShopProfile(Value):
    """One shop's profile: its machines, what work takes, its air, its rules. Each machine says which of its figures are only guessed."""

    id: str = "kit"
    name: str = "Shop"
    machines: tuple[Machine, ...] = SHIPPED_MACHINES
    losses: Losses = SHIPPED_LOSSES
    rule_mm: Limit | None = None  # the longest straight rule
    temperature_c: float = Field(default=20.0, ge=-20, le=60)
    hands: int = Field(default=1, ge=1, le=20)  # who work at the bench at one time
    hours: tuple[Hour, Hour] = ("08:00", "17:00")  # of the working day
    free_days: FreeDays = "none"
    humidity: float = Field(default=0.45, ge=0.05, le=0.95)
    pin_depth_mm: float = Field(default=10.0, gt=0, le=200)
    uses: tuple[UseRule, ...] = SHIPPED_USES
    figure_words: tuple[str, ...] = HOUSE_WORDS  # this house's own scale of figure, weakest first
    rank_words: tuple[str, ...] = RANK_WORDS  # this house's own scale of how well a piece suits a use, lowest first
    length_style: LengthStyle = "mm"
    theme: Literal["desktop", "light", "dark"] = "desktop"
    pair_limits: PairLimits = PairLimits()  # how far apart boards that are no mates may lie
    match_limit_mm: float = Field(default=2.0, gt=0, le=50)  # how far lines may miss each other at a seam
    least_offcut_mm: tuple[float, float] = (150.0, 30.0)
    clamps: tuple[Clamp, ...] = SHIPPED_CLAMPS
    glues: tuple[Glue, ...] = SHIPPED_GLUES
    glue_in_use: str = "yellow"
    meters: tuple[Meter, ...] = SHIPPED_METERS
    meter_in_hand: str = "pins"
    year: Annotated[tuple[MonthAir, ...], Field(min_length=12, max_length=12)] = SHIPPED_YEAR
    rules: HouseRules = HouseRules()
    choosing: Choosing = Choosing()  # what counts when pieces are ranked for a part
    devices: tuple[Device, ...] = Field(default=(), exclude_if=says_nothing)  # real instruments; the others have their stand-ins
    snipe_mm: float = Field(default=0.0, ge=0, le=500, exclude_if=says_nothing)  # at each end; of instruments that begin
    paces: tuple[tuple[str, float], ...] = Field(
        default=(), exclude_if=says_nothing
    )  # of kinds of steps: how long against the book's minutes
    settles: tuple[tuple[str, float], ...] = Field(
        default=(), exclude_if=says_nothing
    )  # of species: how quickly against the book
    species: tuple[Species, ...] = ()  # the shop's own, and shipped ones that it changed

    @classmethod
    def of_cuts(cls, cuts: CutKit, **fields: Any) -> Self:
        """A profile whose machines give just these kerfs, losses and limits."""
        losses = Losses(**{name: getattr(cuts, name) for name in Losses.model_fields})
        return cls(machines=machines_of(cuts), losses=losses, **fields)

    @cached_property
    def cuts(self) -> CutKit:
        """Kerfs, losses and limits of the exchange contract: a view of the machines that do the work."""
        return cut_kit(self.machines, self.losses)

    @cached_property
    def target_moisture_pct(self) -> float:
        """The moisture that wood comes to in this shop's air, %."""
        return equilibrium_pct(self.temperature_c, self.humidity)

    @cached_property
    def every_use(self) -> tuple[UseRule, ...]:
        """The shop's uses, and shipped ones that an older profile does not have yet."""
        return with_shipped(self.uses)

    def use(self, use_id: str) -> UseRule:
        """The rule of a use. Raises StopIteration for none of the house's uses."""
        return next(rule for rule in self.every_use if rule.use == use_id)

    @cached_property
    def library(self) -> SpeciesLibrary:
        """Every species that the shop knows: shipped ones and its own."""
        return library_with(self.species)

    @property
    def meter(self) -> Meter:
        """The meter in hand; the first one where that was taken out."""
        return next((m for m in self.meters if m.id == self.meter_in_hand), (*self.meters, *SHIPPED_METERS)[0])

    @property
    def glue(self) -> Glue:
        """The glue in use; the first one where that was taken out."""
        return next((g for g in self.glues if g.id == self.glue_in_use), (*self.glues, *SHIPPED_GLUES)[0])

    def cuts_for(self, thickest_mm: float) -> CutKit:
        """The cuts with the rough margin that this shop's saw needs on the thickest stack."""
        rough = max((m.rough_margin_mm(thickest_mm) for m in self.machines), default=0.0)
        margin = max(self.cuts.margin_mm, rough)
        return self.cuts if margin == self.cuts.margin_mm else self.cuts.changed(margin_mm=round(margin, 2))
