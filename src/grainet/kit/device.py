"""A real instrument of the shop: what it measures, and where its lines come from. A kind without one has its stand-in."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from grainet.wood.value import Value

DeviceKind = Literal["callipers", "moisture", "scale", "tap", "climate"]
BAUDS: tuple[int, ...] = (1200, 2400, 4800, 9600, 19200, 38400, 57600, 115200)


class Device(Value):
    """One instrument on a serial line, or one that another program writes a file for."""

    kind: DeviceKind
    source: Literal["serial", "file"]
    path: str = Field(min_length=1, max_length=400)  # /dev/ttyUSB0, or a file's whole path
    baud: int = Field(default=9600, ge=50, le=4_000_000)  # of a serial line
    name: str = Field(default="", max_length=40)

    @property
    def words(self) -> str:
        """What it is called where it is kept as the source of a reading."""
        return self.name or f"{self.kind} on {self.path.rpartition('/')[2]}"
