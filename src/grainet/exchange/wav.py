"""Sounds from WAV files: plain PCM, one channel taken, samples as figures from -1 to 1."""

from __future__ import annotations

import struct
import wave
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from grainet.exchange.json_file import Unusable

LONGEST_S, SHORTEST_S = 60.0, 0.05
MOST_BYTES = 100_000_000


def read_wav(path: Path) -> tuple[NDArray[np.float64], int]:
    """Samples of the louder channel, shape (n,), and the rate in Hz. Raises Unusable with what was found and what is wanted."""
    try:
        if path.stat().st_size > MOST_BYTES:
            raise Unusable(
                [f"{path.name}: {path.stat().st_size / 1e6:.0f} MB is too much for a knock; at most {MOST_BYTES / 1e6:.0f}"]
            )
        with wave.open(str(path), "rb") as sound:
            channels, width, rate, count = sound.getnchannels(), sound.getsampwidth(), sound.getframerate(), sound.getnframes()
            if not (1 <= channels <= 8 and 1 <= width <= 4 and 1000 <= rate <= 400_000):
                raise Unusable(
                    [
                        f"{path.name}: {channels} channels of {8 * width} bits at {rate} Hz; a knock needs 1 to 8 channels of 8 to 32 bits at 1 to 400 kHz"
                    ]
                )
            if not SHORTEST_S <= count / rate <= LONGEST_S:
                raise Unusable([f"{path.name}: {count / rate:.2f} s long; a knock needs {SHORTEST_S:g} to {LONGEST_S:g} s"])
            data = sound.readframes(count)
    except (OSError, wave.Error, EOFError, ZeroDivisionError, ValueError, MemoryError, struct.error) as fault:
        raise Unusable(
            [f"{path.name}: is no plain WAV sound ({fault or 'it ends too soon'}); needs PCM of 8 to 32 bits"]
        ) from None
    whole = len(data) // (width * channels) * width * channels
    if whole < SHORTEST_S * rate * width * channels:
        raise Unusable([f"{path.name}: holds less sound than it says: it ends too soon"])
    samples = _as_figures(data[:whole], width).reshape(-1, channels)
    loudest = int(np.argmax((samples**2).sum(axis=0)))
    if not samples[:, loudest].any():
        raise Unusable([f"{path.name}: is silent; a knock needs a sound"])
    return samples[:, loudest], rate


def _as_figures(data: bytes, width: int) -> NDArray[np.float64]:
    if width == 1:  # unsigned
        return (np.frombuffer(data, np.uint8).astype(float) - 128) / 128
    if width == 3:
        raw = np.frombuffer(data[: len(data) // 3 * 3], np.uint8).reshape(-1, 3)
        wide = np.zeros((len(raw), 4), np.uint8)
        wide[:, 1:] = raw
        return wide.view("<i4").ravel().astype(float) / 2**31
    return np.asarray(np.frombuffer(data[: len(data) // width * width], f"<i{width}").astype(float) / 2 ** (8 * width - 1))


def after_the_knock(samples: NDArray[np.float64], rate: int) -> NDArray[np.float64]:
    """The samples from the loudest moment on, where the ringing begins; noise before it says nothing."""
    start = int(np.argmax(np.abs(samples)))
    return samples[min(start + int(0.004 * rate), len(samples) - 1) :]
