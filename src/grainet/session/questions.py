"""Questions to the rack: which pieces answer by size and words, and which of them are free. Rows of figures are kept up for it."""

from __future__ import annotations

import threading
import time
from typing import TYPE_CHECKING

from grainet.session.kinds import PIECES
from grainet.session.profile import kit_of
from grainet.session.promises import Promises
from grainet.session.rack import Rack
from grainet.store.caches import cache_file
from grainet.turns import in_turn

if TYPE_CHECKING:
    from grainet.session.query import Query
    from grainet.session.rack_index import RackIndex

CACHED_FROM = 400  # a smaller rack is worked out again sooner than read


class Questions:
    """What one shop's rack is asked."""

    def __init__(self, rack: Rack, promises: Promises) -> None:
        self.rack, self.promises = rack, promises
        self._finder: RackIndex | None = None
        self._version = -1
        self._lock = threading.Lock()  # asked and kept up from the window's pool

    def ask(self, query: Query) -> frozenset[str]:
        """The numbers of the pieces on the rack that answer a question and are free: what plans or claims hold is left out, or asked
        for by the word promised. Rows that are not kept up yet are looked at one by one."""
        free, held = self.answers(query)
        return held if "promised" in query.words else free

    def answers(self, query: Query) -> tuple[frozenset[str], frozenset[str]]:
        """The pieces that answer a question: those that are free, and those that plans or claims hold."""
        with self._lock:
            found = self._finder_now().find(self.rack.pieces(), query, kit_of(self.rack.items))
        held = self.promises.held()
        return found - held, found & held

    def keep_rows(self, seconds: float = 0.2) -> int:
        """Work out rows of pieces that changed, for so long; how many are still to do. The last one writes the cache."""
        with self._lock:
            finder, kit = self._finder_now(), kit_of(self.rack.items)
            pieces, texts = {p.id: p for p in self.rack.pieces()}, self._rack_texts()
            missing = finder.missing(texts, kit)
            until = time.monotonic() + seconds
            left = len(missing)
            for name in in_turn(missing):
                if time.monotonic() >= until:
                    break
                finder.keep(pieces[name], texts[name], kit)
                left -= 1
            if missing and not left and len(texts) >= CACHED_FROM:
                finder.save(cache_file(self.rack.items.file.folder, "rows.npz"))
            return left

    def _finder_now(self) -> RackIndex:
        """The rows; those of pieces that changed or are gone count no more."""
        from grainet.session.rack_index import RackIndex

        if self._finder is None:
            self._finder = RackIndex()
            self._finder.load(cache_file(self.rack.items.file.folder, "rows.npz"))
        if self._version != self.rack.items.version:
            for name in self._finder.missing(self._rack_texts(), kit_of(self.rack.items)):
                self._finder.drop(name)
            self._version = self.rack.items.version
        return self._finder

    def _rack_texts(self) -> dict[str, str]:
        found = ((p.id, self.rack.items.text(PIECES, p.id)) for p in self.rack.pieces())
        return {number: text for number, text in found if text is not None}
