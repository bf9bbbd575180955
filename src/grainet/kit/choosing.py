"""What counts when pieces are ranked for a part: how much each thing weighs with this house."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from grainet.wood.value import Value

Weight = Annotated[float, Field(ge=0, le=10)]
# in words: what a weight is called, and what it means
CRITERIA: dict[str, tuple[str, str]] = {
    "grade": ("grade", "how well the house's rules are met"),
    "margin": ("room to spare", "how much it has beyond what the part needs"),
    "mate": ("mates", "whether the copies come from one board, or from boards that go together"),
    "thrift": ("thrift", "how little is lost for dearer parts: a long or figured board is kept for them"),
    "price": ("price", "what the wood that goes into the part cost"),
}


class Choosing(Value):
    """Weights from 0 (does not count) to 10; shipped judgement: thrift weighs most, since scrap is what a shop has too much of."""

    grade: Weight = 2.0
    margin: Weight = 1.0
    mate: Weight = 2.0
    thrift: Weight = 3.0
    price: Weight = 1.0
