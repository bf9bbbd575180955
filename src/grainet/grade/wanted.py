"""What a lane, a list or the rack asks a piece for: a part of the build in hand by its own outline, or a use of the house by size."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from grainet.design.design import Design
from grainet.design.part import Part
from grainet.design.shape import extents
from grainet.kit.uses import UseRule, use_of_role


@dataclass(frozen=True, eq=False)
class Wanted:
    """A use's rule, and where a build is meant its part and the build's name. With a part the rule has the part's own size."""

    rule: UseRule
    part: Part | None = None
    build: str = ""

    @property
    def label(self) -> str:
        """What is asked for, as it is shown: the build's part, or the use with "by size"."""
        return f"{self.build} {self.part.shown_name}" if self.part is not None else self.rule.label

    @property
    def message(self) -> str:
        """In a sentence: "Plover body halves", "body half, by size"."""
        return self.label if self.part is not None else f"{self.rule.label.lower()}, by size"


def wanted_for(rule: UseRule, design: Design | None) -> Wanted:
    """What a use asks for while a build is in hand: the build's first part of that use, else the use itself."""
    part = part_of_use(design.parts, rule.use) if design is not None else None
    if design is None or part is None:
        return Wanted(rule)
    return Wanted(sized_as(rule, part), part, design.name)


def part_of_use(parts: Iterable[Part], use: str) -> Part | None:
    """The first part whose role means a use."""
    return next((p for p in parts if use_of_role(p.role) == use), None)


def sized_as(rule: UseRule, part: Part) -> UseRule:
    """The rule with a part's own extents, thickness and leaves."""
    x0, y0, x1, y1 = extents(part.ring)
    return rule.changed(
        length_mm=x1 - x0, width_mm=y1 - y0, thickness_mm=part.thickness_mm, leaves=part.leaves, source=f"part {part.shown_name} of the build",
    )  # fmt: skip
