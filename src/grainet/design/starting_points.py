"""Six starting points of our own: whole instruments to begin from, each with its outline and the figures that make it what it is."""

from __future__ import annotations

from typing import Any

from grainet.design.instrument import Instrument
from grainet.design.shape_library import BODIES

# word on the tape line: (what it is, body shape, figures by path)
POINTS: dict[str, tuple[str, str, dict[str, Any]]] = {
    "bolt-on": ("a solid bolt-on with one shoulder", "egg", {
        "kind": "bolt-on", "scale_mm": [628.0], "frets": 22, "tail_mm": 118.0, "join_fret": 17.0, "joint.length_mm": 66.0, "head.route": "flat", "head.length_mm": 178.0, "head.width_mm": 82.0,
        "head.thickness_mm": 14.5, "body.thickness_mm": 44.0}),
    "round": ("a solid bolt-on, round as a disc", "disc", {
        "kind": "bolt-on", "scale_mm": [648.0], "frets": 21, "tail_mm": 100.0, "join_fret": 17.0, "joint.length_mm": 62.0, "head.route": "flat", "head.length_mm": 172.0, "head.width_mm": 80.0,
        "head.thickness_mm": 14.5, "body.thickness_mm": 35.0}),
    "set": ("a set neck with a carved top", "leaf", {
        "kind": "set", "scale_mm": [622.0], "frets": 22, "tail_mm": 124.0, "join_fret": 16.0, "joint.angle_deg": 3.0, "joint.length_mm": 60.0, "joint.heel_mm": 34.0,
        "head.route": "scarf", "head.angle_deg": 13.0, "body.thickness_mm": 50.0, "body.cap_mm": 12.0}),
    "through": ("a through-neck with wings", "notched", {
        "kind": "through", "scale_mm": [640.0], "frets": 24, "tail_mm": 110.0, "join_fret": 17.0, "joint.length_mm": 330.0, "joint.angle_deg": 1.0,
        "head.route": "scarf", "head.angle_deg": 11.0, "body.thickness_mm": 35.0, "ways": {"neck": "strips"}}),
    "hollow": ("a hollow body with a matched top", "pear", {
        "kind": "set", "scale_mm": [630.0], "frets": 20, "tail_mm": 128.0, "join_fret": 15.0, "joint.angle_deg": 3.0, "joint.length_mm": 55.0, "joint.heel_mm": 38.0,
        "head.route": "solid", "head.angle_deg": 12.0, "body.thickness_mm": 52.0, "body.cap_mm": 8.0}),
    "bass": ("a four-string with a long scale", "long", {
        "kind": "bolt-on", "scale_mm": [864.0], "frets": 21, "nut_mm": 41.0, "spread_mm": 57.0, "tail_mm": 68.0, "join_fret": 20.0, "joint.length_mm": 58.0, "joint.heel_mm": 24.0,
        "neck.depth_nut_mm": 17.0, "neck.depth_heel_mm": 19.0, "head.route": "flat", "head.length_mm": 215.0, "head.width_mm": 92.0, "head.thickness_mm": 16.0,
        "fretboard.radius_mm": [355.0], "body.thickness_mm": 42.0}),
}  # fmt: skip


def begin(point: str, number: str, name: str) -> Instrument:
    """A new instrument from a starting point. What decides its kind is told, everything else still guessed. Raises KeyError."""
    _, shape, told = POINTS[point]
    body = BODIES[shape]
    figures = {k: v for k, v in told.items() if k != "kind"}
    base = Instrument(id=number, name=name, kind=told["kind"])
    made = base.with_figures(
        {
            **figures,
            "body.outline": [list(p) for p in body.outline],
            "body.zones": [z.model_dump(mode="json") for z in body.zones],
        }
    )
    # a starting point's own figures are ours, not the builder's: they count as guessed until he says them
    ours = {path: "guessed" for path in figures if path not in ("ways", "scale_mm", "frets")}
    return made.changed(status=ours)
