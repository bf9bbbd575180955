"""Stand-ins for the bench's instruments, with noise, drift and the faults that real ones have.

Each speaks the lines that a real one would send; ``fault`` makes it misbehave. They ship with the program so that a whole
take-in can be tried and tested without any device.
"""

from __future__ import annotations

import time
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Literal

import numpy as np

from grainet.instruments.reading import InstrumentFault, InstrumentKind
from grainet.instruments.specimen import Specimen, specimen_of
from grainet.wood.piece import Piece

if TYPE_CHECKING:
    from numpy.typing import NDArray

FaultKind = Literal["", "no_answer", "garbage", "wrong_unit", "unplugged"]
FAULT_KINDS: tuple[FaultKind, ...] = ("", "no_answer", "garbage", "wrong_unit", "unplugged")
FAULT_WORDS = {
    "": "all well",
    "no_answer": "gives no answer",
    "garbage": "sends garbage",
    "wrong_unit": "set to another unit",
    "unplugged": "unplugged half-way",
}
NAMES: dict[str, str] = {
    "callipers": "callipers 1", "moisture": "pin meter 1", "scale": "bench scale", "tap": "tap microphone", "climate": "climate logger", "camera": "bench camera",
}  # fmt: skip
TONE_RATE = 44_100


@dataclass
class StandIn:
    """One stand-in. Point it at a place on a piece, then ask for a line. ``drift`` grows with every reading until it is zeroed."""

    kind: InstrumentKind
    fault: FaultKind = ""
    seed: int = 1
    patience_s: float = 0.4  # how long a silent one keeps one waiting
    drift: float = 0.0
    megapixels: float = 3.0  # of the camera's pictures
    read: int = field(default=0, init=False)
    _specimen: Specimen | None = field(default=None, init=False)
    _place: tuple[float, float, float] = field(default=(0.0, 0.0, 0.0), init=False)
    _size_mm: float | None = field(default=None, init=False)

    @property
    def name(self) -> str:
        """What the instrument is called."""
        return NAMES[self.kind] + " (stand-in)"

    def point_at(self, piece: Piece, x_mm: float, y_mm: float = 0.0, depth_mm: float = 10.0) -> None:
        """Hold it to a place on a piece."""
        self._specimen, self._place, self._size_mm = specimen_of(piece), (x_mm, y_mm, depth_mm), None

    def hold_to(self, size_mm: float) -> None:
        """Hold callipers to something of about a size that is just being made."""
        self._size_mm = size_mm

    def zero(self) -> None:
        """Take the drift out, as one zeroes a scale or closes callipers."""
        self.drift, self.read = 0.0, 0

    def line(self, timeout_s: float = 2.0) -> str:
        """One line as the instrument would send it. Raises InstrumentFault."""
        self.read += 1
        if self.fault == "no_answer":
            time.sleep(min(timeout_s, self.patience_s))
            raise InstrumentFault(f"{self.name} gave no answer. Is it on? Or type the figure.")
        if self.fault == "unplugged":
            raise InstrumentFault(f"{self.name} was unplugged half-way; nothing was kept.")
        if self.fault == "garbage":
            return "\x7f#3.?=/ mm"
        if self._size_mm is not None and self.kind == "callipers":
            return self._size(self._size_mm)
        if self._specimen is None:
            raise InstrumentFault(f"{self.name} is not held to any wood.")
        return self._sentence(self._specimen)

    def _size(self, size_mm: float) -> str:
        mm = size_mm + 0.08 * float(np.random.default_rng((self.seed, self.read)).normal()) + self.drift * self.read
        return f"{mm / 25.4:.4f}" if self.fault == "wrong_unit" else f"T +{mm:07.2f} mm"

    def _sentence(self, wood: Specimen) -> str:
        rng = np.random.default_rng((self.seed, wood.seed, self.read))
        off, wrong = float(rng.normal()), self.fault == "wrong_unit"
        x, y, depth = self._place
        if self.kind == "callipers":
            mm = wood.thickness_at(x, y) + 0.03 * off + self.drift * self.read
            return f"{mm / 25.4:.4f}" if wrong else f"T +{mm:07.2f} mm"
        if self.kind == "scale":
            kg = wood.mass_kg * (1 + 0.001 * off) + self.drift * self.read
            return f"ST,{kg / 0.45359237:+.3f}".removeprefix("ST,") if wrong else f"ST {kg:+.3f} kg"
        if self.kind == "moisture":
            return f"MC {wood.moisture_at(x, depth) + 0.15 * off + self.drift * self.read:.1f} %"
        if self.kind == "climate":
            temperature, humidity = self.climate()
            return (
                f"{temperature * 1.8 + 32:.1f} F {humidity * 100:.1f} %"
                if wrong
                else f"{temperature:.1f} C {humidity * 100:.1f} %"
            )
        if self.kind == "tap":
            hz, decay = tone_of(self.tone())
            return f"F {hz:.1f} Hz D{decay:.3f}"
        raise InstrumentFault(f"{self.name} takes pictures, not figures.")

    def climate(self) -> tuple[float, float]:
        """Temperature in C and relative humidity 0..1, wandering a little with each reading."""
        rng = np.random.default_rng((self.seed, self.read))
        return 20.3 + 0.6 * float(rng.normal()), float(np.clip(0.46 + 0.02 * rng.normal(), 0.2, 0.8))

    def tone(self) -> NDArray[np.float64]:
        """One knock as samples at 44.1 kHz: a dying tone with a little of the next mode and hiss. Raises InstrumentFault."""
        if self._specimen is None:
            raise InstrumentFault(f"{self.name} is not held to any wood.")
        rng = np.random.default_rng((self.seed, self._specimen.seed, self.read))
        t = np.arange(int(0.8 * TONE_RATE)) / TONE_RATE
        f = self._specimen.tone_hz * (1 + 0.002 * float(rng.normal()))
        sound = np.exp(-t / 0.09) * np.sin(2 * np.pi * f * t) + 0.25 * np.exp(-t / 0.03) * np.sin(2 * np.pi * 2.756 * f * t)
        return np.asarray(sound + 0.003 * rng.normal(size=len(t)))


def tone_of(samples: NDArray[np.float64], rate: int = TONE_RATE) -> tuple[float, float]:
    """The strongest tone in Hz and its decay time in seconds (to 1/e), from samples of one knock."""
    spectrum = np.abs(np.fft.rfft(samples * np.exp(-np.arange(len(samples)) / (0.25 * rate)), n=4 * len(samples)))
    freq = np.fft.rfftfreq(4 * len(samples), 1 / rate)
    low = np.searchsorted(freq, 15)
    k = int(low + np.argmax(spectrum[low : np.searchsorted(freq, 8000)]))
    a, b, c = np.log(spectrum[k - 1 : k + 2] + 1e-12)
    peak = float(freq[k] + 0.5 * (a - c) / (a - 2 * b + c) * (freq[1] - freq[0]))
    carrier = samples * np.exp(-2j * np.pi * peak * np.arange(len(samples)) / rate)
    block = max(1, int(rate / peak * 4))
    level = np.abs(carrier[: len(carrier) // block * block].reshape(-1, block).mean(axis=1))
    keep = level > 0.05 * level.max()
    keep[int(np.argmin(keep)) if not keep.all() else len(keep) :] = False
    t = (np.arange(len(level)) + 0.5) * block / rate
    slope = np.polyfit(t[keep], np.log(level[keep]), 1)[0] if keep.sum() >= 3 else -20.0
    return peak, float(-1 / min(slope, -1e-3))
