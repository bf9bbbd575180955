"""Small jobs for the tests, written as the exchange contract has them."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path

import numpy as np

from grainet.exchange.json_file import to_value
from grainet.job.answer import Plan
from grainet.job.job import Job
from tests.pace import within


def rect(length, width, x=0.0, y=0.0):
    return [[x, y], [x + length, y], [x + length, y + width], [x, y + width]]


def half_ring(length=470.0, width=170.0, points=24):
    t = np.linspace(0, np.pi, points)
    return [
        [round(float(length / 2 - length / 2 * np.cos(a)), 3), round(float(width * np.sin(a) * (0.9 + 0.1 * np.cos(2 * a))), 3)]
        for a in t
    ]


def job(pieces, parts, kit=None, builds=()) -> Job:
    data = {"format": "grainet-job", "version": 1, "kit": kit or {}, "pieces": pieces, "parts": parts, "builds": list(builds)}
    made = to_value(data, Job, "job")
    assert not list(made.faults()), list(made.faults())
    return made


def piece(name="A", length=1000, width=200, thickness=30, **more):
    return {"id": name, "outline": rect(length, width), "thickness_mm": thickness, **more}


def part(name="p", length=300, width=90, thickness=20, **more):
    return {"id": name, "outline": rect(length, width), "thickness_mm": thickness, **more}


SAW = {"kerf_mm": {"crosscut": 3, "rip": 3, "resaw": 1.2, "outline": 3}}


def random_job(seed: int) -> Job:
    """A job with odd boards, all kinds of troubles, zones, sets and either way of cutting."""
    r = np.random.default_rng(seed)
    kinds = [
        "nail",
        "crack",
        "shake",
        "rot",
        "loose_knot",
        "groove",
        "hole",
        "pith",
        "wild_grain",
        "grit",
        "knot",
        "sap",
        "stain",
    ]
    pieces = []
    for i in range(int(r.integers(1, 3))):
        length, width = float(r.integers(600, 1500)), float(r.integers(80, 300))
        xs = np.linspace(0, length, 5)
        wavy = [[float(x), round(float(r.uniform(0, 15)), 2)] for x in xs] + [
            [float(x), round(float(width - r.uniform(0, 15)), 2)] for x in xs[::-1]
        ]
        one = {"id": f"P{i}", "outline": rect(length, width) if r.random() < 0.5 else wavy}
        if r.random() < 0.5:
            one["thickness_mm"] = float(r.integers(9, 60))
        else:
            one["stations"] = [
                {"x_mm": float(x), "y_mm": y, "thickness_mm": round(float(48 + r.uniform(-2, 4)), 2)}
                for x in np.linspace(0, length, 3)
                for y in (10.0, width - 10)
            ]
        if r.random() < 0.5:
            one["flatness"] = {"bow_mm": 2.0, "cup_mm": 0.6, "rock_mm": 1.0, "crook_mm": float(r.integers(0, 4))}
        one["defects"] = []
        for j in range(int(r.integers(0, 5))):
            x, y, a, b = r.uniform(0, length), r.uniform(0, width), r.uniform(3, 80), r.uniform(3, 30)
            mark = {
                "id": f"d{j}",
                "kind": str(r.choice(kinds)),
                "face": str(r.choice(["1", "2", "edge", "through"])),
                "polygon": [
                    [round(float(u), 2), round(float(v), 2)] for u, v in ((x, y), (x + a, y), (x + a, y + b), (x, y + b))
                ],
            }
            if r.random() < 0.6:
                mark["depth_mm"] = round(float(r.uniform(1, 15)), 1)
            one["defects"].append(mark)
        pieces.append(one)
    parts = [
        {"id": "half", "outline": half_ring(), "thickness_mm": float(r.choice([8, 44])), "tilt_deg": float(r.choice([0, 3])), "quantity": 3, "value": 5,
         "zones": [{"kind": "critical", "polygon": rect(100, 40, 200, 0)}, {"kind": "hidden", "polygon": rect(90, 60, 60, 10)}], "per_set": int(r.integers(1, 3)), "same_piece": bool(r.random() < 0.5)},
        part("top", 300, 90, 7, leaves=2, value=3, quantity=2, mirror=bool(r.random() < 0.3)), part("neck", 590, 70, 22, value=2, quantity=3),
    ]  # fmt: skip
    kit = {
        "kerf_mm": {"crosscut": float(r.choice([0, 3])), "rip": float(r.choice([0, 2.4])), "resaw": 1.2, "outline": float(r.choice([0, 3]))},
        "cutting": str(r.choice(["outline", "straight"])), "skim_mm": float(r.choice([0, 0.5])), "edge_mm": float(r.choice([0, 2])),
        "trim_mm": float(r.choice([0, 5])), "margin_mm": float(r.choice([0, 3])), "metal_clear_mm": 15, "growth_mm": 25, "machines": {"resaw_height_mm": 200},
    }  # fmt: skip
    return job(pieces, parts, kit)


_plans: dict[str, Plan] = {}


def quick_plan(job: Job, seconds: float = 4.0) -> Plan:
    """A plan that makes every build, for tests that only want one: by hand's rule where that does, else by the planner itself."""
    from grainet.plan.planner import PlannerCache, plainer_plan, plan_job

    plan = plainer_plan(job, PlannerCache())
    return plan if len(plan.builds) == len(job.builds) else plan_job(job, seconds=within(seconds))


def planned(job: Job) -> Plan:
    """The plan of a job; the same job is planned once for all the tests that only want a plan of it, also in other programs."""
    from grainet.plan.planner import plan_job

    key = hashlib.sha256(job.model_dump_json().encode()).hexdigest()[:24]
    path = Path(os.environ.get("TEST_CACHE", "")) / "plans" / f"{key}.json" if os.environ.get("TEST_CACHE") else None
    if key not in _plans and path is not None and path.exists():
        _plans[key] = Plan.model_validate_json(path.read_text())
    if key not in _plans:
        _plans[key] = plan_job(job)  # raises PlanFault where the verifier refuses
        if path is not None:
            path.parent.mkdir(parents=True, exist_ok=True)
            aside = path.with_suffix(f".{os.getpid()}")
            aside.write_text(_plans[key].model_dump_json(by_alias=True))
            aside.replace(path)
    return _plans[key]
