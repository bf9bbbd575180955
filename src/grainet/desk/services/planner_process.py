"""The planning worker seen from the window: started after the first paint, told jobs, killed to cancel."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from PySide6.QtCore import QObject, QProcess, QProcessEnvironment, Signal

import grainet
from grainet.exchange.json_file import Unusable, to_value
from grainet.job.answer import Plan
from grainet.job.job import Job
from grainet.store.log_file import LOG

# isolated: neither the working folder nor the environment may slip a module in
START = "import sys; sys.path.insert(0, sys.argv[1]); from grainet.plan.worker import main; main()"


class WorkerClient(QObject):
    """One worker program. ``busy`` while a plan is under way; answers to a cancelled job never arrive."""

    told = Signal(str, float)
    planned = Signal(object, object)  # Job, Plan
    compared = Signal(object, list)  # Job, (aim, Plan) for each plan
    answered = Signal(list)  # what a heap can become, plain data
    way_found = Signal(dict)  # one way out, plain data
    rescued = Signal(dict)  # what stands beside the ways out, plain data; no more come
    failed = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._process: QProcess | None = None
        self._number = 0
        self._job: Job | str | None = None  # the job under way, or "become", "rescue"
        self._buffer = b""

    @property
    def busy(self) -> bool:
        """Whether a plan is under way."""
        return self._job is not None

    def start(self) -> None:
        """Start the program if it is not running."""
        if self._process is not None:
            return
        process = QProcess(self)
        process.setProcessEnvironment(QProcessEnvironment.systemEnvironment())
        process.readyReadStandardOutput.connect(self._read)
        process.finished.connect(self._ended)
        process.errorOccurred.connect(self._not_started)
        process.start(sys.executable, ["-I", "-c", START, str(Path(grainet.__file__).resolve().parent.parent)])
        self._process = process

    def _not_started(self, fault: QProcess.ProcessError) -> None:
        """The program did not start at all: say so, instead of waiting for it."""
        if fault != QProcess.ProcessError.FailedToStart:
            return
        self._process = None
        LOG.error("the planner could not be started: %s", sys.executable)
        if self._job is not None:
            self._job = None
            self.failed.emit(f"The planner could not be started ({sys.executable} does not run). Nothing was changed.")

    def plan(self, job: Job, effort: int = 1, text: str = "", seconds: float | None = None) -> None:
        """Plan a job, in so many seconds at the most where that is said; a plan under way is cancelled first. ``text`` is the job as JSON
        where it was written already."""
        if self.busy:
            self.cancel()
        self.start()
        self._number += 1
        self._job = job
        cap = "" if seconds is None else f', "seconds": {seconds:g}'
        line = f'{{"id": {self._number}, "effort": {effort}{cap}, "job": {text or job.model_dump_json(by_alias=True)}}}\n'
        if self._process is not None:
            self._process.write(line.encode())

    def compare(self, job: Job, text: str = "", seconds: float = 20.0) -> None:
        """Ask for plans of a job that differ, one by each aim, each in so many seconds at the most."""
        if self.busy:
            self.cancel()
        self.start()
        self._number += 1
        self._job = job
        told = text or job.model_dump_json(by_alias=True)
        line = f'{{"id": {self._number}, "aims": [], "seconds": {seconds:g}, "job": {told}}}\n'
        if self._process is not None:
            self._process.write(line.encode())

    def become(self, asked: str) -> None:
        """Ask what a heap can become; ``asked`` is the question as JSON."""
        self._ask("become", asked)

    def rescue(self, asked: str) -> None:
        """Ask for the ways out for a part; a question under way is dropped."""
        if self.busy:
            self.cancel()
        self._ask("rescue", asked)

    def _ask(self, what: str, asked: str) -> None:
        self.start()
        self._number += 1
        self._job = what
        if self._process is not None:
            self._process.write(f'{{"id": {self._number}, "{what}": {asked}}}\n'.encode())

    def cancel(self) -> None:
        """Kill the worker; a new one starts with the next job."""
        self._job = None
        self.stop()

    def stop(self) -> None:
        """End the program."""
        process, self._process, self._buffer = self._process, None, b""
        if process is not None:
            process.readyReadStandardOutput.disconnect(self._read)
            process.finished.disconnect(self._ended)
            process.errorOccurred.disconnect(self._not_started)
            process.kill()
            process.waitForFinished(2000)
            process.deleteLater()

    def _read(self) -> None:
        assert self._process is not None
        self._buffer += bytes(self._process.readAllStandardOutput().data())
        *lines, self._buffer = self._buffer.split(b"\n")
        for line in lines:
            if line.strip():
                try:
                    message = json.loads(line)
                except ValueError:  # something else wrote to the pipe: it is no answer
                    LOG.warning("the planner said something that is no answer: %r", line[:200])
                    continue
                self._hear(message)

    def _hear(self, message: dict) -> None:  # type: ignore[type-arg]
        if message.get("id") != self._number or self._job is None:
            return
        if "tell" in message:
            self.told.emit(message["tell"], float(message["share"]))
        elif "way" in message:
            self.way_found.emit(message["way"])
        elif "rescued" in message:
            self._job = None
            self.rescued.emit(message["rescued"])
        elif "answers" in message:
            self._job = None
            self.answered.emit(message["answers"])
        elif "plans" in message:
            job, self._job = self._job, None
            try:
                rows = [(str(row["aim"]), to_value(row["plan"], Plan, "plan")) for row in message["plans"]]
            except Unusable as fault:
                self.failed.emit(str(fault))
            else:
                self.compared.emit(job, rows)
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
