"""A design as the shop keeps it: its parts with letters, its recipes, and which part is looked at first."""

from __future__ import annotations

from pydantic import Field

from grainet.design.brief import Hardware
from grainet.design.part import Part
from grainet.design.recipe import Build, Recipe
from grainet.wood.value import Value


class Design(Value):
    """One instrument that the shop needs to build."""

    id: str = Field(min_length=1)
    name: str
    parts: tuple[Part, ...]
    recipes: tuple[Recipe, ...]
    note: str = ""
    brief: tuple[Hardware, ...] = ()

    def part(self, part_id: str) -> Part:
        """The part of an id. Raises StopIteration where there is none."""
        return next(p for p in self.parts if p.id == part_id)

    @property
    def build(self) -> Build:
        """The design as a job has it: its id and its recipes."""
        return Build(id=self.id, recipes=self.recipes)
