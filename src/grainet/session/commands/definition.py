"""What a word of the tape line is: one definition that the help, the searchable list, the hints and the reader are made from."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any, TypeVar

SIZES, MARKS, WOOD, STORY, SHOP = GROUPS = (
    "Sizes and readings",
    "Marks on the wood",
    "What the wood is",
    "Its story",
    "Shop and rack",
)
F = TypeVar("F", bound=Callable[..., Any])


@dataclass(frozen=True)
class Word:
    """One word: the group that it stands in, its form, what it does, a line that works as it stands, and other words for it.

    ``free``: a person's own words follow, kept letter for letter. ``placed``: a place before it says something. ``reader``: the name of
    the method that reads what follows; empty where the line itself is the word (a bare figure, a kind with its sizes, a mark).
    """

    word: str
    group: str = ""
    form: str = ""
    does: str = ""
    example: str = ""
    also: str = ""
    free: bool = False
    placed: bool = False
    reader: str = ""

    @property
    def listed(self) -> bool:
        """Whether it has a row of its own in the list; the others are told in another word's row."""
        return bool(self.form)


def word(
    name: str, group: str = "", form: str = "", does: str = "", example: str = "", also: str = "", *, free: bool = False, placed: bool = False
) -> Callable[[F], F]:  # fmt: skip
    """Define a word at the method that reads it."""

    def define(method: F) -> F:
        defined = Word(name, group, form, does, example, also, free, placed, method.__name__)
        method.__dict__.setdefault("words", []).insert(0, defined)
        return method

    return define


def words_in(reader: type) -> Iterator[Word]:
    """The words that the methods of a class define, in their order."""
    for method in vars(reader).values():
        yield from getattr(method, "words", ())
