"""Builds and the ways in which each can be made: whole recipes, or component by component."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from grainet.wood.value import Value

Count = Annotated[int, Field(ge=1, le=1000)]
Worth = Annotated[float, Field(ge=0, le=1e9)]


def _unsaid(value: object) -> bool:
    """Whether a key that only some builds have says nothing."""
    return not value


class Recipe(Value):
    """One way to make a build: how many sets of which parts; ``same_piece`` names parts that each come from one piece."""

    id: str = Field(min_length=1)
    value: float = Field(default=1.0, ge=0, le=1e9)
    needs: dict[str, Count] = Field(min_length=1)
    same_piece: tuple[str, ...] = ()


class Way(Value):
    """One way to make a component: the sets that it needs (none where nothing is made), what it is worth beside the other ways, its
    joints and days."""

    id: str = Field(min_length=1)
    value: Worth = 0.0
    needs: dict[str, Count] = {}
    same_piece: tuple[str, ...] = ()
    joints: int = Field(default=0, ge=0, le=1000)
    days: float = Field(default=0.0, ge=0, le=10_000)


class Component(Value):
    """What a build is made of: made by exactly one of its ways."""

    id: str = Field(min_length=1)
    ways: tuple[Way, ...] = Field(min_length=1)


class Build(Value):
    """A build is made at most once: by one of its recipes, or each of its components by one of its ways."""

    id: str = Field(min_length=1)
    recipes: tuple[Recipe, ...] = Field(default=(), exclude_if=_unsaid)
    value: Worth = Field(default=0.0, exclude_if=_unsaid)
    components: tuple[Component, ...] = Field(default=(), exclude_if=_unsaid)

    @property
    def options(self) -> tuple[Option, ...]:
        """Everything that may be chosen for it."""
        whole = tuple(Option(self.id, "", r.id, r.value, r.needs, r.same_piece) for r in self.recipes)
        ways = ((c.id, w) for c in self.components for w in c.ways)
        return whole + tuple(Option(self.id, name, w.id, w.value, w.needs, w.same_piece) for name, w in ways)

    @property
    def most_worth(self) -> float:
        """What it is worth at the most."""
        if self.components:
            return self.value + sum(max(w.value for w in c.ways) for c in self.components)
        return max((r.value for r in self.recipes), default=0.0)


@dataclass(frozen=True)
class Option:
    """One thing that may be chosen for a build: a recipe, or a way of one of its components."""

    build: str
    component: str  # empty for a whole recipe
    id: str
    value: float
    needs: dict[str, int]
    same_piece: tuple[str, ...]

    @property
    def key(self) -> tuple[str, str, str]:
        """What tells it apart."""
        return self.build, self.component, self.id
