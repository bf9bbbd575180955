"""Where an instrument's lines come from. A stand-in, a text file that another program fills, or a serial device: all the same."""

from __future__ import annotations

import os
import select
from pathlib import Path
from typing import Protocol

from grainet.instruments.reading import InstrumentFault

LONGEST = 4096  # bytes of a line


class Source(Protocol):
    """Gives one line when asked, within a time."""

    name: str

    def line(self, timeout_s: float = 2.0) -> str:
        """The next line, without its end. Raises InstrumentFault where nothing comes."""
        ...


class DeviceSource:
    """Lines from a device or pipe that already speaks plain text (a serial adapter set up by the system, a named pipe)."""

    def __init__(self, path: Path, name: str) -> None:
        self.path, self.name = path, name

    def line(self, timeout_s: float = 2.0) -> str:
        """The next line from the device. Raises InstrumentFault when it is not there or says nothing in time."""
        try:
            handle = os.open(self.path, os.O_RDONLY | os.O_NONBLOCK | os.O_NOCTTY)
        except OSError as fault:
            raise InstrumentFault(f"{self.name} is not there: {fault.strerror}. Plug it in, or type the figure.") from None
        try:
            return self._until_newline(handle, timeout_s)
        finally:
            os.close(handle)

    def _until_newline(self, handle: int, timeout_s: float) -> str:
        import time

        text, end = b"", time.monotonic() + timeout_s
        while b"\n" not in text:
            left = end - time.monotonic()
            if left <= 0 or not select.select([handle], [], [], left)[0]:
                raise InstrumentFault(f"{self.name} gave no answer in {timeout_s:g} s. Is it on? Or type the figure.")
            part = os.read(handle, 256)
            if not part:
                if text.strip():
                    break  # a file's last line without an end
                raise InstrumentFault(f"{self.name} was unplugged half-way; nothing was kept.")
            text += part
            if len(text) > LONGEST:
                raise InstrumentFault(f"{self.name} sends without end; needs one short line a reading.")
        return text.split(b"\n")[0].decode("ascii", "replace").strip("\r ")


class SerialSource:
    """Lines of a serial device at its own speed; needs the extra ``serial`` (pyserial)."""

    def __init__(self, path: str, baud: int, name: str) -> None:
        self.path, self.baud, self.name = path, baud, name

    def line(self, timeout_s: float = 2.0) -> str:
        """The next line from the device. Raises InstrumentFault when it is not there or says nothing in time."""
        try:
            import serial
        except ImportError:
            return DeviceSource(Path(self.path), self.name).line(timeout_s)  # at the speed that the system has set
        try:
            with serial.Serial(self.path, self.baud, timeout=timeout_s) as port:
                text = bytes(port.read_until(b"\n", LONGEST))
        except (OSError, ValueError) as fault:  # pyserial's own fault is an OSError
            raise InstrumentFault(f"{self.name} is not there: {_why(fault)}. Plug it in, or type the figure.") from None
        if not text.strip():
            raise InstrumentFault(f"{self.name} gave no answer in {timeout_s:g} s. Is it on? Or type the figure.")
        if len(text) >= LONGEST:
            raise InstrumentFault(f"{self.name} sends without end; needs one short line a reading.")
        return text.split(b"\n")[0].decode("ascii", "replace").strip("\r ")


def _why(fault: BaseException) -> str:
    """Why a port cannot be opened, in a few words."""
    number = getattr(fault, "errno", None)
    return os.strerror(number) if number else str(fault).partition(":")[0][:80]


def ports() -> list[tuple[str, str]]:
    """The serial ports of this machine: each by its path, and what the system says of it."""
    found: dict[str, str] = {}
    try:
        from serial.tools.list_ports import comports

        found = {p.device: p.description if p.description != "n/a" else "" for p in comports()}
    except ImportError:
        pass
    for pattern in ("ttyUSB*", "ttyACM*", "rfcomm*"):
        for path in sorted(Path("/dev").glob(pattern)):
            found.setdefault(str(path), "")
    return sorted(found.items())


class FileSource:
    """Lines of a text file, one after the other, such as an instrument's own log."""

    def __init__(self, path: Path, name: str) -> None:
        self.path, self.name, self.at = path, name, 0

    def line(self, timeout_s: float = 2.0) -> str:
        """The next line that is not blank. Raises InstrumentFault at the end of the file."""
        try:
            rows = [r for r in self.path.read_text(encoding="utf-8", errors="replace").splitlines() if r.strip()]
        except OSError as fault:
            raise InstrumentFault(f"{self.name}: {self.path.name} cannot be read: {fault.strerror}.") from None
        if self.at >= len(rows):
            raise InstrumentFault(f"{self.name}: {self.path.name} has no further reading.")
        self.at += 1
        return rows[self.at - 1]
