"""JSON in and out: read to validated values with faults named by place, written aside and then put in place."""

from __future__ import annotations

import json
import os
import tempfile
from pathlib import Path
from typing import Any, TypeVar, get_args

from pydantic import ValidationError

from grainet.wood.value import Value, place_of, sentence_of

V = TypeVar("V", bound=Value)
# our own additions to the contract: of jobs and plans, of grades, of answers, of guitars
OURS = frozenset(
    {
        "x-depth_mm", "x-bound_all", "x-barred", "x-hints", "x-code", "x-source", "x-remedy", "x-slides_mm", "x-rules", "x-label", "x-why", "x-guessed",
        "x-thickest_body_mm", "x-widest_body_mm", "x-lacks", "x-clearance_mm", "x-layer_mm", "x-grain", "x-templates", "x-mends", "x-off", "x-plates",
        "x-rim_mm", "x-heel_block", "x-stiffener", "x-recess_mm", "x-shaping", "x-board", "x-text",
    }
)  # fmt: skip
LARGEST_BYTES = 200_000_000


class Unusable(Exception):
    """Input that cannot be used; ``lines`` holds one sentence per fault, each beginning with its place."""

    def __init__(self, lines: list[str]) -> None:
        super().__init__("\n".join(lines))
        self.lines = lines


def read_json(path: Path) -> Any:
    """The JSON of a file, foreign ``x-`` keys dropped. Raises Unusable."""
    name = path.name
    try:
        if path.stat().st_size > LARGEST_BYTES:
            raise Unusable([f"{name}: {path.stat().st_size / 1e6:.0f} MB, at most {LARGEST_BYTES / 1e6:.0f}"])
        text = path.read_text(encoding="utf-8")
    except OSError as fault:
        raise Unusable([f"{name}: cannot be read: {fault.strerror or fault}"]) from None
    except UnicodeDecodeError as fault:
        raise Unusable([f"{name}: byte {fault.start} is not UTF-8 text"]) from None
    return parse_json(text, name)


def parse_json(text: str, name: str) -> Any:
    """JSON text to plain data. Refuses NaN, infinities and keys that stand twice. Raises Unusable."""

    def pairs(found: list[tuple[str, Any]]) -> dict[str, Any]:
        kept: dict[str, Any] = {}
        for key, value in found:
            if key in kept:
                raise Unusable([f"{name}: the key “{key}” stands twice in one object"])
            if not key.startswith("x-") or key in OURS:
                kept[key] = value
        return kept

    def no_number(word: str) -> float:
        raise Unusable([f"{name}: {word} is not a number that can be used"])

    try:
        return json.loads(text, object_pairs_hook=pairs, parse_constant=no_number)
    except json.JSONDecodeError as fault:
        raise Unusable([f"{name}: line {fault.lineno}, column {fault.colno}: not JSON: {fault.msg}"]) from None
    except RecursionError:
        raise Unusable([f"{name}: nested too deep"]) from None


def read_value(path: Path, model: type[V]) -> V:
    """A validated value from a file. Raises Unusable with one line per fault."""
    return to_value(read_json(path), model, path.name)


def _newest(model: type[Value]) -> int:
    """The newest version of a format that is understood."""
    field = model.model_fields["version"]
    return int(max((field.default, *get_args(field.annotation))))


def to_value(data: Any, model: type[V], name: str) -> V:
    """Plain data to a validated value; format and version are asked for first. Raises Unusable."""
    if not isinstance(data, dict):
        raise Unusable([f"{name}: holds {_kind(data)}, needs an object"])
    wanted = model.model_fields.get("format")
    if wanted is not None:
        if data.get("format") != wanted.default:
            raise Unusable([f"{name}: format: found {data.get('format')!r}, needs {wanted.default!r}"])
        version, newest = data.get("version"), _newest(model)
        if type(version) is int and version > newest:
            raise Unusable([f"{name}: version: found {version}, this Grainet reads up to {newest}"])
        if version is None:
            raise Unusable([f"{name}: version: missing, needs {model.model_fields['version'].default}"])
    try:
        return model.model_validate_json(json.dumps(data))
    except ValidationError as faults:
        raise Unusable([f"{name}: {place_of(f['loc']) or 'the file'}: {sentence_of(f)}" for f in faults.errors()]) from None


def _kind(data: Any) -> str:
    return {list: "a list", str: "text", type(None): "nothing"}.get(type(data), "a number")


def write_json(path: Path, value: Value, leave_out: set[str] | None = None) -> None:
    """Write a value aside and put it in place whole, some of its fields left out. Raises Unusable where the folder cannot be written."""
    write_text(path, value.model_dump_json(by_alias=True, exclude_none=True, exclude=leave_out, indent=1) + "\n")


def write_text(path: Path, text: str) -> None:
    """Write text aside in the same folder, flush it to disk, then rename it over ``path``."""
    write_bytes(path, text.encode("utf-8"))


def write_bytes(path: Path, data: bytes) -> None:
    """Write bytes aside in the same folder, flush them to disk, then rename over ``path``. Raises Unusable."""
    try:
        handle, aside = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
    except OSError as fault:
        raise Unusable([f"{path.name}: cannot be written: {fault.strerror or fault}"]) from None
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        Path(aside).replace(path)
    except OSError as fault:
        Path(aside).unlink(missing_ok=True)
        raise Unusable([f"{path.name}: cannot be written: {fault.strerror or fault}"]) from None
