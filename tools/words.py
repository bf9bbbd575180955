"""Every word that a person reads, gathered from the program: one catalogue to read through, with where each stands.

    python tools/words.py            the catalogue, file by file
    python tools/words.py --check    words that a builder does not say, as ``file:line: word``; exit 1 where there are some

What is gathered: text of the program that holds a blank or begins with a capital, but docstrings, patterns, queries and paths. What is
put in while it runs stands as {}.
"""

from __future__ import annotations

import ast
import re
import sys
from collections.abc import Iterator
from pathlib import Path

SOURCE = Path(__file__).resolve().parents[1] / "src" / "grainet"
# words of our own kitchen, and what a builder says instead
NOT_SAID = {
    "trouble": "defect", "troubles": "defects", "plumb": "marker", "slides": "free run", "wants": "needs, at least, at most",
    "must be weighed": "required", "footprint": "outline", "sliver": "strip", "verdict": "answer", "hazard": "defect", "chalk action": "main button",
}  # fmt: skip
NOT_WORDS = re.compile(
    r"SELECT |CREATE |INSERT |UPDATE |PRAGMA |DELETE |DROP |\(\?|\\[sdbw]|^https?:|^[a-z_]+$|^[\w./-]+\.(py|json|svg|ttf|sqlite)$"
)


def message(tree: ast.AST) -> Iterator[tuple[int, str]]:
    """(line, words) of everything in a module that may be read by a person."""
    silent = set(_docstrings(tree))
    for node in ast.walk(tree):
        if isinstance(node, ast.JoinedStr):
            silent.update(id(part) for part in node.values)
            text = "".join(str(p.value) if isinstance(p, ast.Constant) else "{}" for p in node.values)
        elif isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in silent:
            text = node.value
        else:
            continue
        if reads_like_words(text):
            yield node.lineno, " ".join(text.split())


def reads_like_words(text: str) -> bool:
    """Whether a text is one that a person reads."""
    bare = text.replace("{}", "").strip()
    if len(bare) < 3 or NOT_WORDS.search(text) or not re.search(r"[A-Za-z]{2}", bare):
        return False
    return " " in bare or bare[0].isupper()


def _docstrings(tree: ast.AST) -> Iterator[int]:
    for node in ast.walk(tree):
        if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef):
            first = node.body[0] if node.body else None
            if isinstance(first, ast.Expr) and isinstance(first.value, ast.Constant):
                yield id(first.value)


def catalogue() -> Iterator[tuple[Path, int, str]]:
    """(file, line, words) of the whole program."""
    for path in sorted(SOURCE.rglob("*.py")):
        for line, text in sorted(message(ast.parse(path.read_text("utf-8")))):
            yield path, line, text


def not_said() -> list[str]:
    """Faults: a word of our own kitchen in what a person reads."""
    return [
        f"{path.relative_to(SOURCE)}:{line}: “{word}” in “{text[:90]}”: say {instead}"
        for path, line, text in catalogue()
        for word, instead in NOT_SAID.items()
        if re.search(rf"\b{word}\b", text, re.I)
    ]


def main() -> int:
    """Print the catalogue, or check it."""
    if "--check" in sys.argv:
        faults = not_said()
        print("\n".join(faults) if faults else f"words: {sum(1 for _ in catalogue())} texts, none that a builder would not say")
        return 1 if faults else 0
    here: Path | None = None
    for path, line, text in catalogue():
        if path != here:
            here = path
            print(f"\n{path.relative_to(SOURCE)}")
        print(f"  {line:4}  {text}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
