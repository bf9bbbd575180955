"""The same job told otherwise, made harder or made easier: what must hold between their plans whatever the job."""

from __future__ import annotations

import json

import numpy as np

from grainet.exchange.json_file import to_value
from grainet.job.answer import Plan
from grainet.job.job import Job
from tests.jobs import rect

EPS = 1e-6


def _told(made: Job) -> dict:
    data = json.loads(made.model_dump_json(by_alias=True, exclude_defaults=True))
    return {"format": "grainet-job", "version": made.version, **data}


def _read(data: dict) -> Job:
    return to_value(data, Job, "variant")


def shuffled(made: Job, seed: int) -> Job:
    """Pieces, parts and troubles in another order."""
    r, data = np.random.default_rng(seed), _told(made)
    for key in ("pieces", "parts"):
        data[key] = [data[key][k] for k in r.permutation(len(data[key]))]
    for one in data["pieces"]:
        one["defects"] = [one["defects"][k] for k in r.permutation(len(one.get("defects", [])))]
    return _read(data)


def mirrored(made: Job) -> Job:
    """Everything mirrored across the board: the same wood seen in a mirror."""
    data = _told(made)

    def flip(ring: list) -> list:
        return [[x, -y] for x, y in ring][::-1]

    for one in data["pieces"]:
        one["outline"] = flip(one["outline"])
        for station in one.get("stations", []):
            station["y_mm"] = -station["y_mm"]
        for mark in one.get("defects", []):
            mark["polygon"] = flip(mark["polygon"])
    for one in data["parts"]:
        one["outline"] = flip(one["outline"])
        for zone in one.get("zones", []):
            if zone["polygon"] != "rest":
                zone["polygon"] = flip(zone["polygon"])
    return _read(data)


def with_more_wood(made: Job) -> Job:
    """One board more."""
    data = _told(made)
    data["pieces"].append({"id": "extra", "outline": rect(700, 130), "thickness_mm": 46})
    return _read(data)


def with_a_crack(made: Job, seed: int) -> Job:
    """One trouble more, through the first board."""
    r, data = np.random.default_rng(seed), _told(made)
    xs, ys = zip(*data["pieces"][0]["outline"])
    x, y = r.uniform(min(xs), max(xs) - 60), r.uniform(min(ys), max(ys) - 20)
    mark = {"id": "more", "kind": "rot", "face": "through", "polygon": rect(60, 20, round(float(x), 2), round(float(y), 2))}
    data["pieces"][0].setdefault("defects", []).append(mark)
    return _read(data)


def with_a_wider_saw(made: Job) -> Job:
    """Every kerf a millimetre wider."""
    data = _told(made)
    kerfs = {"crosscut": 0.0, "rip": 0.0, "resaw": 0.0, "outline": 0.0, **data.get("kit", {}).get("kerf_mm", {})}
    data.setdefault("kit", {})["kerf_mm"] = {name: mm + 1 for name, mm in kerfs.items()}
    return _read(data)


def most(plan: Plan) -> float:
    """What no plan at all can pass, by what a plan says of itself."""
    return plan.bound if plan.bound_scope == "all" else plan.bound_all if plan.bound_all is not None else float("inf")


def broken(plain: Plan, other: Plan, relation: str) -> str:
    """What two plans say that cannot both be true; empty where it can. ``relation`` of the other job: same, harder or easier."""
    if relation in ("same", "harder") and other.value > most(plain) + EPS:
        return f"{relation}: makes {other.value:g} where the plain job says at most {most(plain):g}"
    if relation in ("same", "easier") and plain.value > most(other) + EPS:
        return f"{relation}: says at most {most(other):g} where the plain job makes {plain.value:g}"
    return ""
