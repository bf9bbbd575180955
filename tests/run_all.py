"""Runs every test (or the named modules), offscreen, with figures of what passed; ends non-zero when anything failed.

Without names some programs share the work: each takes the next group of modules as soon as it is free, so that none waits for another.
What each said is printed when all is done.
"""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tempfile
import time
import unittest
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO, Any, ClassVar

HERE = Path(__file__).resolve().parent
COUNTS = re.compile(r"^(\d+) passed, (\d+) failed, (\d+) skipped$", re.M)
# what takes long goes first, or the last one runs alone; what shares plans goes together
FIRST = (
    "shop", "plan", "desk.test_taking_in", "desk.test_draw_up", "desk.test_knowing", "plan.test_become", "picture", "desk.test_window",
    "desk.test_every_action", "grade", "plan.test_rescue", "desk.test_rescue", "desk.test_tryout", "plan.test_version_two", "wood",
)  # fmt: skip
APART = ("plan.test_become", "plan.test_rescue", "plan.test_version_two")
TOGETHER = {"session": "shop", "present": "shop", "work": "shop", "demo": "shop"}


def main() -> int:
    """Run the named modules here, or every group by a few programs side by side."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    os.environ.setdefault("QT_LOGGING_RULES", "qt.qpa.*=false")
    if sys.argv[1:] == ["--worker"]:
        work()
    if sys.argv[1:]:
        run_here(sys.argv[1:])
    return run_groups()


def groups() -> list[list[str]]:
    """Every test module, in groups that one program runs: the window's each for itself, the others by folder."""
    found: dict[str, list[str]] = {}
    for file in sorted(HERE.rglob("test_*.py")):
        name = ".".join(file.relative_to(HERE).with_suffix("").parts)
        folder = name.partition(".")[0] if "." in name else ""
        key = name if folder == "desk" or name in APART else TOGETHER.get(folder, folder)
        found.setdefault(key, []).append(f"tests.{name}")
    order = sorted(found, key=lambda key: (FIRST.index(key) if key in FIRST else len(FIRST), not key.startswith("desk"), key))
    return [found[key] for key in order]


def run_groups() -> int:
    """Every group, one more program than there are cores, since some only wait; 1 where one failed or counted nothing."""
    waiting = groups()
    count = (os.cpu_count() or 1) + 1
    with tempfile.TemporaryDirectory() as scratch:
        workers = [_Worker(Path(scratch) / f"{k}.log") for k in range(count)]
        print(f"{count} programs share {len(waiting)} groups of tests; a few minutes ...", flush=True)
        busy = list(workers)
        while busy:
            for worker in [w for w in busy if w.asks()]:
                if waiting and not worker.broken:
                    worker.give(waiting.pop(0))
                else:
                    worker.close()
                    busy.remove(worker)
            time.sleep(0.05)
        totals, broken = [0, 0, 0], bool(waiting)
        for k, worker in enumerate(workers):
            message = worker.log.read_text(errors="replace")
            print(f"== program {k + 1}\n{message}", flush=True)
            counts = COUNTS.findall(message)
            totals = [a + int(b) for a, b in zip(totals, counts[-1])] if counts else totals
            broken |= worker.program.returncode != 0 or not counts
    print(f"{totals[0]} passed, {totals[1]} failed, {totals[2]} skipped", flush=True)
    return 1 if broken or not totals[0] else 0


class _Worker:
    """One program that runs groups; it says ``next`` when it is free, and writes what its tests say to a file."""

    def __init__(self, log: Path) -> None:
        self.log = log
        alone = dict.fromkeys(("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "OPENCV_FOR_THREADS_NUM"), "1")  # they share the cores
        with log.open("wb") as file:
            self.program = subprocess.Popen(
                [sys.executable, __file__, "--worker"], stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=file, text=True,
                env=os.environ | alone | {"TEST_LOG": str(log), "TEST_CACHE": str(log.parent / "cache")},
            )  # fmt: skip
        os.set_blocking(_pipe(self.program.stdout).fileno(), False)

    @property
    def broken(self) -> bool:
        """Whether the program has ended by itself."""
        return self.program.poll() is not None

    def asks(self) -> bool:
        """Whether it is free, or has ended."""
        if self.broken:
            return True
        try:
            return bool(os.read(_pipe(self.program.stdout).fileno(), 64))
        except BlockingIOError:
            return False

    def give(self, names: list[str]) -> None:
        """Let it run some modules."""
        _pipe(self.program.stdin).write(" ".join(names) + "\n")
        _pipe(self.program.stdin).flush()

    def close(self) -> None:
        """Nothing more to do: it counts what it ran, and ends."""
        _pipe(self.program.stdin).close()
        self.program.wait()


def _pipe(end: IO[str] | None) -> IO[str]:
    assert end is not None
    return end


def work() -> None:
    """Run the groups that come in, one after another, until there are no more; leave with 1 where something failed."""
    asking, log = os.fdopen(os.dup(1), "w"), os.open(os.environ["TEST_LOG"], os.O_WRONLY | os.O_APPEND)
    for stream in (1, 2):  # whatever tests and their programs print
        os.dup2(log, stream)
    ran = failed = skipped = 0
    with prepared():
        while True:
            print("next", file=asking, flush=True)
            names = sys.stdin.readline().split()
            if not names:
                break
            result = run_modules(names)
            bad = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
            ran, failed, skipped = ran + result.testsRun, failed + bad, skipped + len(result.skipped)
        print(_slowest(Timed.spent), flush=True)
    print(f"{ran - failed - skipped} passed, {failed} failed, {skipped} skipped", flush=True)
    os._exit(1 if failed else 0)


@contextmanager
def prepared() -> Iterator[None]:
    """Examples seeded, and folders of the tests' own in place of the person's."""
    sys.path.insert(0, str(HERE.parent))
    _seed_hypothesis()
    with tempfile.TemporaryDirectory() as scratch:
        for name in ("DATA", "CACHE", "STATE"):
            os.environ[f"XDG_{name}_HOME"] = f"{scratch}/{name.lower()}"
        os.environ["XDG_CACHE_HOME"] = os.environ.get(
            "TEST_CACHE", f"{scratch}/cache"
        )  # wood that one program painted is there for all
        yield


def run_modules(names: list[str]) -> unittest.TestResult:
    """Run some modules in this program."""
    suite = unittest.defaultTestLoader.loadTestsFromNames(names)
    return unittest.TextTestRunner(verbosity=1, resultclass=Timed).run(suite)


def run_here(names: list[str]) -> None:
    """Run in this program and leave it: 1 where something failed or nothing ran."""
    with prepared():
        result = run_modules(names)
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
        "seeded", max_examples=30, derandomize=True, deadline=None, suppress_health_check=[HealthCheck.too_slow]
    )
    settings.load_profile("seeded")


if __name__ == "__main__":
    sys.exit(main())
