"""What a part is to its instrument: its role, and what follows from it. A new role is one row of the table."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Literal

RestClass = Literal["neck", "fretboard", "body"]
Group = Literal["neck", "body", ""]


class Role(StrEnum):
    """The roles that Grainet knows, by the names that files have."""

    NECK = "neck"
    HEEL = "heel"
    EAR = "ear"
    BODY_HALF = "body_half"
    WING = "wing"
    MATCHED_TOP = "matched_top"
    FRETBOARD = "fretboard"
    LAMINATE_STRIP = "laminate_strip"
    HEAD_PLATE = "head_plate"
    BINDING = "binding"
    CORE = "core"
    TEST_STICK = "test_stick"
    INLAY = "inlay"
    STIFFENER = "stiffener"


@dataclass(frozen=True)
class RoleFacts:
    """What follows from a role.

    ``use``: the house rule that its wood goes by. ``words``: what builders call it besides its own name. ``rest``: how strictly it
    must have stopped moving. ``group``: whose bought parts it must fit. ``holds_group``: whether it alone must be as thick as those
    ask. ``shaped``: the share of its blank that shaping leaves. ``glued_onto``: what it is glued to as a whole. ``shows``: whether its
    wood is seen on the finished instrument.
    """

    use: str
    words: tuple[str, ...]
    rest: RestClass
    group: Group = ""
    holds_group: bool = False
    shaped: float = 0.97  # edges rounded over; notes
    glued_onto: tuple[Role, ...] = ()
    shows: bool = True


# a carved shaft against its blank: half an ellipse under a flat, pi/4, less the rod's slot; judgement
NECK_SHARE = 0.72
FACTS: dict[Role, RoleFacts] = {
    Role.NECK: RoleFacts("neck", ("neck", "shaft"), "neck", "neck", holds_group=True, shaped=NECK_SHARE),
    Role.HEEL: RoleFacts("neck", ("heel",), "neck", shaped=NECK_SHARE, glued_onto=(Role.NECK,)),
    Role.EAR: RoleFacts("neck", ("ear",), "neck", glued_onto=(Role.NECK,)),
    Role.BODY_HALF: RoleFacts("body_half", ("body", "half"), "body", "body", holds_group=True),
    Role.WING: RoleFacts("body_half", ("wing",), "body", "body", holds_group=True),
    Role.MATCHED_TOP: RoleFacts("matched_top", ("top", "cap"), "body", "body", glued_onto=(Role.BODY_HALF, Role.CORE)),
    Role.FRETBOARD: RoleFacts("fretboard", ("fretboard", "fingerboard"), "fretboard", shaped=1.0, glued_onto=(Role.NECK,)),
    Role.LAMINATE_STRIP: RoleFacts("laminate_strip", ("strip", "laminate"), "neck", "neck", shaped=1.0),
    Role.HEAD_PLATE: RoleFacts("head_plate", ("headplate", "plate"), "body", shaped=1.0),
    Role.BINDING: RoleFacts("binding", ("binding",), "body", shaped=1.0),
    Role.CORE: RoleFacts("core", ("core",), "body", "body", shows=False),
    Role.STIFFENER: RoleFacts("laminate_strip", ("stiffener",), "neck", shaped=1.0, glued_onto=(Role.NECK,), shows=False),
    Role.INLAY: RoleFacts("head_plate", ("inlay", "inset"), "body", shaped=1.0, glued_onto=(Role.NECK,)),
    Role.TEST_STICK: RoleFacts("core", ("stick", "test"), "body", shaped=1.0, shows=False),
}


def role_of(text: str) -> Role | None:
    """The role that a text means: its own name, or a word of it ("bolt_on_neck" is a neck); None where no word is known."""
    tidy = text.strip().lower().replace("-", "_").replace(" ", "_")
    if tidy in Role.__members__.values():
        return Role(tidy)
    single = [w.removesuffix("s") for w in tidy.split("_")]
    named = [role for role in Role if "_" in role and set(role.split("_")) <= set(single)]
    if named:
        return max(named, key=len)
    by_word = {word: role for role, facts in FACTS.items() for word in facts.words}
    return next((by_word[w] for w in reversed(single) if w in by_word), None)


def read_role(text: str) -> str:
    """A role as a file has it, kept as it is written; empty where nobody said. Raises ValueError for one that nobody knows."""
    if text and role_of(text) is None:
        raise ValueError(
            f"“{text[:40]}” is no role of a part; needs one of {', '.join(Role)}, or a word of them such as bolt-on neck"
        )
    return text
