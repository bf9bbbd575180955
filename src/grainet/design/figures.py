"""Every figure of an instrument that a person may tell, one row each: its path, its word, its name, its unit and its reach."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Figure:
    """One figure. ``word`` opens it on the tape line; ``bought`` figures are measured on a bought thing and hold what rests on them."""

    path: str
    word: str
    label: str
    unit: str = "mm"
    bought: bool = False
    help: str = ""


FIGURES: tuple[Figure, ...] = (
    Figure("scale_mm", "scale", "scale", help="one length, or the bass's and the treble's: scale 686 648"),
    Figure("frets", "frets", "frets", "", help="how many: frets 24"),
    Figure(
        "perpendicular_fret", "square", "square fret", "", help="of two scales the fret that stands square to the centre line"
    ),
    Figure("nut_mm", "nut", "nut", bought=True, help="width across the nut"),
    Figure("spread_mm", "spread", "string spread", bought=True, help="outer string to outer string at the bridge"),
    Figure("string_to_edge_mm", "beside", "beside the strings", help="from the outer string to the board's edge at its end"),
    Figure("overhang_mm", "overhang", "board overhang", help="how far the board runs on beyond the last fret"),
    Figure("tail_mm", "tail", "tail", help="from the tail to the bridge"),
    Figure("join_fret", "join", "joins at fret", "", help="the fret at which the body begins"),
    Figure("head.length_mm", "headlength", "head length"),
    Figure("head.width_mm", "headwidth", "head width"),
    Figure("head.thickness_mm", "headthick", "head thickness"),
    Figure("head.angle_deg", "pitch", "head pitch", "°"),
    Figure("joint.length_mm", "pocket", "joint length", help="pocket, tenon, or the run in the body"),
    Figure("joint.heel_mm", "heel", "heel", help="its thickness"),
    Figure("joint.angle_deg", "angle", "neck angle", "°"),
    Figure("joint.clearance_mm", "clearance", "pocket clearance", help="what the pocket is wider than the heel, on each side"),
    Figure("templates.bearing_mm", "bearing", "template bearing", help="across; with the cutter it sets the templates off"),
    Figure("templates.cutter_mm", "cutter", "template cutter", help="across"),
    Figure("neck.depth_nut_mm", "depth", "neck depth at the nut", help="without the fretboard; a second figure is the heel's"),
    Figure("neck.depth_heel_mm", "depthheel", "neck depth at the heel"),
    Figure("neck.back_curve_mm", "backcurve", "back curve"),
    Figure("neck.width_mm", "neckwidth", "neck width", help="of a neck out of one piece"),
    Figure(
        "neck.layer_mm", "layer", "layer stock", help="how thick the planed stock of a layered neck is: so many layers it takes"
    ),
    Figure("rod.depth_mm", "rod", "rod slot", bought=True, help="its depth"),
    Figure("rod.width_mm", "rodwidth", "rod width", bought=True),
    Figure("rod.curve_mm", "rodcurve", "rod curve", bought=True, help="how deep it lies below the slot"),
    Figure("tuner.shank_mm", "tuners", "tuner shanks", bought=True, help="the thickest head that they grip"),
    Figure("fretboard.thickness_mm", "board", "fretboard thickness"),
    Figure("fretboard.radius_mm", "radius", "radius", help="one, or the nut's and the end's: radius 254 406"),
    Figure("fretboard.binding_mm", "bound", "binding", help="its thickness; 0 for none"),
    Figure("fretboard.slot_mm", "slot", "fret slots", help="their depth"),
    Figure("plate.thickness_mm", "plate", "head plate", help="its thickness; 0 for none"),
    Figure("body.thickness_mm", "body", "body thickness"),
    Figure("body.cap_mm", "top", "top", help="its thickness; top none"),
    Figure(
        "body.rim_mm", "rim", "rim round the top", help="of a top that is let in: so much of the body stays round it; 0 for none"
    ),
    Figure("body.recess_mm", "recess", "recess", help="how deep the top is let in; 0 for its own thickness"),
    Figure("skim_after_glue_mm", "skim", "skim after gluing"),
    Figure("side_trim_mm", "sidetrim", "side trim"),
    Figure("snipe_mm", "snipe", "snipe"),
)
BY_WORD = {figure.word: figure for figure in FIGURES}
BY_PATH = {figure.path: figure for figure in FIGURES}
