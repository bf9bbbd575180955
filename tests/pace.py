"""How much time a capped piece of work is given in tests: on a machine that is slow or busy just now, so much more."""

import time

USUAL_S = 0.005  # what the loop takes on a machine that has nothing else to do
MOST = 8.0


def within(seconds: float) -> float:
    """A cap of so many seconds of a free machine, as seconds of this one now."""
    began = time.perf_counter()
    for _ in range(5):
        sum(range(50_000))
    return seconds * min(MOST, max(1.0, (time.perf_counter() - began) / USUAL_S))
