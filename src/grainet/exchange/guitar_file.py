"""Guitars, kits and asked figures in files, and their answers out again."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from grainet.design.asked import answer
from grainet.design.instrument import Instrument
from grainet.design.parts import drawable
from grainet.exchange.json_file import Unusable, read_json, read_value, to_value, write_text
from grainet.kit.cut_kit import CutKit
from grainet.wood.value import BadEntry
from grainet.work.asked_of_work import ALL_KINDS


def read_guitar(path: Path) -> Instrument:
    """An instrument from its file. Raises Unusable with one line per fault."""
    g = read_value(path, Instrument)
    faults = [f"{path.name}: {place}: {found}" for place, found in g.faults()]
    if faults:
        raise Unusable(faults)
    try:
        return drawable(g)
    except BadEntry as fault:
        raise Unusable([f"{path.name}: {fault}"]) from None


def write_guitar(path: Path, g: Instrument) -> None:
    """An instrument to a file: what was told, no defaults beside it. Raises Unusable."""
    data = g.model_dump(mode="json", by_alias=True, exclude_unset=True)
    head = {"format": g.format, "version": g.version}
    write_text(path, json.dumps({**head, **data}, indent=1) + "\n")


def read_kit(path: Path | None) -> CutKit:
    """The kit object of a job, alone in a file; without one nothing is lost. Raises Unusable."""
    return CutKit() if path is None else to_value(read_json(path), CutKit, path.name)


def answer_figures(path: Path) -> dict[str, Any]:
    """The answers to a file of asked figures, each by its id. Raises Unusable with one line per fault."""
    data = read_json(path)
    if not isinstance(data, dict) or data.get("format") != "grainet-figures" or not isinstance(data.get("figures"), list):
        raise Unusable([f"{path.name}: needs an object with format 'grainet-figures', version 1 and a list of figures"])
    if data.get("version") != 1:
        raise Unusable([f"{path.name}: version: found {data.get('version')!r}, needs 1"])
    rows, faults = [], []
    for k, one in enumerate(data["figures"]):
        where = f"{path.name}: figures[{k}]"
        if not isinstance(one, dict) or not isinstance(one.get("id"), str) or not isinstance(one.get("inputs"), dict):
            faults.append(f"{where}: needs an id, a kind and inputs")
            continue
        try:
            rows.append({"id": one["id"], "value": answer(str(one.get("kind")), one["inputs"], ALL_KINDS)})
        except BadEntry as fault:
            faults.append(f"{where}: {fault}")
    if faults:
        raise Unusable(faults)
    return {"format": "grainet-figures", "version": 1, "answers": rows}
