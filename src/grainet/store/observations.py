"""Readings kept apart from the piece that they were taken on: what is slow stands in the piece's own text, each reading is an item of its own.

A reading that is added writes that reading and nothing else, and the journal stays small however long a piece is watched. Whoever asks
for the piece gets it whole. Names: ``observation:18/weighings/3`` is the fourth weighing of piece 18.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping

KIND = "observation"
PREFIX = "observation:"
OF_PIECES = ("moisture", "weighings", "samples", "rests", "taps", "sweeps")  # the fields that grow


def name_of(owner: str, field: str, place: int) -> str:
    """The name in the file of one reading."""
    return f"{PREFIX}{owner}/{field}/{place}"


def read_name(name: str) -> tuple[str, str, int] | None:
    """(owner's id, field, place) of a reading's name; None where it is none."""
    owner, _, rest = name.removeprefix(PREFIX).rpartition("/")
    owner, _, field = owner.rpartition("/")
    if not name.startswith(PREFIX) or not owner or field not in OF_PIECES or not (rest.isascii() and rest.isdigit()):
        return None
    return owner, field, int(rest)


def whole_text(own: str, readings: Mapping[tuple[str, int], str]) -> str:
    """A piece's JSON with its readings ((field, place): JSON) in their places."""
    if not readings:
        return own
    fields: dict[str, list[str]] = {}
    for (field, _), text in sorted(readings.items()):
        fields.setdefault(field, []).append(text)
    tail = ",".join(f'"{field}":[{",".join(texts)}]' for field, texts in fields.items())
    head = own.rstrip().removesuffix("}").rstrip()
    return f"{head}{'' if head.endswith('{') else ','}{tail}}}"


def apart(owner: str, lists: Mapping[str, Iterable[str]]) -> dict[str, str]:
    """{name: JSON} of an owner's readings, from the JSON of each by field."""
    return {name_of(owner, field, k): text for field, texts in lists.items() for k, text in enumerate(texts)}
