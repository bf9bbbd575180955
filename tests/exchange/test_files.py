"""Files at the edge: faults named by place, nothing half-written, the command line's exit codes, the cut map's size."""

import contextlib
import io
import json
import tempfile
import unittest
from pathlib import Path

from grainet.cli import main
from grainet.exchange.job_file import read_job
from grainet.exchange.json_file import Unusable, parse_json, write_text
from grainet.kit.use import Use
from tests.jobs import SAW, part, piece, rect

GOOD = {
    "format": "grainet-job",
    "version": 1,
    "kit": SAW,
    "pieces": [piece("A", 700, 200)],
    "parts": [part(quantity=2, role="neck")],
}


class Scratch(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name)

    def file(self, data, name="JOB.json"):
        path = self.folder / name
        path.write_text(data if isinstance(data, str) else json.dumps(data), encoding="utf-8")
        return path

    def run_cli(self, *arguments):
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            try:
                code = main([str(a) for a in arguments])
            except SystemExit as leaving:
                code = leaving.code
        return code, out.getvalue(), err.getvalue()


class Faults(Scratch):
    def fault(self, data):
        with self.assertRaises(Unusable) as caught:
            read_job(self.file(data))
        return "\n".join(caught.exception.lines)

    def test_every_bad_input_names_its_place(self):
        bowtie = [[0, 0], [400, 100], [400, 0], [0, 100]]
        for change, words in (
            ({"pieces": [piece(), piece("B", outline=bowtie)]}, "JOB.json: pieces[1].outline: crosses itself near (200, 50)"),
            ({"pieces": [piece(colour="red")]}, "pieces[0].colour: no such key"),
            ({"pieces": [piece(thickness=-3)]}, "pieces[0].thickness_mm: found -3"),
            ({"pieces": [piece(kind="log")]}, "pieces[0].kind"),
            ({"pieces": [piece(), piece()]}, "“A” stands twice"),
            ({"pieces": [{"id": "A", "outline": rect(9, 9)}]}, "neither thickness_mm nor stations"),
            ({"parts": [part(turns_deg=[])]}, "parts[0].turns_deg: has 0 entries"),
            ({"parts": [part(zones=[{"kind": "seen", "polygon": "all"}])]}, "parts[0].zones[0].polygon"),
            ({"builds": [{"id": "b", "recipes": [{"id": "r", "needs": {"zz": 1}}]}]}, "names “zz”"),
            ({"version": 3}, "version: found 3"), ({"format": "other"}, "format: found 'other'"), ({"kit": {"skim_mm": "much"}}, "kit.skim_mm"),
            ({"pieces": [piece(length=1e7)]}, "at most 20000"),
        ):  # fmt: skip
            with self.subTest(words):
                self.assertIn(words, self.fault({**GOOD, **change}))

    def test_what_is_not_json(self):
        for text in ("{", "[]", '"x"', "", '{"a": NaN}', '{"a": Infinity}', '{"a": 1, "a": 2}', "[" * 100_000):
            with self.subTest(text[:12]):
                self.assertTrue(self.fault(text))
        path = self.folder / "b.json"
        path.write_bytes(b"\xff\xfe\x00bad")
        with self.assertRaisesRegex(Unusable, "not UTF-8"):
            read_job(path)
        with self.assertRaisesRegex(Unusable, "cannot be read"):
            read_job(self.folder / "none.json")

    def test_keys_of_others_are_passed_over(self):
        job = read_job(self.file({**GOOD, "x-ours": {"deep": 1}, "pieces": [piece(**{"x-note": 3})]}))
        self.assertEqual(job.pieces[0].id, "A")
        self.assertEqual(parse_json('{"x-a": 1, "b": 2}', "n"), {"b": 2})


class CommandLine(Scratch):
    def test_plan_check_and_grade(self):
        job, plan, grades = self.file(GOOD), self.folder / "PLAN.json", self.folder / "GRADES.json"
        code, out, _ = self.run_cli("plan", job, "--out", plan)
        self.assertEqual(code, 0)
        self.assertIn("value 2", out)
        data = json.loads(plan.read_text())
        self.assertEqual(data["made"], {"p": 2})
        self.assertEqual(data["placements"][0]["copy"], 1)
        self.assertEqual(self.run_cli("check", job, plan)[0], 0)
        data["placements"][0]["x"] += 1
        code, out, _ = self.run_cli("check", job, self.file(data, "bad.json"))
        self.assertEqual(code, 1)
        self.assertTrue(out.strip())
        self.assertEqual(self.run_cli("grade", job, "--out", grades)[0], 0)
        verdicts = json.loads(grades.read_text())["verdicts"]
        self.assertEqual({v["use"] for v in verdicts}, set(Use))
        neck = next(v for v in verdicts if v["use"] == "neck")
        self.assertEqual(neck["stretches"][0]["verdict"], "if")
        rules = {r["rule"]: r for r in neck["x-rules"]}
        self.assertLessEqual({"moisture", "rings", "slope", "twist"}, set(rules))
        self.assertTrue(all(r["text"] and r["x-source"] for r in neck["x-rules"]))

    def test_unusable_input_exits_2_and_writes_nothing(self):
        out = self.folder / "P.json"
        code, _, err = self.run_cli("plan", self.file("{}"), "--out", out)
        self.assertEqual(code, 2)
        self.assertIn("JOB.json: format", err)
        self.assertFalse(out.exists())
        self.assertEqual(self.run_cli("plan", self.file(GOOD), "--out", self.folder / "no" / "P.json")[0], 2)
        self.assertEqual(self.run_cli("plan", self.file(GOOD), "--out", out, "--effort", "0")[0], 2)
        self.assertEqual(self.run_cli("plan", self.file(GOOD), "--out", out, "--seconds", "nan")[0], 2)

    def test_import_and_export(self):
        shop, stock = self.folder / "S.grainet", self.folder / "t.json"
        self.file({"format": "grainet-stock", "version": 1, "pieces": [piece("7", 900, 120)]}, "t.json")
        self.assertEqual(self.run_cli("import", stock, "--shop", shop)[0], 0)
        out = self.folder / "o.json"
        self.assertEqual(self.run_cli("export", "--shop", shop, "--out", out)[0], 0)
        self.assertEqual(json.loads(out.read_text())["pieces"][0]["id"], "7")


class Writing(Scratch):
    def test_a_write_that_fails_leaves_the_old_file(self):
        path = self.file("old", "f.txt")
        with self.assertRaises(Unusable):
            write_text(self.folder / "missing" / "f.txt", "new")
        write_text(path, "new")
        self.assertEqual(path.read_text(), "new")
        self.assertEqual([p.name for p in self.folder.iterdir()], ["f.txt"])


class CutMap(Scratch):
    def test_the_map_is_at_true_size_after_the_list(self):
        import re

        from grainet.exchange.cut_drawing import drawing_of
        from grainet.exchange.cut_map import MARGIN_MM, cut_map_pdf
        from grainet.plan.planner import plan_job
        from grainet.work.steps import steps_for

        job = read_job(self.file(GOOD))
        plan = plan_job(job)
        pdf = cut_map_pdf(job, plan, job.pieces[0], steps_for(job, plan, job.pieces[0]), title="Test")
        boxes = [[float(v) for v in m.split()] for m in re.findall(rb"/MediaBox \[ ([^\]]+)\]", pdf)]
        self.assertEqual(len(boxes), 2)
        wide = drawing_of(job, plan, job.pieces[0], title="Test").size_mm[0]
        self.assertGreaterEqual(wide, 700)
        self.assertAlmostEqual(max(b[2] for b in boxes) / 72 * 25.4, wide + 2 * MARGIN_MM, delta=0.05)


class PlanCommand(Scratch):
    def test_the_same_job_gives_the_same_file_and_a_version_2_job_is_planned(self):
        """Byte for byte; how long it took stands in it only with --timed."""
        from grainet.cli import main

        outs = [self.folder / f"{n}.json" for n in ("a", "b", "timed")]
        job = self.file({**GOOD, "version": 2})
        for out, more in zip(outs, ([], [], ["--timed"])):
            self.assertEqual(main(["plan", str(job), "--out", str(out), *more]), 0)
        self.assertEqual(outs[0].read_bytes(), outs[1].read_bytes())
        self.assertNotIn('"seconds"', outs[0].read_text())
        self.assertIn('"seconds"', outs[2].read_text())
        self.assertEqual(main(["check", str(job), str(outs[0])]), 0)
