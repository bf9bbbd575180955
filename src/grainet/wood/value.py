"""The base of every persisted or exchanged value, and the sentence for an entry that cannot be used."""

from __future__ import annotations

from typing import Any, Self

from pydantic import BaseModel, ConfigDict

Point = tuple[float, float]
Ring = tuple[Point, ...]


class BadEntry(ValueError):
    """An entry that cannot be used; the text says what was found and what is wanted, for a person to read."""


class Value(BaseModel):
    """A frozen, strict value: no unknown keys, no NaN, tuples for lists."""

    model_config = ConfigDict(
        frozen=True, strict=True, extra="forbid", allow_inf_nan=False, validate_by_name=True, validate_by_alias=True
    )

    def changed(self, **changes: Any) -> Self:
        """Return a copy with some fields changed, validated anew (raises ValidationError)."""
        return type(self)(**{**{name: getattr(self, name) for name in type(self).model_fields}, **changes})
