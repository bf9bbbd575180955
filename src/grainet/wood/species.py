"""Species facts and the library that finds them by any of their names. A shop's own species stand beside the shipped ones.

Source of the shipped table ``data/species.csv``: recalled from standard wood-technology literature (chiefly the Wood Handbook);
confidence A to C stands in each row. Flags, colours and roles are judgement.
"""

from __future__ import annotations

import csv
import re
from collections.abc import Iterable
from functools import lru_cache
from importlib.resources import files
from typing import Annotated, Literal

from pydantic import Field

from grainet.wood.value import Value

FLAGS = (
    "oily", "high_tannin", "bleeding_dust", "silica", "irritant_sensitizer_dust", "interlocked_tearout",
    "trade_regulated", "gum_pitch",
)  # fmt: skip
FLAG_WORDS = {
    "oily": "oily", "high_tannin": "tannin", "bleeding_dust": "dust stains", "silica": "silica", "irritant_sensitizer_dust": "irritant dust",
    "interlocked_tearout": "tears out", "trade_regulated": "trade-controlled", "gum_pitch": "gum or pitch",
}  # fmt: skip
COLOURS = ("pale", "yellow", "tan", "orange", "reddish", "brown", "dark", "purple", "green")
POROSITIES = ("ring", "semi", "diffuse", "none")
DENSITY_SPREAD = 0.10  # coefficient of variation within a species (Wood Handbook)
Share = Annotated[float, Field(gt=0, le=40)]


class Species(Value):
    """Facts of one species or trade group. Density kg/m3 at 12 %, shrinkage % green to oven-dry, hardness N, stiffness GPa."""

    common: str = Field(min_length=1, max_length=80)
    scientific: str = ""
    group: Literal["hardwood", "softwood", ""] = ""
    basic_sg: float = Field(gt=0.04, le=1.3)
    density_12_kg_m3: float = Field(gt=40, le=1500)
    shrink_radial_pct: Share
    shrink_tangential_pct: Share
    shrink_volumetric_pct: Share | None = None
    janka_n: float | None = Field(default=None, gt=0, le=30_000)
    moe_gpa: float | None = Field(default=None, gt=0, le=60)
    porosity: Literal["ring", "semi", "diffuse", "none", ""] = ""
    flags: frozenset[str] = frozenset()
    trade_note: str = ""
    roles: tuple[str, ...] = ()
    confidence: str = ""
    note: str = ""
    colours: tuple[str, ...] = ()
    other_names: tuple[str, ...] = ()
    density_spread: float = Field(default=DENSITY_SPREAD, gt=0, le=0.5)
    finish_note: str = ""  # how its colour goes under a finish and in the light
    source: str = ""

    @property
    def density_band_kg_m3(self) -> tuple[float, float]:
        """Two standard deviations either way of the mean at 12 %."""
        return self.density_12_kg_m3 * (1 - 2 * self.density_spread), self.density_12_kg_m3 * (1 + 2 * self.density_spread)

    @property
    def names(self) -> tuple[str, ...]:
        """Every name that finds it: common, its bracket, scientific, trade names."""
        bare, _, inner = self.common.partition("(")
        return tuple(
            n.strip()
            for n in (self.common, bare, inner.rstrip(") "), *re.split(r"[/,]", bare), self.scientific, *self.other_names)
            if n.strip()
        )


def _number(text: str) -> float | None:
    return float(text) if text.strip() else None


def _words(text: str) -> tuple[str, ...]:
    return tuple(w.strip() for w in text.split(";") if w.strip())


def _from_row(row: dict[str, str]) -> Species:
    return Species(
        common=row["common"], scientific=row["scientific"], group=row["group"], basic_sg=float(row["basic_sg"]),  # type: ignore[arg-type]
        density_12_kg_m3=float(row["density_12_kg_m3"]), shrink_radial_pct=float(row["shrink_radial_pct"]),
        shrink_tangential_pct=float(row["shrink_tangential_pct"]), shrink_volumetric_pct=_number(row["shrink_volumetric_pct"]),
        janka_n=_number(row["janka_N"]), moe_gpa=_number(row["moe_12_GPa"]), porosity=row["porosity"],  # type: ignore[arg-type]
        flags=frozenset(flag for flag in FLAGS if row[flag] == "1"), trade_note=row["trade_note"], roles=_words(row["roles"]),
        confidence=row["confidence"], note=row["note"], colours=_words(row["colour"]), other_names=_words(row["other_names"]),
        source=f"shipped table, confidence {row['confidence']}",
    )  # fmt: skip


def plain(name: str) -> str:
    """A name as it is compared: small letters and figures only."""
    return re.sub(r"[^a-z0-9]+", " ", name.lower()).strip()


class SpeciesLibrary:
    """Species found by any of their names; a shop's own entry wins over a shipped one of the same common name."""

    def __init__(self, entries: Iterable[Species]) -> None:
        kept: dict[str, Species] = {}
        for one in entries:
            kept[plain(one.common)] = one
        self.all = tuple(kept.values())
        self._index: dict[str, Species] = {}
        self._asked: dict[str, Species | None] = {}
        self._wished: dict[tuple[str, ...], frozenset[str]] = {}
        for one in self.all:  # a full common name is never taken by another's trade name
            self._index[plain(one.common)] = one
        for one in self.all:
            for name in one.names:
                self._index.setdefault(plain(name), one)

    def find(self, name: str) -> Species | None:
        """The species of that common, trade or scientific name, or None ("unknown" and unlisted names)."""
        if name not in self._asked:  # pieces ask for the same few names again and again
            tidy = plain(name)
            self._asked[name] = self._index.get(tidy) if tidy and tidy != "unknown" else None
        return self._asked[name]

    def suggest(self, text: str, most: int = 8) -> list[Species]:
        """Species whose names hold every typed word: the one of that very name first, then those that begin with the text."""
        wanted, whole = plain(text).split(), plain(text)
        hits = [s for s in self.all if all(w in " ".join(plain(n) for n in s.names) for w in wanted)]
        own = self.find(text)
        return sorted(hits, key=lambda s: (s is not own, not any(plain(n).startswith(whole) for n in s.names), s.common))[:most]

    def matches(self, text: str) -> tuple[Species, ...]:
        """Every species that a name may mean, likeliest first: one where the name is its own, several where it is a family's
        ("walnut"), none where nothing is called so or the text holds no name at all."""
        tidy = plain(text)
        if len(tidy) < 2 or tidy == "unknown":
            return ()
        words = tidy.split()
        own = self._index.get(tidy)
        if own is not None and (len(words) > 1 or tidy in (plain(own.common), plain(own.scientific))):
            return (own,)
        hits = [s for s in self.all if any(set(words) <= set(plain(n).split()) for n in s.names)]
        hits = hits or [s for s in self.all if any(all(_begins(n, w) for w in words) for n in s.names)]
        return tuple(sorted(hits, key=lambda s: (s is not own, s.common)))

    def best(self, text: str) -> Species | None:
        """The one species that a name means, or None where none or several do."""
        found = self.matches(text)
        return found[0] if len(found) == 1 else None

    def is_one_of(self, name: str, wished: Iterable[str]) -> bool:
        """Whether a wood is one of those that are wished for, by any of their names; a wood that nobody knows is none."""
        found, names = self.find(name), tuple(wished)
        if names not in self._wished:  # a part asks the whole rack for the same woods
            self._wished[names] = frozenset(one.common for text in names for one in self.matches(text))
        return found is not None and found.common in self._wished[names]

    def short_name(self, name: str) -> str:
        """The name for a small label: the common name without its bracket."""
        species = self.find(name)
        return (species.common if species else name).partition("(")[0].strip() or "unknown"


def _begins(name: str, word: str) -> bool:
    """Whether a word of a name begins with another: "cherr" finds cherry."""
    return len(word) >= 3 and any(part.startswith(word) for part in plain(name).split())


@lru_cache(maxsize=1)
def library() -> tuple[Species, ...]:
    """All shipped species in the table's order."""
    with (files("grainet.data") / "species.csv").open("r", encoding="utf-8") as table:
        return tuple(_from_row(row) for row in csv.DictReader(table))


@lru_cache(maxsize=8)
def library_with(own: tuple[Species, ...] = ()) -> SpeciesLibrary:
    """The shipped species and a shop's own, which win over shipped ones of the same common name."""
    return SpeciesLibrary((*library(), *own))


def find(name: str) -> Species | None:
    """A shipped species by any name; a shop's own are found through its kit."""
    return library_with().find(name)


def suggest(text: str, most: int = 8) -> list[Species]:
    """Shipped species whose names hold every typed word."""
    return library_with().suggest(text, most)


def short_name(name: str) -> str:
    """The name for a small label: the common name without its bracket."""
    return library_with().short_name(name)
