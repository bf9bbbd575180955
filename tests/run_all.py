"""Runs every test (or the named modules), offscreen, with figures of what passed; ends non-zero when anything failed."""

from __future__ import annotations

import os
import sys
import tempfile
import unittest
from pathlib import Path

HERE = Path(__file__).resolve().parent


def main() -> int:
    """Discover, run, sum up."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    os.environ.setdefault("QT_LOGGING_RULES", "qt.qpa.*=false")
    sys.path.insert(0, str(HERE.parent))
    with tempfile.TemporaryDirectory() as scratch:
        os.environ["XDG_DATA_HOME"] = f"{scratch}/data"
        os.environ["XDG_CACHE_HOME"] = f"{scratch}/cache"
        loader = unittest.TestLoader()
        names = sys.argv[1:]
        suite = loader.loadTestsFromNames(names) if names else loader.discover(str(HERE), top_level_dir=str(HERE.parent))
        result = unittest.TextTestRunner(verbosity=1).run(suite)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    skipped = len(result.skipped)
    print(f"{result.testsRun - failed - skipped} passed, {failed} failed, {skipped} skipped", flush=True)
    sys.stdout.flush()
    os._exit(1 if failed or not result.testsRun else 0)  # Qt's own teardown order is not under test


if __name__ == "__main__":
    main()
