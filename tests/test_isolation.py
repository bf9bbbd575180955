"""What is run never takes modules from the folder it is run in; what was not foreseen ends in a sentence and a log; an orphaned
planner ends by itself."""

import io
import os
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path

import grainet
from grainet.desk.__main__ import no_screen

HERE = Path(grainet.__file__).resolve().parent.parent


class Isolation(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name)
        for name in ("argparse", "json", "pathlib", "numpy", "random", "shapely"):
            (self.folder / f"{name}.py").write_text(
                f"open({str(self.folder / 'RAN')!r}, 'a').write('{name} ')\nraise SystemExit(9)\n"
            )

    def run_in(self, *arguments, **env):
        found = subprocess.run(
            [sys.executable, *arguments],
            cwd=self.folder,
            capture_output=True,
            text=True,
            timeout=120,
            env={**os.environ, "PYTHONPATH": str(HERE), **env},
        )
        ran = (self.folder / "RAN").read_text() if (self.folder / "RAN").exists() else ""
        self.assertEqual(ran, "", arguments)
        return found

    def test_the_command_the_desk_and_the_worker(self):
        self.assertIn("usage", self.run_in("-m", "grainet", "--help").stdout)
        bare = {"DISPLAY": "", "WAYLAND_DISPLAY": "", "QT_QPA_PLATFORM": ""}
        desk = self.run_in("-m", "grainet.desk", **bare)
        self.assertEqual(desk.returncode, 2)
        self.assertIn("needs a screen", desk.stderr)
        from grainet.desk.services.planner_process import START

        found = subprocess.run(
            [sys.executable, "-I", "-c", START, str(HERE)], cwd=self.folder, input='{"id": 1, "job": {"format": "grainet-job", "version": 1}}\n', capture_output=True, text=True, timeout=120
        )  # fmt: skip
        self.assertFalse((self.folder / "RAN").exists())
        self.assertIn('"plan"', found.stdout, found.stderr)

    def test_an_orphaned_planner_ends_within_a_second(self):
        code = (
            "import subprocess, sys; from grainet.desk.services.planner_process import START;"
            "p = subprocess.Popen([sys.executable, '-I', '-c', START, sys.argv[1]], stdin=subprocess.PIPE, stdout=subprocess.PIPE);"
            "print(p.pid, flush=True); import os; r, w = os.pipe(); os.set_inheritable(w, True); os.kill(os.getpid(), 9)"
        )
        # the pipe's other end is held by a sleeping child, so that only the parent's death tells the planner
        found = subprocess.run(
            [sys.executable, "-c", code, str(HERE)], capture_output=True, text=True, env={**os.environ, "PYTHONPATH": str(HERE)}
        )
        pid = int(found.stdout)
        until = time.monotonic() + 60
        while time.monotonic() < until and _alive(pid):
            time.sleep(0.05)
        self.assertFalse(_alive(pid))


def _alive(pid):
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False


class Unforeseen(unittest.TestCase):
    def test_help_is_told_without_a_screen_and_a_shop_that_is_not_there_is_one_sentence(self):
        environment = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
        told = subprocess.run(
            [sys.executable, "-m", "grainet.desk", "--help"],
            env=environment,
            capture_output=True,
            text=True,
            timeout=60,
            check=False,
        )
        self.assertEqual(told.returncode, 0)
        self.assertIn("--new SHOP.grainet", told.stdout)
        nowhere = subprocess.run(
            [sys.executable, "-m", "grainet.desk", "/nowhere/x.grainet"],
            env={**environment, "QT_QPA_PLATFORM": "offscreen"},
            capture_output=True,
            text=True,
            timeout=60,
            check=False,
        )
        self.assertEqual(nowhere.returncode, 2)
        self.assertIn("There is nothing at /nowhere/x.grainet. A new shop is begun there by: open --new", nowhere.stderr)

    def test_no_screen_is_one_sentence(self):
        self.assertIn("neither DISPLAY nor WAYLAND_DISPLAY", no_screen({}))
        self.assertIn("does not answer", no_screen({"DISPLAY": ":987"}))
        self.assertIn("does not answer", no_screen({"WAYLAND_DISPLAY": "nobody-9", "XDG_RUNTIME_DIR": "/nowhere"}))
        self.assertEqual(no_screen({"QT_QPA_PLATFORM": "offscreen"}), "")

    def test_a_command_that_fails_says_a_sentence_and_logs_the_rest(self):
        with tempfile.TemporaryDirectory() as scratch:
            code = (
                "import sys; from unittest import mock; import grainet.grade.report as r; import grainet.cli as c;"
                "mock.patch.object(r, 'grade_job', side_effect=ZeroDivisionError('odd')).start();"
                "sys.exit(c.main(['grade', sys.argv[1], '--out', sys.argv[2]]))"
            )
            job = Path(scratch) / "job.json"
            job.write_text('{"format": "grainet-job", "version": 1}')
            env = {**os.environ, "PYTHONPATH": str(HERE), "XDG_STATE_HOME": scratch}
            found = subprocess.run(
                [sys.executable, "-c", code, str(job), f"{scratch}/g.json"], capture_output=True, text=True, env=env
            )
            self.assertEqual(found.returncode, 70)
            self.assertIn("something unexpected happened (ZeroDivisionError: odd)", found.stderr)
            self.assertNotIn("Traceback", found.stderr)
            self.assertIn("Traceback", (Path(scratch) / "grainet" / "grainet.log").read_text())

    def test_shops_that_cannot_be_used_are_sentences_in_every_command(self):
        import sqlite3
        from contextlib import closing, redirect_stderr, redirect_stdout

        from grainet.cli import main
        from grainet.session.shop import Shop
        from grainet.wood.piece import Piece

        with tempfile.TemporaryDirectory() as scratch:
            newer, partly = Path(scratch) / "new.grainet", Path(scratch) / "part.grainet"
            for folder in (newer, partly):
                with Shop.open(folder, create=True) as shop:
                    shop.apply("one", Piece(id="1"), Piece(id="2"))
            with closing(sqlite3.connect(newer / "shop.sqlite")) as db:
                db.execute("PRAGMA user_version = 99")
            with closing(sqlite3.connect(partly / "shop.sqlite")) as db:
                db.execute("UPDATE item SET json = '{}' WHERE id = 'piece:2'")
                db.commit()
            stock = Path(scratch) / "s.json"
            stock.write_text('{"format": "grainet-stock", "version": 1, "pieces": []}')
            commands = {
                "export": ["export", "--shop", "SHOP", "--out", f"{scratch}/o.csv"], "import": ["import", str(stock), "--shop", "SHOP"],
                "find": ["find", "SHOP", "clear"], "sort": ["sort", "SHOP", "--use", "neck"], "plot": ["plot", "SHOP", "overview", "--out", f"{scratch}/p.svg"],
            }  # fmt: skip
            for name, words in commands.items():
                for folder, code in ((newer, 2), (partly, 0)):
                    with self.subTest(name, shop=folder.name):
                        line = [str(folder) if w == "SHOP" else w for w in words]
                        faults = io.StringIO()
                        with redirect_stderr(faults), redirect_stdout(io.StringIO()):
                            self.assertEqual(main(line), code, faults.getvalue())
                        if code:
                            self.assertIn("newer Grainet", faults.getvalue())
                        elif name != "import":
                            self.assertIn("set aside: Piece 2", faults.getvalue())


if __name__ == "__main__":
    unittest.main()
