"""Measures of the code that the house holds itself to: lengths of functions, docstrings, annotations, ignores, tests' share.

.venv/bin/python tools/measure.py
"""

from __future__ import annotations

import ast
import statistics
import sys
from pathlib import Path

HERE = Path(__file__).resolve().parent.parent
SOURCE = HERE / "src" / "grainet"


def main() -> int:
    """Print one line each; how many are missed."""
    functions: list[tuple[int, str]] = []
    public, told, returns = 0, 0, 0
    by_room: dict[str, list[int]] = {}
    for path in sorted(SOURCE.rglob("*.py")):
        tree = ast.parse(path.read_text(encoding="utf-8"))
        room = path.relative_to(SOURCE).parts[0]
        for node in ast.walk(tree):
            if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
                functions.append((1 + (node.end_lineno or node.lineno) - node.lineno, f"{path.relative_to(SOURCE)}:{node.name}"))
                returns += node.returns is not None
        for node in public_things(tree):
            has = ast.get_docstring(node) is not None
            public, told = public + 1, told + has
            by_room.setdefault(room, []).append(has)
    lengths = sorted(n for n, _ in functions)
    print(
        f"functions {len(lengths)}, median {statistics.median(lengths):g} lines, 90th percentile {lengths[int(0.9 * len(lengths))]}"
    )
    longest = [f"{name} {n}" for n, name in sorted(functions, reverse=True)[:5]]
    print(f"over 50 lines {sum(n > 50 for n in lengths)}, over 60 {sum(n > 60 for n in lengths)}: {', '.join(longest)}")
    print(f"return annotations {returns / len(lengths):.1%}, public docstrings {told / public:.1%}")
    print(
        "docstrings by room: "
        + ", ".join(f"{room.removesuffix('.py')} {sum(h) / len(h):.0%}" for room, h in sorted(by_room.items()))
    )
    text = "\n".join(p.read_text(encoding="utf-8") for p in SOURCE.rglob("*.py"))
    print(
        f"type: ignore {text.count('type: ignore')}, setGeometry {text.count('setGeometry(')}, hasattr {text.count('hasattr(')}"
    )
    source, tests = (
        sum(len(p.read_text(encoding="utf-8").splitlines()) for p in (HERE / d).rglob("*.py")) for d in ("src", "tests")
    )
    print(f"lines of source {source}, of tests {tests}: {tests / (source + tests):.1%}")
    missed = {
        "no function over 60 lines": lengths[-1] > 60, "median at most 8": statistics.median(lengths) > 8,
        "90th percentile at most 25": lengths[int(0.9 * len(lengths))] > 25, "every return annotated": returns < len(lengths),
        "public docstrings at least 95 %": told < 0.95 * public, "tests a quarter to a third": not 0.25 <= tests / (source + tests) <= 1 / 3,
    }  # fmt: skip
    for what in (name for name, is_missed in missed.items() if is_missed):
        print(f"missed: {what}", file=sys.stderr)
    return sum(missed.values())


def public_things(tree: ast.Module) -> list[ast.FunctionDef | ast.ClassDef]:
    """Public classes and functions of a module and public methods of its public classes; what Qt calls is told by Qt."""
    found: list[ast.FunctionDef | ast.ClassDef] = []
    for node in tree.body:
        if isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith("_"):
            found.append(node)
        if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
            own = [n for n in node.body if isinstance(n, ast.FunctionDef)]
            found += [n for n in own if not n.name.startswith("_") and not n.name.endswith("Event") and n.name not in QT]
    return found


QT = {
    "paint",
    "sizeHint",
    "minimumSizeHint",
    "rowCount",
    "columnCount",
    "data",
    "flags",
    "setData",
    "headerData",
    "createEditor",
    "setEditorData",
    "setModelData",
    "run",
}

if __name__ == "__main__":
    sys.exit(1 if main() and "--check" in sys.argv else 0)
