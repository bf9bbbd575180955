"""The tape line's words as a list to read and search: each with its form, what it does, an example to insert, and what a builder
would call it instead. The words themselves are read by ``tape_words`` and its neighbours; a test holds the two to one another."""

from __future__ import annotations

import re
from dataclasses import dataclass


@dataclass(frozen=True)
class TapeWord:
    """One word: the group it stands in, its form, what it does, a line that works as it stands, and other words for it."""

    group: str
    form: str
    does: str
    example: str
    also: str = ""


SIZES, MARKS, WOOD, STORY, SHOP = "Sizes and readings", "Marks on the wood", "What the wood is", "Its story", "Shop and rack"

WORD_LIST: tuple[TapeWord, ...] = (
    TapeWord(SIZES, "760", "moves the marker there", "760", "marker plumb place along go position"),
    TapeWord(SIZES, "plank L x W x T species", "kind, size and species at once; reclaimed may follow", "plank 2390x231x52 white ash",
             "all beam board slab billet strip panel plate veneer blank fretboard furniture offcut reclaimed dimensions size ½ 1/2 × metres feet inch spaces"),
    TapeWord(SIZES, "l length", "length", "l 2390", "long metres feet inches"),
    TapeWord(SIZES, "w width ...", "width at the marker, or several from end to end", "w 231 230 231", "wide across"),
    TapeWord(SIZES, "e up down ...", "live edges up and down from the snapped line; more pairs go from end to end", "e 148 186", "bark live edge waney slab outline"),
    TapeWord(SIZES, "t thickness ...", "thickness at the marker, or several from end to end; y how far up, h height of face 1", "t 52.4 52.1 51.6", "thick callipers height"),
    TapeWord(SIZES, "grid along x across", "how many thicknesses are wanted", "grid 5x3", "readings stations"),
    TapeWord(SIZES, "nominal T x W x L", "as it was sold; quarters such as 8/4 too", "nominal 8/4 x 8 in x 8 ft", "quarters trade sold rough sawn"),
    TapeWord(SIZES, "kg weight", "weight; g, lb or oz may be said", "kg 31.4", "weigh mass heavy pounds scale"),
    TapeWord(SIZES, "mc percent", "moisture at the marker; d how deep; wet behind the figure where it is of the wet weight", "mc 8.4 d 20", "moisture meter damp wet dry humidity"),
    TapeWord(SIZES, "core percent", "moisture of the core", "core 12.5", "moisture middle inside"),
    TapeWord(SIZES, "raw percent", "what the meter in hand shows, corrected by its table; c the wood's °C", "raw 10.5 c 28", "moisture meter correction temperature"),
    TapeWord(SIZES, "sample wet dry", "a slice weighed wet and oven-dry in grams: whole, shell or core", "sample 52.4 48.1 core", "moisture oven test slice"),
    TapeWord(SIZES, "bow figure over span", "bow over a span, 0 when straight; f 2 says the hollow face; cup, crook and twist may follow", "bow 3 over 900 cup .8", "bent curved straightedge flat"),
    TapeWord(SIZES, "cup figure over span", "cup across, 0 when flat", "cup .8", "hollow curved across flat"),
    TapeWord(SIZES, "crook figure over span", "crook of the edge", "crook 2 over 900", "edge bent banana spring"),
    TapeWord(SIZES, "twist figure over span", "height of the fourth corner over a span, or an angle", "twist 2 over 600", "wind winding rock corner"),
    TapeWord(SIZES, "ring angle angle", "ring angle at the marked end and the far end, 0 flat to 90 quarter", "ring 38 36", "growth rings quarter quartered rift flat end grain"),
    TapeWord(SIZES, "heart face mm", "the face that the heart (pith) lies toward, and how far from the middle of the board", "heart 2 120", "pith side hollow crown bark cup heart"),
    TapeWord(SIZES, "slope angle", "slope of grain on face 1, in degrees, as 3 % or as 1:20", "slope 1.5", "grain angle straight"),
    TapeWord(SIZES, "runout angle", "slope of grain on the near edge", "runout 2", "run-out grain edge"),
    TapeWord(SIZES, "part L x W", "what would be left of a part sawn from here on; y how far up", "part 700x90", "blank try what if flatten loss"),
    TapeWord(MARKS, "k L x W, or k across", "a knot at the marker; y up, d deep, f 2, s 1 to 3, through", "k 24x18 y 40 d 12", "knot branch pin diameter round k 18"),
    TapeWord(MARKS, "crack L x W", "a crack; at 0 it begins at the end. Also split, check, shake, rot", "crack 250x3 through", "c split check shake rot decay break end honeycomb"),
    TapeWord(MARKS, "m L x W", "metal: a nail. Also screw, staple, shot", "m 6x6", "nail screw staple metal iron shot"),
    TapeWord(MARKS, "groove L x W x depth", "what takes thickness; also housing, notch, mortise, hole, wane, thin spot", "groove 200x40x12", "v void slot dado housing notch mortise hole wane worm dent spall ridge"),
    TapeWord(MARKS, "wane L x W", "missing wood along the near edge; far says the other", "wane 300x15 far", "bark edge missing live"),
    TapeWord(MARKS, "inbark L x W", "bark grown in", "inbark 20x10", "bark pocket inclusion"),
    TapeWord(MARKS, "pith L x W", "pith, wild grain, run out: what moves", "pith 300x8", "heart centre wild grain moves"),
    TapeWord(MARKS, "sap, stain, streak, worm, pitch", "what only shows", "stain 60x40", "sapwood resin gum colour streak worm holes"),
    TapeWord(MARKS, "curl L x W", "figure; also flame, quilt, birdseye, ray fleck, burl, spalt, ribbon, cathedral, plain; s strength, wl wave", "curl 300x120 s .6", "figure flame quilt birdseye cathedral fleck burl ribbon spalt"),
    TapeWord(MARKS, "depth mark figure", "how deep a mark goes, ? unknown", "depth k1 12", "deep"),
    TapeWord(MARKS, "sev mark 1 to 3", "1 slight, 2 plain, 3 grave", "sev k1 2", "severity grave slight"),
    TapeWord(MARKS, "face mark face", "the face that a mark lies on: 1, 2, edge, through", "face k1 2", "side other"),
    TapeWord(MARKS, "is mark kind", "another kind for a mark", "is k1 loose knot", "change rename"),
    TapeWord(MARKS, "feature mark", "kept on purpose; again takes it back", "feature k1", "keep wanted character"),
    TapeWord(MARKS, "ends mark which", "a crack ends there: marked, far, both, open", "ends c1 far", "crack closed stop grows"),
    TapeWord(MARKS, "cleared mark how", "how a trouble was dealt with", "cleared c1 glued", "fixed repaired mended glued plugged"),
    TapeWord(MARKS, "out mark", "metal drawn out: its hole stays", "out m1", "nail removed pulled"),
    TapeWord(MARKS, "drop mark", "takes a mark away", "drop k1", "delete remove wrong"),
    TapeWord(MARKS, "take suggestion", "keeps what a picture suggests", "take k2?", "accept photo suggestion"),
    TapeWord(MARKS, "clear face", "a face swept for metal: 1, 2 or both", "clear 1", "sweep detector metal nails"),
    TapeWord(WOOD, "sp species", "the species; a ? behind it says unsure", "sp white ash", "species wood kind name maple walnut oak ash"),
    TapeWord(WOOD, "maybe species, species", "what else it may be", "maybe European oak, Sweet chestnut", "unsure candidates species"),
    TapeWord(WOOD, "surely species", "the species for certain", "surely white ash", "certain sure species"),
    TapeWord(WOOD, "look words", "pores and colours as seen, to narrow it", "look ring, brown", "pores colour porous"),
    TapeWord(WOOD, "planes end", "the end that face 1 planes clean toward: far, marked, both, ?", "planes far", "planing direction tear grain"),
    TapeWord(WOOD, "interlocked", "interlocked grain; interlocked no takes it back", "interlocked", "grain ribbon tear"),
    TapeWord(WOOD, "layers T species ...", "layers of a panel, face 1 first; across where the grain lies across", "layers 0.6 black cherry 18 lime across 0.6 black cherry", "laminate plywood panel"),
    TapeWord(WOOD, "tap tone", "a knock: tone in Hz, d the decay to 1/e in s, or t60", "tap 368 d .09", "tone ring knock sound hz"),
    TapeWord(WOOD, "kind name", "another kind: slab, plank, billet, strip, panel, plate, veneer, fretboard blank, offcut", "kind slab", "beam board blank veneer billet furniture"),
    TapeWord(WOOD, "reclaimed", "it had another life: both faces want a sweep for metal; bought takes it back", "reclaimed", "beam old salvaged bought nails furniture"),
    TapeWord(WOOD, "finish name", "old finish: none, unknown, paint, varnish, stain, oil", "finish paint", "paint varnish lacquer coat coating lead oil"),
    TapeWord(WOOD, "tested clean or lead", "a test of the old finish, and how", "tested clean swab", "lead paint test"),
    TapeWord(WOOD, "treated name", "treatment: none, unknown, preservative, decking, railway, fire retardant; safe and why", "treated none", "preservative creosote decking pallet chemical"),
    TapeWord(WOOD, "stack how", "how it rests: sticks, still, bench, sealed", "stack sticks", "stickers pile drying rest"),
    TapeWord(STORY, "weigh weight", "a weighing in its series; on 2026-11-03 says when", "weigh 31.4", "series drying scale kg"),
    TapeWord(STORY, "rest bow twist figure", "bow (and twist) today in the rest log; over says the span", "rest 2.0 twist .4", "log moving settled straight bow"),
    TapeWord(STORY, "settled why", "marked as settled by hand, with the reason; settled no takes it back", "settled two years in this room", "ready done dry acclimatised mark"),
    TapeWord(STORY, "waive why", "works a moving piece, with the reason", "waive grain is straight", "override moving anyway"),
    TapeWord(STORY, "from where", "where it comes from", "from loom beam", "origin source house barn"),
    TapeWord(STORY, "arrived day", "the day it came; without a day, today", "arrived 2026-11-03", "date came bought day"),
    TapeWord(STORY, "supplier name", "who sold it", "supplier Nether Holm", "seller shop bought dealer"),
    TapeWord(STORY, "price figure", "what it cost", "price 42", "cost paid money value"),
    TapeWord(STORY, "claim words", "what was said of its drying; age says of its age", "claim kiln dried", "kiln air dried age years old"),
    TapeWord(STORY, "age words", "what was said of its age", "age 1890", "old years date"),
    TapeWord(STORY, "paper kind number", "proof of origin", "paper invoice 2019-117", "invoice certificate permit trade rules"),
    TapeWord(STORY, "surprise words", "a flaw that it hid", "surprise hidden nail", "flaw hid supplier bad"),
    TapeWord(STORY, "passed why", "why it was left lying", "passed too short", "passed over rejected not used"),
    TapeWord(STORY, "note words", "a note of your own", "note smells of resin", "remark comment"),
    TapeWord(SHOP, "at place", "where it lies", "at C3", "shelf place rack location bay"),
    TapeWord(SHOP, "bundle count x L x W x T ...", "strips counted in one go; pack for veneers", "bundle 5x760x58x12 4x700 3x620 black cherry", "strips pack veneer many several count"),
    TapeWord(SHOP, "keep for what", "claims it, or the part tried on it; free gives it back", "keep for Merrow neck", "claim reserve promise hold"),
    TapeWord(SHOP, "free what", "gives claims back", "free Merrow", "release claim unreserve"),
    TapeWord(SHOP, "beside number", "what to mind where the two are glued", "beside 3", "glue joint pair next compare"),
    TapeWord(SHOP, "ask size words", "asks the rack for wood", "ask 30 x 110 x 700 clear, quartered", "find search which where have"),
    TapeWord(SHOP, "#number", "opens a piece, as its label says", "#18", "open go label scan number"),
    TapeWord(SHOP, "turn, roll, over", "end for end, the other face up, or both", "turn", "flip rotate other side end"),
    TapeWord(SHOP, "roll", "rolled over: face 2 is face 1 now", "roll", "flip face other side"),
    TapeWord(SHOP, "cut at, rip at, resaw at", "sawn apart there by hand", "cut 900", "saw crosscut rip resaw split halve"),
    TapeWord(SHOP, "rip at", "sawn along, so far up from the near edge", "rip 60", "saw along table saw"),
    TapeWord(SHOP, "resaw at", "sawn through the thickness, so far below face 1", "resaw 12", "saw leaves bookmatch slice"),
    TapeWord(SHOP, "air temperature humidity", "the shop's air now, °C (or F) and %", "air 20.5 46", "climate humidity rh temperature weather"),
)  # fmt: skip


def found_words(text: str) -> list[TapeWord]:
    """The words that a person may mean, the likeliest first; all of them for an empty text."""
    wanted = [w for w in re.findall(r"[\w½¼¾×/%°]+", text.lower()) if w not in ("a", "as", "the", "of")]
    if not wanted:
        return list(WORD_LIST)
    scored = [(sum(_score(one, w) for w in wanted), -k, one) for k, one in enumerate(WORD_LIST)]
    return [one for score, _, one in sorted(scored, key=lambda s: s[:2], reverse=True) if score > 0]


def _score(one: TapeWord, word: str) -> int:
    """How well a typed word fits: the tape word itself, another word for it, what it does; beginnings count for less."""
    heads = re.findall(r"[a-z#]+", one.example.lower())[:1]
    also, does = one.also.lower().split(), re.findall(r"[\w½×]+", f"{one.form} {one.does}".lower())
    if word in heads:
        return 9
    if word in also:
        return 6
    if word in does:
        return 5
    if len(word) < 2:
        return 0
    return 3 if any(w.startswith(word) for w in (*heads, *also)) else 2 if any(w.startswith(word) for w in does) else 0
