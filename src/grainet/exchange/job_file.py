"""Jobs and plans as files, as the exchange contract has them."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from grainet.exchange.json_file import Unusable, read_json, read_value, to_value
from grainet.job.answer import Plan, Plans
from grainet.job.job import Job


def read_job(path: Path) -> Job:
    """A usable job from a file. Raises Unusable with one line per fault."""
    job = to_value(with_prices(read_json(path)), Job, path.name)
    lines = [f"{path.name}: {where}: {what}" for where, what in job.faults()]
    if lines:
        raise Unusable(lines)
    return job


def with_prices(told: Any) -> Any:
    """A job's data with each piece's ``price``, as the contract has it, where a piece keeps what was paid for it."""
    pieces = told.get("pieces") if isinstance(told, dict) else None
    return {**told, "pieces": [_priced(p) for p in pieces]} if isinstance(pieces, list) else told


def _priced(piece: Any) -> Any:
    if not isinstance(piece, dict) or "price" not in piece:
        return piece
    rest = {name: value for name, value in piece.items() if name != "price"}
    supply = piece.get("supply")
    return {**rest, "supply": {**(supply if isinstance(supply, dict) else {}), "price": piece["price"]}}


def read_plan(path: Path) -> Plan:
    """A plan from a file. Raises Unusable with one line per fault."""
    return read_value(path, Plan)


def read_plans(path: Path) -> tuple[Plan, ...]:
    """The plans of a file, of one plan or of several. Raises Unusable with one line per fault."""
    told = read_json(path)
    several = isinstance(told, dict) and told.get("format") == "grainet-plans"
    return to_value(told, Plans, path.name).plans if several else (to_value(told, Plan, path.name),)


def job_text(job: Job) -> str:
    """A job as JSON, written piece by piece: thousands at once would hold up everything else for a fifth of a second."""
    bare = job.model_copy(update={"pieces": ()}).model_dump_json(by_alias=True)
    pieces = ",".join(p.model_dump_json(by_alias=True) for p in job.pieces)
    return bare.replace('"pieces":[]', f'"pieces":[{pieces}]', 1)
