"""Operations as they are written down one after another: what each needs follows from what was done to its workpieces before, and marks
that planing took away are drawn again before anything rests on them."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import Any

from grainet.wood.species import SpeciesLibrary, library_with
from grainet.work.operation import PLANING, SAWING, Kind, Operation, Said, Tie
from grainet.work.order_rules import GLUE_RESTS, REMARK, RULES
from grainet.work.step_cautions import cautions_at, species_of

MARKS_WANTED = PLANING | SAWING | {"glue", "slot", "taper", "cavity", "profile", "drill"}  # what rests on a drawn mark
# what machines a glued workpiece, and so waits until its glue has rested
MACHINING = PLANING | {"slot", "taper", "cavity", "profile", "drill", "bevel"}

# what is told of an operation, by its id and its kind, as it is done by the way that was chosen for it
Otherwise = Callable[[str, str, dict[str, Any]], dict[str, Any]]


class Sheet:
    """The operations so far, the last ones on each workpiece, and which workpieces lost their marks to a plane."""

    def __init__(
        self, woods: Mapping[str, str] | None = None, library: SpeciesLibrary | None = None, done_otherwise: Otherwise | None = None
    ) -> None:  # fmt: skip
        self.woods = {board: frozenset({wood}) for board, wood in (woods or {}).items()}  # of boards, and of what comes from them
        self.library = library or library_with()
        self.done_otherwise = done_otherwise or (
            lambda _name, _kind, told: told
        )  # where a person chose another way for an operation
        self.operations: dict[str, Operation] = {}
        self.ties: list[Tie] = []
        self.gone: set[str] = set()  # used up
        self._last: dict[str, tuple[str, ...]] = {}
        self._marked: set[str] = set()
        self._bare: set[str] = set()
        self.levelled: dict[str, float] = {}  # mm that came off the first face of a workpiece, or of what it was sawn from
        self._fresh: dict[str, tuple[float, str]] = {}  # glued: minutes that it rests before it is machined, and in words

    def add(
        self, kind: Kind, works_on: Sequence[str], name: str = "", *, gives: Sequence[str] = (), needs: Iterable[str] = (), **more: Any
    ) -> Operation:  # fmt: skip
        """Write one down. ``name`` tells it apart from others of its kind on the same workpieces; its other fields as an Operation has
        them."""
        if kind in MARKS_WANTED:
            self.mark_again(works_on, more.get("board", ""))
        if kind in MACHINING:
            for name_of in [w for w in works_on if w in self._fresh]:
                self._rest(name_of, more.get("board", ""))
        own = self.named(kind, works_on, name)
        more = self.done_otherwise(own, kind, more)
        if kind not in SAWING and kind != "glue":
            more["cautions"] = self._cautions(kind, works_on, more)
        told = dict.fromkeys((*needs, *(n for w in works_on for n in self._last.get(w, ()))))
        one = Operation(id=own, kind=kind, works_on=tuple(works_on), gives=tuple(gives), needs=tuple(told), **more)
        self.operations[one.id] = one
        self._follow(one)
        if kind in MACHINING:
            for rest in (o for w in works_on for o in self.of(w, "rest") if o.settings.get("until") == "machined"):
                self.tie(rest.id, one.id, GLUE_RESTS)
        return one

    def _cautions(self, kind: str, works_on: Sequence[str], more: Mapping[str, Any]) -> tuple[Said, ...]:
        """The usual cautions of what is done, beside those that its size asks for."""
        woods = [wood for w in works_on for wood in self.woods.get(w, ())]
        usual = cautions_at(kind, more.get("machine_kind", ""), species_of(woods, self.library))
        found = {said.code: said for said in (*usual, *more.get("cautions", ()))}
        return tuple(sorted(found.values(), key=lambda said: said.grade))

    def glued(self, workpiece: str, rests_minutes: float, words: str) -> None:
        """A workpiece out of its clamps rests so long before it is machined; what is only glued on need not wait for it."""
        if rests_minutes > 0:
            self._fresh[workpiece] = (rests_minutes, words)

    def _rest(self, workpiece: str, board: str) -> None:
        minutes, words = self._fresh.pop(workpiece)
        self.add(
            "rest", [workpiece], "glue", settings={"until": "machined"}, minutes=1.0, wait_minutes=round(minutes, 1), board=board, text=words
        )  # fmt: skip

    def mark(self, works_on: Sequence[str], name: str, board: str) -> Operation:
        """Draw face, edge, letters and arrow; again where a plane took them."""
        again = [w for w in works_on if w in self._bare]
        planed = [n for w in again for n in self._last.get(w, ()) if self.operations[n].kind in PLANING]
        one = self.add("mark", works_on, name, minutes=1.0, board=board, text=_mark_words(works_on, again=bool(again)))
        for before in dict.fromkeys(planed):
            self.tie(before, one.id, REMARK)
        self._marked |= set(works_on)
        self._bare -= set(works_on)
        return one

    def mark_again(self, works_on: Sequence[str], board: str) -> None:
        """Draw the marks again that a plane took, where it took any."""
        if bare := [w for w in works_on if w in self._bare]:
            self.mark(bare, "again", board)

    def tie(self, before: str, after: str, rule: str) -> None:
        """Bind two operations by one of the rules."""
        if before != after and not any((t.before, t.after, t.rule) == (before, after, rule) for t in self.ties):
            self.ties.append(Tie(before=before, after=after, rule=rule, blocks=RULES[rule].blocks))

    def last_of(self, works_on: Iterable[str]) -> list[str]:
        """The operations that were written down last on some workpieces."""
        return list(dict.fromkeys(n for w in works_on for n in self._last.get(w, ())))

    def of(self, workpiece: str, *kinds: str) -> list[Operation]:
        """The operations of some kinds on a workpiece, in the order in which they were written down."""
        return [o for o in self.operations.values() if workpiece in o.works_on and o.kind in kinds]

    def _follow(self, one: Operation) -> None:
        after = one.gives or one.works_on
        for name in after:
            self._last[name] = (one.id,)
        if one.gives:
            woods = frozenset(wood for w in one.works_on for wood in self.woods.get(w, ()))
            self.woods |= dict.fromkeys(one.gives, woods)
            self.gone |= set(one.works_on)
            if any(w in self._marked for w in one.works_on):
                self._marked |= set(one.gives)
            if any(w in self._bare for w in one.works_on):
                self._bare |= set(one.gives)
        self._level(one)
        if one.kind in PLANING:
            self._bare |= {w for w in after if w in self._marked}

    def _level(self, one: Operation) -> None:
        """What came off the first face stays off what is sawn from it; a resaw's lower side has a face of its own."""
        if not one.gives:
            for name in one.works_on:
                self.levelled[name] = self.levelled.get(name, 0.0) + one.takes_mm.get("face 1", 0.0)
        elif one.kind in SAWING:
            off = self.levelled.get(one.works_on[0], 0.0)
            for k, name in enumerate(one.gives):
                self.levelled[name] = 0.0 if one.kind == "resaw" and k else off

    def named(self, kind: str, works_on: Sequence[str], name: str = "") -> str:
        """The id of what would be written down next."""
        if kind in SAWING and name:
            told = name
        else:
            told = f"{kind} {' '.join(works_on)}" + (f", {name}" if name else "")
        number = 1
        found = told
        while found in self.operations:
            number += 1
            found = f"{told}, {number}"
        return found


def _mark_words(works_on: Sequence[str], *, again: bool) -> str:
    what = " and ".join(works_on)
    return f"Mark {what} {'again: face loop, edge V, letters, arrow' if again else ': face, edge, marked end, letters, arrow'}".replace(
        " :", ":"
    )
