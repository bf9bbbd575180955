"""The floors: each imports only from below, Qt stays in the desk, the verifier stands on ground values alone."""

import ast
import unittest
from collections.abc import Iterator
from functools import cache
from pathlib import Path

SOURCE = Path(__file__).resolve().parent.parent / "src" / "grainet"
FLOORS = [
    {"desk"}, {"cli", "__main__", "demo"}, {"present"}, {"session"}, {"store"}, {"exchange", "instruments"}, {"chart"}, {"work"}, {"plan"},
    {"grade", "match"}, {"fit", "picture"}, {"job"}, {"kit"}, {"design"}, {"wood"}, {"data"},
]  # fmt: skip
# job is ground above kit and design: its values hold both. kit is above wood, design above wood.
HEIGHT = {name: -k for k, floor in enumerate(FLOORS) for name in floor}
VERIFIER_MAY = ("grainet.wood", "grainet.design", "grainet.kit", "grainet.job", "shapely")


@cache
def imports_of(path: Path) -> list[str]:
    """Every module a file imports, also inside functions."""
    found = []
    for node in _statements(ast.parse(path.read_text(encoding="utf-8")).body):
        if isinstance(node, ast.Import):
            found += [alias.name for alias in node.names]
        elif isinstance(node, ast.ImportFrom) and node.module:
            found += [f"{node.module}.{alias.name}" for alias in node.names]
    return found


def _statements(body: list[ast.stmt]) -> Iterator[ast.stmt]:
    """All statements, those inside others too; what stands in expressions imports nothing."""
    for one in body:
        yield one
        for inner in ("body", "orelse", "finalbody", "handlers", "cases"):
            for more in getattr(one, inner, ()):
                yield from _statements([more]) if isinstance(more, ast.stmt) else _statements(more.body)


class Floors(unittest.TestCase):
    def files(self):
        return sorted(SOURCE.rglob("*.py"))

    def test_no_arrow_goes_up(self):
        seen = 0
        for path in self.files():
            own = path.relative_to(SOURCE).parts[0].removesuffix(".py")
            if own == "__init__":
                continue
            for name in imports_of(path):
                parts = name.split(".")
                if parts[0] == "grainet" and len(parts) > 1 and parts[1] in HEIGHT:
                    seen += 1
                    self.assertLessEqual(HEIGHT[parts[1]], HEIGHT[own], f"{path.name} ({own}) imports {name}")
        self.assertGreater(seen, 200)

    def test_qt_only_in_the_desk(self):
        for path in self.files():
            if path.relative_to(SOURCE).parts[0] != "desk":
                self.assertFalse([n for n in imports_of(path) if n.startswith(("PySide6", "shiboken6"))], path)

    def test_verifier_imports_ground_values_only(self):
        import sys

        for file in ("verify.py", "verify_laid.py", "verify_standing.py"):
            for name in imports_of(SOURCE / "plan" / file):
                top = name.split(".")[0]
                mine = name.startswith("grainet.plan.verify_")
                self.assertTrue(name.startswith(VERIFIER_MAY) or mine or top in sys.stdlib_module_names, name)

    def test_heavy_libraries_are_not_imported_by_the_window(self):
        import subprocess
        import sys

        code = "import sys, grainet.desk.main_window; print([m for m in ('ortools', 'scipy', 'cv2', 'shapely', 'ezdxf', 'reportlab', 'numba') if m in sys.modules])"
        out = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=120)
        self.assertEqual(out.stdout.strip(), "[]", out.stderr)
