"""What stock can become, as the contract writes it: one answer an instrument and way, and the job behind each."""

from __future__ import annotations

from pathlib import Path

from pydantic import Field

from grainet.exchange.json_file import write_json, write_text
from grainet.job.job import Job
from grainet.wood.value import Value


class Failing(Value):
    """The one number that fails."""

    part: str
    what: str
    found: float
    wanted: float


class BecomeAnswer(Value):
    """One answer."""

    guitar: str
    scale_mm: float | tuple[float, ...]
    ways: dict[str, str]
    fits: bool
    pieces: dict[str, str] = {}
    margin_mm: dict[str, dict[str, float]] = {}
    fails: Failing | None = None
    largest_scale_mm: float | None = None
    thickest_body_mm: float | None = Field(default=None, alias="x-thickest_body_mm")
    widest_body_mm: float | None = Field(default=None, alias="x-widest_body_mm")
    lacks: tuple[str, ...] = Field(default=(), alias="x-lacks")  # parts that are often bought, where all else fits


class Become(Value):
    """All of them."""

    format: str = "grainet-become"
    version: int = 1
    answers: tuple[BecomeAnswer, ...]


def write_become(path: Path, answers: tuple[BecomeAnswer, ...]) -> None:
    """The answers to a file; ``fails`` is written as null where an instrument fits. Raises Unusable."""
    write_text(path, Become(answers=answers).model_dump_json(indent=1, by_alias=True) + "\n")


def write_jobs(folder: Path, jobs: list[tuple[str, Job]]) -> None:
    """The job behind each answer, named by its place among them and its guitar. Raises Unusable."""
    folder.mkdir(parents=True, exist_ok=True)
    for k, (name, job) in enumerate(jobs, 1):
        write_json(folder / f"{k:02d}-{name}.json", job)
