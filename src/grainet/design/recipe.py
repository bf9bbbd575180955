"""Builds and the ways in which each can be made."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from grainet.wood.value import Value

Count = Annotated[int, Field(ge=1, le=1000)]


class Recipe(Value):
    """One way to make a build: how many sets of which parts; ``same_piece`` names parts that each come from one piece."""

    id: str = Field(min_length=1)
    value: float = Field(default=1.0, ge=0, le=1e9)
    needs: dict[str, Count] = Field(min_length=1)
    same_piece: tuple[str, ...] = ()


class Build(Value):
    """A build is made at most once, by one of its recipes."""

    id: str = Field(min_length=1)
    recipes: tuple[Recipe, ...] = Field(min_length=1)
