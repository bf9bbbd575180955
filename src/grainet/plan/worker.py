"""The planning worker: jobs in, progress and plans out, as JSON lines over its pipes. It ends itself when its input closes.

{"id": 1, "job": {...}, "effort": 1}   ->   {"id": 1, "tell": "...", "share": 0.4} ... {"id": 1, "plan": {...}} or {"id": 1, "fault": "..."}
{"id": 2, "become": {"guitar": {...}, "pieces": [...], "kit": {...}}}   ->   {"id": 2, "answers": [...]}; pieces and kit may be left out
where they are the ones that were sent before; {"reach": answer} in the place of a guitar asks how thick and wide its body might be.
{"id": 4, "job": {...}, "aims": []}  ->  ... {"id": 4, "plans": [{"aim": "yield", "plan": {...}}, ...]}: plans that differ, one by each aim
{"id": 3, "rescue": {"guitar": {...}, "part": "...", "piece": "...", "pieces": [...], "kit": {...}}}   ->   {"id": 3, "way": {...}} ... {"id": 3, "rescued": {...}}
"""

from __future__ import annotations

if __name__ == "__main__":  # before anything is imported that a file of the working folder could stand in for
    from grainet.isolate import leave_the_working_folder

    leave_the_working_folder()

import json
import os
import sys
import threading
import time
import traceback
from typing import Any

from grainet.design.instrument import Instrument
from grainet.job.job import Job
from grainet.kit.cut_kit import CutKit
from grainet.plan.alternatives import aims_for, alternatives
from grainet.plan.become import Heap
from grainet.plan.becoming import RoleBar, from_data, to_data
from grainet.plan.planner import PlanFault, PlannerCache, plan_job
from grainet.plan.rescue import Rescuer
from grainet.plan.rescuing import rest_to_data, way_to_data
from grainet.wood.piece import Piece

MOST_REMEMBERED = 400
WAYS_OUT_S = 24.0  # how long ways out are looked for on a slow machine; each is shown as it is found


def main() -> None:
    """Serve until the input closes; a fault of one job is told and the next one served."""
    threading.Thread(target=_end_with, args=(os.getppid(),), daemon=True).start()
    memory = PlannerCache()
    for line in sys.stdin:
        if line.strip():
            _serve(line, memory)
            if len(memory.found) > MOST_REMEMBERED:
                memory = PlannerCache()


def _end_with(parent: int) -> None:
    """End within a second of the program that started this one, also in the middle of a plan."""
    while os.getppid() == parent:
        time.sleep(0.4)
    os._exit(0)


def _serve(line: str, memory: PlannerCache) -> None:
    number: object = None
    try:
        asked = json.loads(line)
        number = asked.get("id")

        def tell(what: str, share: float) -> None:
            _say({"id": number, "tell": what, "share": share})

        if "become" in asked:
            _say({"id": number, "answers": _become(asked["become"])})
            return
        if "rescue" in asked:
            rescuer = _rescuer(asked["rescue"])
            ways = []
            for way in rescuer.ways() if not rescuer.fits else ():
                ways.append(way)
                _say({"id": number, "way": way_to_data(way)})
            _say({"id": number, "rescued": {**rest_to_data(rescuer.answer(ways)), "fits": rescuer.fits}})
            return
        job = Job.model_validate_json(json.dumps(asked["job"]))
        if "aims" in asked:
            found = []
            for aim, plan in alternatives(job, asked["aims"] or aims_for(job), asked.get("seconds"), memory, tell):
                found.append({"aim": aim, "plan": json.loads(plan.model_dump_json(by_alias=True))})
                tell(f"{len(found)} found", 0.0)
            _say({"id": number, "plans": found})
            return
        plan = plan_job(job, int(asked.get("effort", 1)), asked.get("seconds"), int(asked.get("seed", 0)), tell, memory)
        _say({"id": number, "plan": json.loads(plan.model_dump_json(by_alias=True))})
    except PlanFault as fault:
        _say({"id": number, "fault": f"No plan holds with what stays: {fault}"})
    except Exception as fault:  # whatever it was, the window must hear of it
        print(traceback.format_exc(), file=sys.stderr)
        _say({"id": number, "fault": f"{type(fault).__name__}: {fault}"})


_heap: list[Heap] = []


def _heap_of(asked: dict[str, Any]) -> Heap:
    """The pieces that may be used, the shop's cuts, and what the house takes from none of them."""
    pieces = [Piece.model_validate_json(json.dumps(p)) for p in asked["pieces"]]
    return Heap(pieces, CutKit.model_validate_json(json.dumps(asked["kit"])), [RoleBar(**bar) for bar in asked.get("bars", ())])


def _become(asked: dict[str, Any]) -> list[dict[str, Any]]:
    """What a heap can become, for one guitar."""
    if "pieces" in asked:
        _heap[:] = [_heap_of(asked)]
    elif "kit" in asked:
        _heap[0].sawn_with(CutKit.model_validate_json(json.dumps(asked["kit"])))
    if "reach" in asked:
        return [to_data(_heap[0].with_reach(from_data(asked["reach"])))]
    g = Instrument.model_validate_json(json.dumps(asked["guitar"]))
    return [to_data(answer) for answer in _heap[0].becomes(g)]


def _rescuer(asked: dict[str, Any]) -> Rescuer:
    """Who looks for ways out for one part of a guitar on one piece of what may be used."""
    g = Instrument.model_validate_json(json.dumps(asked["guitar"]))
    job = _heap_of(asked).job_of(g)
    return Rescuer(job, asked["part"], asked["piece"], [g], seconds=WAYS_OUT_S, alone=True)


def _say(message: dict[str, object]) -> None:
    sys.stdout.write(json.dumps(message) + "\n")
    sys.stdout.flush()


if __name__ == "__main__":
    main()
