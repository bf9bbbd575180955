"""Grainet on a person's desktop: put there, found, taken away again; a wheel that is built and tried; a guide whose pictures are there."""

import contextlib
import io
import os
import re
import shutil
import subprocess
import sys
import tempfile
import unittest
import zipfile
from pathlib import Path

from tools import install

ROOT = Path(__file__).resolve().parents[1]


class OnTheDesktop(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.home = Path(scratch.name) / "a home, with 100% “odd” names"
        self.home.mkdir()
        self.environment = {"HOME": str(self.home), "PATH": "/usr/bin:/bin"}

    def test_put_there_it_runs_and_is_taken_away_to_the_last_file(self):
        lines = install.install(self.environment, sys.executable)
        self.assertIn("not on your PATH", lines[-1])
        where = install.places(self.environment)
        out = subprocess.run([where["command"], "--version"], capture_output=True, text=True, env=self.environment, check=False)
        self.assertRegex(out.stdout, r"grainet \d+\.\d+\.\d+", out.stderr)
        entry = where["entry"].read_text(encoding="utf-8")
        keys = dict(line.split("=", 1) for line in entry.splitlines() if "=" in line)
        self.assertTrue(keys["Exec"].startswith('"') and "%%" in keys["Exec"])
        self.assertEqual((keys["Type"], keys["Icon"], keys["Name"]), ("Application", "grainet", "Grainet"))
        self.assertIn("<svg", where["icon"].read_text(encoding="utf-8"))
        install.install(self.environment, sys.executable)  # again, over itself
        self.assertEqual(len(install.remove(self.environment)), 4)
        self.assertEqual([p for p in self.home.rglob("*") if p.is_file()], [])
        self.assertEqual(install.remove(self.environment), ["nothing of Grainet's was there"])

    def test_another_s_file_is_neither_replaced_nor_removed(self):
        other = install.places(self.environment)["command"]
        other.parent.mkdir(parents=True)
        other.write_text("#!/bin/sh\necho mine\n")
        with self.assertRaisesRegex(SystemExit, "not Grainet's"):
            install.install(self.environment, sys.executable)
        self.assertEqual([p.name for p in self.home.rglob("*") if p.is_file()], ["grainet"])
        self.assertIn("left as it is", install.remove(self.environment)[0])
        self.assertEqual(other.read_text(), "#!/bin/sh\necho mine\n")

    def test_xdg_says_where_and_odd_words_are_refused(self):
        data = self.home / "elsewhere"
        self.assertEqual(install.places({**self.environment, "XDG_DATA_HOME": str(data)})["icon"].parents[3], data / "icons")
        with contextlib.redirect_stderr(io.StringIO()) as said:
            self.assertEqual(install.main(["--away"]), 2)
        self.assertIn("needs nothing, or --remove", said.getvalue())


class Wheel(unittest.TestCase):
    def test_a_wheel_is_built_and_what_it_holds_runs(self):
        with tempfile.TemporaryDirectory() as scratch:
            tree = Path(scratch) / "tree"  # a copy: building leaves folders behind
            shutil.copytree(ROOT / "src", tree / "src", ignore=shutil.ignore_patterns("__pycache__", "*.egg-info"))
            for name in ("pyproject.toml", "README.md", "LICENSE"):
                shutil.copy(ROOT / name, tree / name)
            build = [sys.executable, "-m", "pip", "wheel", "-q", "--disable-pip-version-check", "--no-deps", "--no-build-isolation", "--no-index", "-w", scratch, str(tree)]  # fmt: skip
            made = subprocess.run(build, capture_output=True, text=True, check=False, cwd=scratch)
            self.assertEqual(made.returncode, 0, made.stderr[-2000:])
            (wheel,) = Path(scratch).glob("grainet-*.whl")
            with zipfile.ZipFile(wheel) as packed:
                names = set(packed.namelist())
                packed.extractall(Path(scratch) / "there")
            for name in (
                "grainet/data/GUIDE.md",
                "grainet/data/species.csv",
                "grainet/data/grainet.svg",
                "grainet/data/pictures/saw-and-wait-light.png",
            ):
                self.assertIn(name, names)
            self.assertTrue(any(n.startswith("grainet/data/fonts/") for n in names))
            self.assertFalse([n for n in names if n.startswith(("tests", "tools"))])
            script = f"import sys; sys.path.insert(0, {str(Path(scratch) / 'there')!r}); import grainet; assert 'there' in grainet.__file__; from grainet.cli import main; sys.exit(main(['figures', '--help']))"
            tried = subprocess.run(
                [sys.executable, "-I", "-c", script],
                capture_output=True,
                text=True,
                check=False,
                env={**os.environ, "PYTHONDONTWRITEBYTECODE": "1"},
            )
            self.assertEqual(tried.returncode, 0, tried.stderr[-2000:])


class Guide(unittest.TestCase):
    def test_its_pictures_are_there_and_its_keys_are_the_window_s(self):
        from grainet.desk.screens.guide.words import chapters_of, page_of
        from grainet.desk.screens.table import ROWS

        text = (ROOT / "docs/GUIDE.md").read_text(encoding="utf-8")
        for name in re.findall(r"\]\(screenshots/([^)]+)\)", text):
            self.assertTrue((ROOT / "docs/screenshots" / name).exists(), name)
        page = page_of(text, 700)
        self.assertEqual(page.count("<h2>"), len(chapters_of(text)))
        self.assertNotRegex(page, r"\*\*|!\[")
        from grainet.desk.actions import ACTIONS

        keys = {row.key: row.label for row in ACTIONS}
        for title in chapters_of(text):
            for key in re.findall(r"\((F\d+|Ctrl[\w+]+)\)", title):
                self.assertIn(key, keys, title)
        for row in ROWS:
            if row.station:
                self.assertIn(f"({row.key})", text, f"{row.label} has a chapter")
