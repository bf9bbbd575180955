"""The usual cautions at every operation that is no saw cut: by what is done, with which machine, to which wood, of which size. Grade A is agreed
to for this step; listing a step never makes it safe."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from grainet.wood.species import Species, SpeciesLibrary
from grainet.work.operation import Said

DUSTY = frozenset({"flatten", "thickness", "joint", "shoot", "slot", "cavity", "drill", "taper", "bevel", "profile", "trial"})
HANDS = frozenset({"", "hand plane"})  # no cutter turns
LEAST_LONG_MM, LEAST_THICK_MM = 300.0, 6.0  # usual of a planer's manual, where the shop tells none; judgement

READY = Said(
    code="extraction",
    grade="A",
    text="Extraction on, goggles down, ears covered; no gloves or loose sleeves at a turning cutter.",
)
FEED = Said(
    code="router_feed", grade="A",
    text="Feed against the cutter's turn, in shallow passes, the work held; the other arcs are cut with the part turned over, never with the feed turned about.",
)  # fmt: skip
SMOULDER = Said(
    code="smoulder",
    grade="A",
    text="A dull or spinning bit sets dust smouldering: sharp, slow, lift often; look at the bag again an hour later.",
)
PLANER = Said(code="planer", grade="B", text="Guard over the block, push blocks; never a hand over the cutter.")
CAPTIVE = Said(code="outline", grade="B", text="A flat reference face down first; plan the way out before going in.")


def cautions_at(
    kind: str, machine_kind: str, species: Iterable[Species], size_mm: tuple[float, float, float] | None = None, least_long_mm: float | None = None
) -> tuple[Said, ...]:  # fmt: skip
    """The cautions of one operation, the gravest first. ``size_mm`` is length, width, thickness of what is fed."""
    found = [*_of_the_machine(kind, machine_kind), *_of_the_size(machine_kind, size_mm, least_long_mm)]
    if kind in DUSTY:
        found += _of_the_dust(species, by_hand=machine_kind in HANDS)
    return tuple(sorted(found, key=lambda said: said.grade))


def _of_the_machine(kind: str, machine_kind: str) -> Iterator[Said]:
    if machine_kind not in HANDS or kind == "drill":
        yield READY
    if machine_kind == "router":
        yield FEED
    if machine_kind == "planer":
        yield PLANER
    if kind == "drill":
        yield SMOULDER


def _of_the_size(machine_kind: str, size_mm: tuple[float, float, float] | None, least_long_mm: float | None) -> Iterator[Said]:
    if size_mm is None or machine_kind not in ("planer", "thicknesser"):
        return
    long, _, thick = size_mm
    least = least_long_mm or LEAST_LONG_MM
    if long < least:
        yield Said(
            code="short_stock",
            grade="A",
            text=f"{long:.0f} long: keep to the manual's least length; without a manual do not feed it, use a carrier or a hand plane.",
        )
    if machine_kind == "planer" and thick < LEAST_THICK_MM:
        yield Said(
            code="thin_stock",
            grade="A",
            text=f"{thick:.1f} thick: a thin strip breaks over the block; on a carrier board, or by hand.",
        )


def _of_the_dust(species: Iterable[Species], *, by_hand: bool) -> Iterator[Said]:
    some = list(species)
    bad = [s.common for s in some if "irritant_sensitizer_dust" in s.flags]
    if bad:
        text = (
            f"{' and '.join(dict.fromkeys(bad))}: its dust may irritate or sensitize; a fitted mask, dust caught at the source."
        )
        yield Said(code="sensitizing_dust", grade="B" if by_hand else "A", text=text)
    if any(f in s.flags for s in some for f in ("silica", "gum_pitch")):
        yield Said(code="dulls_blades", grade="B", text="Dulls and burns cutters: a sharp spare, slow feed, respirator.")


def species_of(names: Sequence[str], library: SpeciesLibrary) -> list[Species]:
    """The known species of some names."""
    return [s for name in dict.fromkeys(names) if (s := library.find(name)) is not None]
