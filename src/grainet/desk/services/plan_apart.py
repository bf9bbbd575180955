"""One job planned in a program of its own, so that the window answers meanwhile and the planner that the screens share stays free."""

from __future__ import annotations

import subprocess
import sys
import tempfile
from pathlib import Path

from grainet.job.answer import Plan
from grainet.job.job import Job

SECONDS, PATIENCE_S = 8.0, 60.0


def plan_apart(job: Job, seconds: float = SECONDS) -> Plan | None:
    """The plan of a job; None where it fails. It waits: call it off the window's thread."""
    from grainet.exchange.job_file import job_text, read_plans
    from grainet.exchange.json_file import Unusable

    with tempfile.TemporaryDirectory() as scratch:
        asked, answer = Path(scratch) / "job.json", Path(scratch) / "plan.json"
        asked.write_text(job_text(job), encoding="utf-8")
        command = [sys.executable, "-I", "-m", "grainet", "plan", str(asked), "--out", str(answer), "--seconds", f"{seconds:g}"]
        try:
            made = subprocess.run(command, capture_output=True, timeout=PATIENCE_S, check=False)
            return read_plans(answer)[0] if made.returncode == 0 else None
        except (subprocess.TimeoutExpired, OSError, Unusable):
            return None
