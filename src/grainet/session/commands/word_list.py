"""The words of the tape line to read and search, by what a builder would type; made from the definitions."""

from __future__ import annotations

import re

from grainet.session.commands.definition import GROUPS, Word
from grainet.session.commands.line import WORDS

WORD_LIST: tuple[Word, ...] = tuple(sorted((one for one in WORDS if one.listed), key=lambda one: GROUPS.index(one.group)))


def found_words(text: str) -> list[Word]:
    """The words that a person may mean, the likeliest first; all of them for an empty text."""
    wanted = [w for w in re.findall(r"[\w½¼¾×/%°]+", text.lower()) if w not in ("a", "as", "the", "of")]
    if not wanted:
        return list(WORD_LIST)
    scored = [(sum(_score(one, w) for w in wanted), -k, one) for k, one in enumerate(WORD_LIST)]
    return [one for score, _, one in sorted(scored, key=lambda s: s[:2], reverse=True) if score > 0]


def _score(one: Word, word: str) -> int:
    """How well a typed word fits: the tape word itself, another word for it, what it does; beginnings count for less."""
    heads = re.findall(r"[a-z#]+", one.example.lower())[:1]
    also, does = one.also.lower().split(), re.findall(r"[\w½×]+", f"{one.form} {one.does}".lower())
    if word in heads:
        return 9
    if word in also:
        return 6
    if word in does:
        return 5
    if len(word) < 2:
        return 0
    return 3 if any(w.startswith(word) for w in (*heads, *also)) else 2 if any(w.startswith(word) for w in does) else 0
