"""Puts Grainet where the person's desktop finds it, and takes it away again: the two commands, the entry of the menu, the icon.

    ./run install            for this person alone; nothing of the system is touched
    ./run install --remove   takes away just what it put there

Everything lies under the person's own folders (``~/.local`` or where XDG_DATA_HOME says). A file that is not ours is neither replaced nor removed.
"""

from __future__ import annotations

import os
import shlex
import shutil
import subprocess
import sys
from pathlib import Path

HERE = Path(__file__).resolve().parent.parent
OURS = "put here by grainet install"


def places(environment: dict[str, str]) -> dict[str, Path]:
    """Where each thing goes."""
    home = Path(environment.get("HOME") or Path.home())
    data = Path(environment.get("XDG_DATA_HOME") or home / ".local/share")
    bin_ = home / ".local/bin"
    return {
        "command": bin_ / "grainet",
        "window": bin_ / "grainet-desk",
        "entry": data / "applications/grainet.desktop",
        "icon": data / "icons/hicolor/scalable/apps/grainet.svg",
    }


def texts(where: dict[str, Path], python: str) -> dict[str, str]:
    """What stands in each."""
    run = shlex.quote(python)
    entry = (HERE / "packaging/grainet.desktop").read_text(encoding="utf-8")
    lines = [f"Exec={_quoted(where['window'])} %F" if line.startswith("Exec=") else f"TryExec={where['window']}" if line.startswith("TryExec=") else line for line in entry.splitlines()]  # fmt: skip
    return {
        "command": f'#!/bin/sh\n# {OURS}\nexec {run} -I -m grainet "$@"\n',
        "window": f'#!/bin/sh\n# {OURS}\nexec {run} -I -m grainet.desk "$@"\n',
        "entry": "\n".join([*lines, f"X-Grainet={OURS}"]) + "\n",
        "icon": (HERE / "packaging/grainet.svg").read_text(encoding="utf-8").rstrip() + f"\n<!-- {OURS} -->\n",
    }


def _quoted(path: Path) -> str:
    """A path as the Exec key of a desktop entry takes it: quoted where it holds anything but plain letters."""
    text = str(path)
    if all(c.isalnum() or c in "/._-" for c in text):
        return text
    escaped = "".join("\\" + c if c in '"`$\\' else c for c in text).replace("\\", "\\\\").replace("%", "%%")
    return f'"{escaped}"'


def is_ours(path: Path) -> bool:
    """Whether a file was put there by this."""
    try:
        return not path.is_symlink() and OURS in path.read_text(encoding="utf-8", errors="replace")
    except OSError:
        return False


def install(environment: dict[str, str], python: str) -> list[str]:
    """Put everything in its place; what was done, a line each. A file of another's stops it before anything is written."""
    where = places(environment)
    foreign = [p for p in where.values() if (p.exists() or p.is_symlink()) and not is_ours(p)]
    if foreign:
        raise SystemExit(f"{foreign[0]} is there already and is not Grainet's; move it away first. Nothing was changed.")
    told = texts(where, python)
    for name, path in where.items():
        path.parent.mkdir(parents=True, exist_ok=True)
        aside = path.with_name(f".{path.name}.part")
        aside.write_text(told[name], encoding="utf-8")
        aside.chmod(0o755 if name in ("command", "window") else 0o644)
        aside.replace(path)
    _tell_desktop(where["entry"].parent)
    lines = [f"{path}" for path in where.values()]
    if str(where["command"].parent) not in environment.get("PATH", "").split(os.pathsep):
        lines.append(f"{where['command'].parent} is not on your PATH: the menu finds Grainet, a terminal does once it is.")
    return lines


def remove(environment: dict[str, str]) -> list[str]:
    """Take away what was put there; what was done, a line each."""
    where, lines = places(environment), []
    for path in where.values():
        if is_ours(path):
            path.unlink()
            lines.append(f"{path} taken away")
        elif path.exists():
            lines.append(f"{path} is not Grainet's: left as it is")
    _tell_desktop(where["entry"].parent)
    return lines or ["nothing of Grainet's was there"]


def _tell_desktop(applications: Path) -> None:
    """Let the desktop read its menu anew, where it has a program for that."""
    program = shutil.which("update-desktop-database")
    if program and applications.is_dir():
        subprocess.run([program, "-q", str(applications)], check=False, capture_output=True)


def main(arguments: list[str]) -> int:
    """Install, or remove; 2 for words that are not known."""
    if arguments not in ([], ["--remove"]):
        print(f"install: found {' '.join(arguments)}; needs nothing, or --remove", file=sys.stderr)
        return 2
    lines = remove(dict(os.environ)) if arguments else install(dict(os.environ), sys.executable)
    print("\n".join(lines))
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
