"""The loss chain: what flattening takes from the thickness of a part, link by link. Source: the notes' worked example."""

from __future__ import annotations

from dataclasses import dataclass, field

from grainet.wood.piece import Flatness


@dataclass(frozen=True)
class Link:
    """One link of the chain: its name and what it takes, in mm."""

    name: str
    takes_mm: float


@dataclass(frozen=True)
class LossChain:
    """Thickness before, what each link takes, and what is left; it sums exactly, whatever links are switched off."""

    reading_mm: float
    links: tuple[Link, ...]
    off: frozenset[str] = field(default_factory=frozenset)

    @property
    def left_mm(self) -> float:
        """What is left at the end of the chain, mm."""
        return self.reading_mm - sum(link.takes_mm for link in self.links if link.name not in self.off)

    def without(self, *names: str) -> LossChain:
        """The chain with some links switched off."""
        return LossChain(self.reading_mm, self.links, self.off | set(names))


def flattening_links(
    flat: Flatness, part_length_mm: float, part_width_mm: float, piece_length_mm: float, piece_width_mm: float
) -> tuple[Link, Link, Link]:
    """Bow (l/span)^2, cup (w/span)^2 and half the rocking gap x (l w)/(span W), in mm; an absent span is the piece's extent."""
    bow = flat.bow_mm * (part_length_mm / (flat.bow_span_mm or piece_length_mm)) ** 2
    cup = flat.cup_mm * (part_width_mm / (flat.cup_span_mm or piece_width_mm)) ** 2
    rock = flat.rock_mm / 2 * (part_length_mm * part_width_mm) / ((flat.rock_span_mm or piece_length_mm) * piece_width_mm)
    return Link("bow", bow), Link("cup", cup), Link("rocking", rock)


def loss_chain(
    reading_mm: float, flat: Flatness, part_mm: tuple[float, float], piece_mm: tuple[float, float], skim_mm: float = 0.0,
    void_mm: float = 0.0,
) -> LossChain:  # fmt: skip
    """The whole chain for a part of ``part_mm`` (length, width) on a piece of ``piece_mm``; ``skim_mm`` is per face."""
    links = (*flattening_links(flat, *part_mm, *piece_mm), Link("skims", 2 * skim_mm), Link("void", void_mm))
    return LossChain(reading_mm, links)


def crook_loss(flat: Flatness, part_length_mm: float, piece_length_mm: float) -> float:
    """What straightening the edge takes from the width over a part's length, in mm."""
    return flat.crook_mm * (part_length_mm / (flat.crook_span_mm or piece_length_mm)) ** 2


def twist_over(
    flat: Flatness, part_length_mm: float, part_width_mm: float, piece_length_mm: float, piece_width_mm: float
) -> float:
    """The height of the fourth corner of a part of a twisted board, in mm: what was read over a span, by length and width."""
    span = flat.rock_span_mm or piece_length_mm
    return flat.rock_mm * part_length_mm / span * min(1.0, part_width_mm / piece_width_mm)


def over_the_whole(flat: Flatness, piece_length_mm: float) -> Flatness:
    """The same twist told over the piece's whole length, as jobs have it."""
    if flat.rock_span_mm is None:
        return flat
    return flat.changed(rock_mm=min(1000.0, flat.rock_mm * piece_length_mm / flat.rock_span_mm), rock_span_mm=None)
