"""Builds and the ways in which each can be made: whole recipes, or component by component."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from grainet.wood.value import Value, says_nothing

Count = Annotated[int, Field(ge=1, le=1000)]
Worth = Annotated[float, Field(ge=0, le=1e9)]


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
    recipes: tuple[Recipe, ...] = Field(default=(), exclude_if=says_nothing)
    value: Worth = Field(default=0.0, exclude_if=says_nothing)
    components: tuple[Component, ...] = Field(default=(), exclude_if=says_nothing)

    @property
    def options(self) -> tuple[Option, ...]:
        """Everything that may be chosen for it."""
        whole = tuple(Option(self.id, "", r.id, r.value, r.needs, r.same_piece) for r in self.recipes)
        ways = ((c.id, w) for c in self.components for w in c.ways)
        return whole + tuple(Option(self.id, name, w.id, w.value, w.needs, w.same_piece) for name, w in ways)

    def remade(self, needs_of: Callable[[dict[str, int]], dict[str, int]]) -> Build | None:
        """The build with other needs in all that may be chosen; a recipe that would need nothing goes, and None where nothing is needed."""
        recipes = tuple(r.changed(needs=new, same_piece=_kept(r, new)) for r in self.recipes if (new := needs_of(r.needs)))
        components = tuple(
            c.changed(ways=tuple(w.changed(needs=(new := needs_of(w.needs)), same_piece=_kept(w, new)) for w in c.ways))
            for c in self.components
        )
        needed = bool(recipes) or any(w.needs for c in components for w in c.ways)
        return self.changed(recipes=recipes, components=components) if needed else None

    @property
    def usual_needs(self) -> dict[str, int]:
        """What its first recipe needs, or the first way of each component together."""
        first = [r.needs for r in self.recipes[:1]] or [c.ways[0].needs for c in self.components]
        total: dict[str, int] = {}
        for needs in first:
            for part, count in needs.items():
                total[part] = total.get(part, 0) + count
        return total

    @property
    def most_worth(self) -> float:
        """What it is worth at the most."""
        if self.components:
            return self.value + sum(max(w.value for w in c.ways) for c in self.components)
        return max((r.value for r in self.recipes), default=0.0)


def _kept(option: Recipe | Way, needs: dict[str, int]) -> tuple[str, ...]:
    return tuple(part for part in option.same_piece if part in needs)


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
