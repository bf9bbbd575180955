"""The base of every persisted or exchanged value, and the sentence for an entry that cannot be used."""

from __future__ import annotations

from typing import Any, Self

from pydantic import BaseModel, ConfigDict, model_validator

Point = tuple[float, float]
Ring = tuple[Point, ...]


class BadEntry(ValueError):
    """An entry that cannot be used; the text says what was found and what is wanted, for a person to read."""


class Value(BaseModel):
    """A frozen, strict value. Keys that begin with ``x-`` belong to others and are passed over."""

    model_config = ConfigDict(frozen=True, strict=True, extra="forbid", allow_inf_nan=False)

    @model_validator(mode="before")
    @classmethod
    def _drop_foreign_keys(cls, data: Any) -> Any:
        if isinstance(data, dict) and any(isinstance(k, str) and k.startswith("x-") for k in data):
            return {k: v for k, v in data.items() if not (isinstance(k, str) and k.startswith("x-"))}
        return data

    def changed(self, **changes: Any) -> Self:
        """Return a copy with some fields changed, validated anew (raises ValidationError)."""
        return type(self)(**{**{name: getattr(self, name) for name in type(self).model_fields}, **changes})
