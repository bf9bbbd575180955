"""The planning worker seen from the window: started after the first paint, told jobs, killed to cancel."""

from __future__ import annotations

import json
import sys

from PySide6.QtCore import QObject, QProcess, QProcessEnvironment, Signal

from grainet.exchange.json_file import Unusable, to_value
from grainet.job.answer import Plan
from grainet.job.job import Job


class WorkerClient(QObject):
    """One worker program. ``busy`` while a plan is under way; answers to a cancelled job never arrive."""

    told = Signal(str, float)
    planned = Signal(object, object)  # Job, Plan
    failed = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._process: QProcess | None = None
        self._number = 0
        self._job: Job | None = None
        self._buffer = b""

    @property
    def busy(self) -> bool:
        return self._job is not None

    def start(self) -> None:
        """Start the program if it is not running."""
        if self._process is not None:
            return
        process = QProcess(self)
        process.setProcessEnvironment(QProcessEnvironment.systemEnvironment())
        process.readyReadStandardOutput.connect(self._read)
        process.finished.connect(self._ended)
        process.start(sys.executable, ["-m", "grainet.plan.worker"])
        self._process = process

    def plan(self, job: Job, effort: int = 1) -> None:
        """Plan a job; a plan under way is cancelled first."""
        if self.busy:
            self.cancel()
        self.start()
        self._number += 1
        self._job = job
        line = json.dumps({"id": self._number, "job": json.loads(job.model_dump_json(by_alias=True)), "effort": effort})
        assert self._process is not None
        self._process.write((line + "\n").encode())

    def cancel(self) -> None:
        """Kill the worker; a new one starts with the next job."""
        self._job = None
        self.stop()

    def stop(self) -> None:
        process, self._process, self._buffer = self._process, None, b""
        if process is not None:
            process.readyReadStandardOutput.disconnect(self._read)
            process.finished.disconnect(self._ended)
            process.kill()
            process.waitForFinished(2000)
            process.deleteLater()

    def _read(self) -> None:
        assert self._process is not None
        self._buffer += bytes(self._process.readAllStandardOutput().data())
        *lines, self._buffer = self._buffer.split(b"\n")
        for line in lines:
            if line.strip():
                self._hear(json.loads(line))

    def _hear(self, message: dict) -> None:  # type: ignore[type-arg]
        if message.get("id") != self._number or self._job is None:
            return
        if "tell" in message:
            self.told.emit(message["tell"], float(message["share"]))
        elif "plan" in message:
            job, self._job = self._job, None
            try:
                self.planned.emit(job, to_value(message["plan"], Plan, "plan"))
            except Unusable as fault:
                self.failed.emit(str(fault))
        else:
            self._job = None
            self.failed.emit(str(message.get("fault", "the planner gave no answer")))

    def _ended(self, *_: object) -> None:
        self._process = None
        if self._job is not None:
            self._job = None
            self.failed.emit("The planner stopped before it was done. Try once more.")
