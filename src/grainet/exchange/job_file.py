"""Jobs and plans as files, as the exchange contract has them."""

from __future__ import annotations

from pathlib import Path

from grainet.exchange.json_file import Unusable, read_value
from grainet.job.answer import Plan
from grainet.job.job import Job


def read_job(path: Path) -> Job:
    """A usable job from a file. Raises Unusable with one line per fault."""
    job = read_value(path, Job)
    lines = [f"{path.name}: {where}: {what}" for where, what in job.faults()]
    if lines:
        raise Unusable(lines)
    return job


def read_plan(path: Path) -> Plan:
    """A plan from a file. Raises Unusable with one line per fault."""
    return read_value(path, Plan)


def job_text(job: Job) -> str:
    """A job as JSON, written piece by piece: thousands at once would hold up everything else for a fifth of a second."""
    bare = job.model_copy(update={"pieces": ()}).model_dump_json(by_alias=True)
    pieces = ",".join(p.model_dump_json(by_alias=True) for p in job.pieces)
    return bare.replace('"pieces":[]', f'"pieces":[{pieces}]', 1)
