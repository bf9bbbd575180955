"""The story of an instrument as values: every board with its source and where its parts lay, joints, weights, flaws kept on purpose, what went
wrong, offcuts and what they became. What a person leaves off the page is told by the keys of its lines."""

from __future__ import annotations

from pydantic import Field

from grainet.wood.value import Ring, Value


class StoryPart(Value):
    """Where one part lay in its board: its letter and its outline there, mm."""

    letter: str
    polygon: Ring


class StoryBoard(Value):
    """One board: what it is, what was made of it, where it came from, its moisture at glue-up, the weight of its parts in kg; its own outline and
    its parts in it; photos by the names of their originals."""

    number: str
    species: str
    made: tuple[str, ...]
    roles: tuple[str, ...] = ()
    source: tuple[str, ...] = ()
    moisture_pct: float | None = None
    glued: bool = False  # whether that was its moisture at glue-up; else it is today's
    kg: float | None = None
    price: float | None = None
    lacks_paper: bool = False
    papers: tuple[str, ...] = ()
    flaws: tuple[str, ...] = ()
    outline: Ring = ()
    parts: tuple[StoryPart, ...] = ()
    photos: tuple[str, ...] = ()

    @property
    def made_words(self) -> str:
        """What it made, in words: "body, treble half and bass half; neck"."""
        by: dict[str, list[str]] = {}
        for name in self.made:
            whole, _, part = name.partition(", ")
            by.setdefault(whole, []).append(part)
        words = [", ".join(w for w in (whole, " and ".join(p for p in parts if p)) if w) for whole, parts in by.items()]
        told = "; ".join(words)
        return told[:1].lower() + told[1:]

    @property
    def moisture_words(self) -> str:
        """Its moisture, and when that was; empty where it was never read."""
        return "" if self.moisture_pct is None else f"{self.moisture_pct:.1f} % {'at glue-up' if self.glued else 'now'}"


class StoryJoint(Value):
    """One joint: what was joined, the day, glue, warmth, clamps, how it fitted."""

    name: str
    on: str
    words: str


class StoryPhoto(Value):
    """A photo of a part on its way: which part, the day, the original by its name."""

    name: str
    on: str
    sha: str


class StoryOffcut(Value):
    """What was left, and what it became."""

    number: str
    species: str
    words: str


class Story(Value):
    """All of it. Days are ISO; ``finished`` is empty while something is left to make."""

    format: str = "grainet-story"
    version: int = 1
    id: str
    name: str
    shop: str
    begun: str = ""
    finished: str = ""
    forecast_kg: float | None = None
    forecast_spread_kg: float | None = None
    weighed_kg: float | None = None
    hours: float = 0.0
    litres: float = 0.0
    shares: dict[str, float] = {}
    boards: tuple[StoryBoard, ...] = ()
    joints: tuple[StoryJoint, ...] = ()
    mends: tuple[str, ...] = ()
    mishaps: tuple[str, ...] = ()
    mishap_photos: tuple[str, ...] = ()  # the originals, in the order of their mishaps
    part_photos: tuple[StoryPhoto, ...] = Field(default=(), exclude_if=lambda photos: not photos)
    set_aside: tuple[str, ...] = ()  # rules, with their reasons
    offcuts: tuple[StoryOffcut, ...] = ()
    events: tuple[tuple[str, str], ...] = ()  # day and what
    left_off: tuple[str, ...] = Field(default=(), exclude=True)  # keys of what a person left off the page

    def shows(self, key: str) -> bool:
        """Whether a line, or a whole kind of lines, is on the page."""
        return key not in self.left_off

    @property
    def photos(self) -> list[str]:
        """Every photo of it, by the names of their originals: those of its boards, of its parts, of what went wrong."""
        of_boards = (sha for board in self.boards for sha in board.photos)
        return list(dict.fromkeys([*of_boards, *(p.sha for p in self.part_photos), *self.mishap_photos]))

    def told(self) -> Story:
        """The story without what was left off."""
        boards = tuple(
            b.changed(price=b.price if self.shows("prices") else None, flaws=b.flaws if self.shows("flaws") else ())
            for b in self.boards
            if self.shows(f"board {b.number}")
        )
        return self.changed(
            boards=boards, mishaps=self.mishaps if self.shows("mishaps") else (), mishap_photos=self.mishap_photos if self.shows("mishaps") else (), mends=self.mends if self.shows("mends") else (),
            set_aside=self.set_aside if self.shows("rules") else (), hours=self.hours if self.shows("hours") else 0.0,
            part_photos=self.part_photos if self.shows("parts") else (), offcuts=self.offcuts if self.shows("offcuts") else (), joints=self.joints if self.shows("joints") else (),
        )  # fmt: skip


# what can be left off as a whole, and how it is called
KINDS: dict[str, str] = {
    "prices": "prices", "hours": "hours", "joints": "joints", "flaws": "flaws kept", "mends": "mends", "mishaps": "mishaps", "rules": "rules set aside", "offcuts": "offcuts", "parts": "photos of parts",
}  # fmt: skip
