"""Runs every test (or the named modules), offscreen, with figures of what passed; ends non-zero when anything failed.

Without names two programs share the work, the window's tests and all the others; what each says is printed when it is done.
"""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path
from typing import Any, ClassVar

HERE = Path(__file__).resolve().parent
PARTS = ("--desk", "--core")
COUNTS = re.compile(r"^(\d+) passed, (\d+) failed, (\d+) skipped$", re.M)


def main() -> int:
    """Run the named modules or one part here, or both parts side by side."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    os.environ.setdefault("QT_LOGGING_RULES", "qt.qpa.*=false")
    if sys.argv[1:]:
        run_here(sys.argv[1:])
    return run_parts()


def run_parts() -> int:
    """Both parts at once; the sum of what they counted, and 1 where one failed or counted nothing."""
    alone = dict.fromkeys(("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "OPENCV_FOR_THREADS_NUM"), "1")  # two share two cores
    running = [
        subprocess.Popen(
            [sys.executable, __file__, part],
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
            errors="replace",
            env=os.environ | alone,
        )
        for part in PARTS
    ]
    print("two programs run the tests, the window's and the others; a few minutes ...", flush=True)
    totals = [0, 0, 0]
    broken = False
    for part, one in zip(PARTS, running):
        message, _ = one.communicate()
        print(f"== {part.strip('-')}\n{message}", flush=True)
        counts = COUNTS.findall(message)
        totals = [a + int(b) for a, b in zip(totals, counts[-1])] if counts else totals
        broken |= one.returncode != 0 or not counts or int(counts[-1][0]) == 0
    print(f"{totals[0]} passed, {totals[1]} failed, {totals[2]} skipped", flush=True)
    return 1 if broken else 0


def run_here(names: list[str]) -> None:
    """Run in this program and leave it: 1 where something failed or nothing ran."""
    sys.path.insert(0, str(HERE.parent))
    _seed_hypothesis()
    with tempfile.TemporaryDirectory() as scratch:
        os.environ["XDG_DATA_HOME"] = f"{scratch}/data"
        os.environ["XDG_CACHE_HOME"] = f"{scratch}/cache"
        os.environ["XDG_STATE_HOME"] = f"{scratch}/state"
        result = unittest.TextTestRunner(verbosity=1, resultclass=Timed).run(_suite(names))
        print(_slowest(Timed.spent), flush=True)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    skipped = len(result.skipped)
    print(f"{result.testsRun - failed - skipped} passed, {failed} failed, {skipped} skipped", flush=True)
    sys.stdout.flush()
    os._exit(1 if failed or not result.testsRun else 0)  # Qt's own teardown order is not under test


class Timed(unittest.TextTestResult):
    """Knows how long each test took, its class's own preparation with the first of it, s."""

    spent: ClassVar[dict[str, float]] = {}

    def __init__(self, *rest: Any, **more: Any) -> None:
        super().__init__(*rest, **more)
        self.since = time.monotonic()

    def stopTest(self, test: unittest.TestCase) -> None:
        super().stopTest(test)
        now = time.monotonic()
        self.spent[test.id()] = now - self.since
        self.since = now


def _slowest(spent: dict[str, float], count: int = 8) -> str:
    """Where the time went: the slowest modules, and the slowest tests."""
    modules: dict[str, float] = {}
    for name, seconds in spent.items():
        module = name.rpartition(".")[0].rpartition(".")[0]
        modules[module] = modules.get(module, 0.0) + seconds
    lines = []
    for what, found in (("modules", modules), ("tests", spent)):
        rows = sorted(found.items(), key=lambda row: -row[1])[:count]
        lines.append(f"slowest {what}: " + ", ".join(f"{name.removeprefix('tests.')} {s:.1f} s" for name, s in rows))
    return "\n".join(lines)


def _seed_hypothesis() -> None:
    """The same examples every time, and none called too slow where the machine has other work."""
    from hypothesis import HealthCheck, settings

    settings.register_profile(
        "seeded", max_examples=60, derandomize=True, deadline=None, suppress_health_check=[HealthCheck.too_slow]
    )
    settings.load_profile("seeded")


def _suite(names: list[str]) -> unittest.TestSuite:
    loader = unittest.TestLoader()
    if names[0] not in PARTS:
        return loader.loadTestsFromNames(names)
    found = loader.discover(str(HERE), top_level_dir=str(HERE.parent))
    desk = names[0] == "--desk"
    return unittest.TestSuite(test for test in _flat(found) if test.id().startswith("tests.desk.") == desk)


def _flat(suite: unittest.TestSuite) -> list[unittest.TestCase]:
    """Every test of a suite, in order; a module that cannot be imported is one of them and fails in both parts."""
    found: list[unittest.TestCase] = []
    for one in suite:
        found += _flat(one) if isinstance(one, unittest.TestSuite) else [one]  # type: ignore[list-item]
    return found


if __name__ == "__main__":
    sys.exit(main())
