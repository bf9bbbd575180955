"""Compiles the loops that are compiled when they are first needed, so that nobody waits for them in the middle of a plan."""

from __future__ import annotations

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.field import Layers
from grainet.plan.nesting import Nest, NoFits
from tools.racks import strip


def main() -> None:
    """Lay two halves on a board."""
    made = strip(340, 600, pairs=1)
    nest = Nest(Layers(BoardGeometry(made.pieces[0], made.kit), guard=0.0), NoFits(made.kit))
    nest.together(list(made.parts), (), 3)


if __name__ == "__main__":
    main()
