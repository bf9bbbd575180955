"""The planning worker over its pipes: progress, plans, faults told, and an end when its input closes."""

import json
import subprocess
import sys
import unittest

from grainet.exchange.json_file import to_value
from grainet.job.answer import Plan
from grainet.plan.verify import check
from tests.jobs import job, part, piece


class Worker(unittest.TestCase):
    def setUp(self):
        self.process = subprocess.Popen(
            [sys.executable, "-m", "grainet.plan.worker"],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            text=True,
        )
        self.addCleanup(self.end)

    def end(self):
        self.process.stdin.close()
        self.process.stdout.close()
        self.process.wait(20)

    def ask(self, message) -> list[dict]:
        self.process.stdin.write((message if isinstance(message, str) else json.dumps(message)) + "\n")
        self.process.stdin.flush()
        heard = []
        while not heard or "tell" in heard[-1]:
            heard.append(json.loads(self.process.stdout.readline()))
        return heard

    def test_it_plans_tells_and_goes_on_after_a_fault(self):
        made = job([piece()], [part(quantity=2)])
        data = json.loads(made.model_dump_json(by_alias=True))
        heard = self.ask({"id": 7, "job": data})
        self.assertTrue(all(m["id"] == 7 for m in heard))
        self.assertTrue(any("choosing" in m.get("tell", "") for m in heard))
        self.assertEqual([m["share"] for m in heard[:-1]], sorted(m["share"] for m in heard[:-1]))
        plan = to_value(heard[-1]["plan"], Plan, "plan")
        self.assertEqual(plan.made, {"p": 2})
        self.assertEqual(check(made, plan), [])
        self.assertIn("fault", self.ask({"id": 8, "job": {"pieces": "none"}})[-1])
        self.assertIn("fault", self.ask("not json")[-1])
        self.assertIn("plan", self.ask({"id": 9, "job": data})[-1])
        several = self.ask({"id": 10, "job": data, "aims": [], "seconds": 5})[-1]
        self.assertEqual([row["aim"] for row in several["plans"]], ["yield"])
        self.assertEqual(check(made.changed(version=2), to_value(several["plans"][0]["plan"], Plan, "plan")), [])

    def test_it_ends_itself_when_its_input_closes(self):
        self.process.stdin.close()
        self.assertEqual(self.process.wait(20), 0)
        self.process.stdin = open("/dev/null", "w")  # noqa: SIM115, PTH123  (end() closes it)
