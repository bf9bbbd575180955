"""Writes the JSON Schemas of the exchanged models into docs/schema; a test sees that they are current."""

from __future__ import annotations

import json
from pathlib import Path

from grainet.design.answer import Blanks
from grainet.design.instrument import Instrument
from grainet.exchange.become_file import Become
from grainet.exchange.steps_file import ShopFile
from grainet.exchange.stock import Stock
from grainet.grade.verdict import Grades
from grainet.job.answer import Plan, Plans
from grainet.job.job import Job
from grainet.work.operation import Making

FOLDER = Path(__file__).resolve().parent.parent / "docs" / "schema"
MODELS = {
    "job": Job,
    "plan": Plan,
    "plans": Plans,
    "grades": Grades,
    "stock": Stock,
    "guitar": Instrument,
    "blanks": Blanks,
    "become": Become,
    "steps": Making,
    "shop": ShopFile,
}


def schema_text(name: str) -> str:
    """The schema of one model as it stands in docs/schema."""
    return json.dumps(MODELS[name].model_json_schema(by_alias=True), indent=1) + "\n"


if __name__ == "__main__":
    for model in MODELS:
        (FOLDER / f"{model}.json").write_text(schema_text(model), encoding="utf-8")
