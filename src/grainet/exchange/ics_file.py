"""Days at the bench for a person's own calendar (iCalendar, RFC 5545): one event each day's work, one each time something is over."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from hashlib import blake2b

FOLD = 73  # octets of a line


@dataclass(frozen=True)
class Event:
    """One event, local time; ``key`` says what it is of, so that it stays the same one when it moves; ``told`` is its long text."""

    starts: datetime
    ends: datetime
    title: str
    key: str
    told: str = ""


def ics_text(events: Sequence[Event], made: datetime, name: str) -> str:
    """A calendar of some events, times as the clock on the wall shows them; ``made`` without a zone is local. The same event keeps its id, so
    a newer file moves it."""
    lines = ["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//Grainet//bench//EN", f"X-WR-CALNAME:{_said(name)}"]
    stamp = f"{made.astimezone(UTC):%Y%m%dT%H%M%SZ}"
    for one in events:
        key = blake2b(f"{name}|{one.key}".encode(), digest_size=8).hexdigest()
        lines += [
            "BEGIN:VEVENT", f"UID:{key}@grainet", f"DTSTAMP:{stamp}", f"DTSTART:{one.starts:%Y%m%dT%H%M%S}", f"DTEND:{one.ends:%Y%m%dT%H%M%S}",
            f"SUMMARY:{_said(one.title)}", *([f"DESCRIPTION:{_said(one.told)}"] if one.told else []), "END:VEVENT",
        ]  # fmt: skip
    lines.append("END:VCALENDAR")
    return "".join(f"{folded}\r\n" for line in lines for folded in _folded(line))


def _said(text: str) -> str:
    return text.replace("\\", "\\\\").replace(";", "\\;").replace(",", "\\,").replace("\r\n", "\n").replace("\n", "\\n")


def _folded(line: str) -> list[str]:
    """A line in pieces of at most 75 octets, never through a letter; what goes on begins with a space."""
    found, part = [], ""
    for letter in line:
        if len((part + letter).encode()) > FOLD:
            found.append(part)
            part = " "
        part += letter
    return [*found, part]
