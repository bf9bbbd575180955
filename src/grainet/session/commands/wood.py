"""Words that tell what the wood is and how it behaves: species and its doubt, raw meter readings, samples, weighings, rest, taps, supply."""

from __future__ import annotations

import re
from collections.abc import Callable

from grainet.session.commands.command import Command
from grainet.session.commands.definition import SHOP, SIZES, STORY, WOOD, word
from grainet.session.commands.reader_base import ReaderBase
from grainet.wood.meters import corrected
from grainet.wood.piece import MoistureReading, Piece
from grainet.wood.place import SAME_PLACE_MM
from grainet.wood.quantity import CELSIUS, GRAMS, PERCENT, SECONDS, TONE, WEIGHT, parse_money
from grainet.wood.record import CutSample, Happening, Paper, Rest, Surprise, Tap
from grainet.wood.settling import STACKING_WORDS
from grainet.wood.species import COLOURS, POROSITIES
from grainet.wood.tap import SUPPORTS_AT, TRUST_WITHIN, decay_from_t60, expected_hz
from grainet.wood.value import BadEntry, real_day
from grainet.wood.weighing import sample_pct


class WoodWords(ReaderBase):
    """Reads what is known of the wood."""

    # what it is ---------------------------------------------------------------------------------------------------
    def _named(self, text: str) -> str:
        return self.species_of(text).common

    @word(
        "sp",
        WOOD,
        "sp species",
        "the species; a ? behind it says unsure, so does or: oak or sweet chestnut",
        "sp white ash",
        "species wood kind name maple walnut oak ash",
    )
    def _species(self, rest: str) -> Command:
        told = self.wood_of(rest)
        new = self._renamed(told.name, sure=told.sure)
        if told.others:
            new = new.changed(candidates=tuple(dict.fromkeys((*new.candidates, *told.others))))
        scientific = self.species_of(told.name).scientific if told.sure else ""
        return Command(f"{told.words}, {scientific}" if scientific else told.words, new, label="species")

    def _renamed(self, name: str, *, sure: bool) -> Piece:
        """The piece under another name, with the old one in its story."""
        piece = self.piece
        history = piece.history
        if piece.species not in ("unknown", name):
            history = (*history, Happening(on=self.today, what=f"species {piece.species} renamed {name}"))
        elif piece.species == name and sure and not piece.species_sure:
            history = (*history, Happening(on=self.today, what=f"species {name} made sure"))
        candidates = tuple(c for c in piece.candidates if c != name) if not sure else ()
        return piece.changed(species=name, species_sure=sure, candidates=candidates, history=history)

    @word(
        "maybe",
        WOOD,
        "maybe species, species",
        "what else it may be",
        "maybe European oak, Sweet chestnut",
        "unsure candidates species",
    )
    def _maybe(self, rest: str) -> Command:
        names = [self._named(part) for part in rest.replace("?", "").split(",") if part.strip()]
        if not names:
            raise BadEntry("maybe needs one or more species, parted by commas, such as maybe oak, sweet chestnut.")
        piece = self.piece
        first = piece.species if piece.species != "unknown" else names[0]
        others = tuple(dict.fromkeys(n for n in (*piece.candidates, *names) if n != first))
        new = piece.changed(species=first, species_sure=False, candidates=others)
        return Command(f"may be {', '.join((first, *others))}", new, label="candidates")

    @word("surely", WOOD, "surely species", "the species for certain", "surely white ash", "certain sure species")
    def _surely(self, rest: str) -> Command:
        name = self._named(rest) if rest.strip() else self.piece.species
        if name == "unknown":
            raise BadEntry("surely needs the species' name, such as surely white ash.")
        return Command(f"{name} for certain", self._renamed(name, sure=True), label="species made sure")

    @word("look", WOOD, "look words", "pores and colours as seen, to narrow it", "look ring, brown", "pores colour porous")
    def _look(self, rest: str) -> Command:
        words = tuple(dict.fromkeys(w for w in re.split(r"[,\s]+", rest.lower()) if w))
        wrong = [w for w in words if w not in POROSITIES and w not in COLOURS]
        if wrong or not words:
            raise BadEntry(
                f"look needs pores ({', '.join(POROSITIES)}) and colours ({', '.join(COLOURS)}); found {' '.join(wrong) or 'nothing'}."
            )
        return Command(f"looks {', '.join(words)}", self.piece.changed(look=words), label="look")

    # while it is sawn ---------------------------------------------------------------------------------------------
    @word(
        "lost",
        SHOP,
        "lost part",
        "a part of the plan that is sawn is lost; what is cut stays",
        "lost B",
        "broken spoilt surprise part saw",
        free=True,
    )
    def _lost(self, rest: str) -> Command:
        name = rest.strip()
        if not name:
            raise BadEntry("lost needs the part, as it is marked on the wood, such as lost B.")
        return Command(f"part {name} is lost: the rest is planned again", lost=name)

    @word("went", SHOP, "went place", "where the next cut was made instead", "went 612", "wrong cut surprise saw crosscut rip")
    def _went(self, rest: str) -> Command:
        at = self.mm(rest, "the place of the cut")
        return Command(f"the next cut went to {self.shown(at)}: the rest is planned again", went=at)

    # how wet it is ------------------------------------------------------------------------------------------------
    def _dated(self, text: str) -> tuple[str, str]:
        """``31.4 on 2026-11-03`` to ("31.4", "2026-11-03"); today where no day is said. Raises BadEntry for a day that is none."""
        amount, message, day = f" {text} ".rpartition(" on ")
        if not message:
            return text.strip(), self.today
        day = day.strip()
        try:
            real_day(day)
        except ValueError as fault:
            raise BadEntry(f"on {day}: {fault}.") from None
        if day > self.today:
            raise BadEntry(f"on {day} is still to come; needs a day that has been, such as on {self.today}.")
        return amount.strip(), day

    @word(
        "raw",
        SIZES,
        "raw percent",
        "what the meter in hand shows, corrected by its table; c the wood's °C",
        "raw 10.5 c 28",
        "moisture meter correction temperature",
        placed=True,
    )
    def _raw(self, rest: str) -> Command:
        told = self.options(rest, "cd")
        told.all_used("raw needs a reading, then c and d, such as raw 10.5 c 28.")
        options, meter = told.given, self.kit.meter
        value = self.number(told.first, "the meter's reading", 0, 200, PERCENT)
        temperature = self.number(options["c"], "temperature", -20, 60, CELSIUS) if "c" in options else 20.0
        depth = self.depth_in_the_wood(options.get("d", f"{meter.reach_mm:g} mm" if self._reaches(meter.reach_mm) else None))
        species = self.library.find(self.piece.species) if self.piece.species_sure else None
        thickness = self.piece.least_thickness_mm
        found = corrected(meter, value, species, temperature, None, thickness, self.library.find)
        y = sum(self.piece.extents[1::2]) / 2
        new = MoistureReading(
            x_mm=self.inner, y_mm=y, depth_mm=depth, moisture_pct=found.moisture_pct, on=self.today, by=self.by or meter.name, raw_pct=value,
            temperature_c=temperature, doubt_pct=found.doubt_pct,
        )  # fmt: skip
        others = tuple(
            r
            for r in self.piece.moisture
            if abs(r.x_mm - self.inner) > SAME_PLACE_MM or abs(r.depth_mm - depth) > 1 or r.on not in (None, self.today)
        )
        say = f"; {found.say}" if found.say else ""
        gloss = f"{value:g} shown is {found.moisture_pct:g} ± {found.doubt_pct:g} % at {self.told(self.inner)}{say}"
        return Command(gloss, self.piece.changed(moisture=(*others, new)), label="moisture")

    def _reaches(self, reach_mm: float) -> bool:
        """Whether a meter's reach lies within the wood."""
        thick = self.piece.least_thickness_mm
        return thick is None or reach_mm <= thick

    @word(
        "sample",
        SIZES,
        "sample wet dry",
        "a slice weighed wet and oven-dry in grams: whole, shell or core",
        "sample 52.4 48.1 core",
        "moisture oven test slice",
        placed=True,
    )
    def _sample(self, rest: str) -> Command:
        amount, day = self._dated(rest)
        words = amount.split()
        part = words[2].lower() if len(words) == 3 else "whole"
        if len(words) not in (2, 3) or part not in ("whole", "shell", "core"):
            raise BadEntry(
                "sample needs the slice's weight wet and oven-dry in grams, then whole, shell or core: sample 52.4 48.1 core."
            )
        wet, dry = (self.number(w, "the slice's weight", 0.01, 100_000, GRAMS) for w in words[:2])
        try:
            moisture = sample_pct(wet, dry)
        except ValueError as fault:
            raise BadEntry(f"{fault}.") from None
        thickness = self.piece.least_thickness_mm or 20.0
        sample = CutSample(on=day, x_mm=self.inner, wet_g=wet, dry_g=dry, part=part)  # type: ignore[arg-type]
        y = sum(self.piece.extents[1::2]) / 2
        depth = min(2.0, thickness / 2) if part == "shell" else round(thickness / 2, 2)
        reading = MoistureReading(
            x_mm=self.inner, y_mm=y, depth_mm=depth, moisture_pct=round(moisture, 1), on=day, by="cut sample"
        )
        new = self.piece.changed(samples=(*self.piece.samples, sample), moisture=(*self.piece.moisture, reading))
        of = f" of the {part}" if part != "whole" else ""
        return Command(
            f"{moisture:.1f} % by a cut sample{of}; dry samples in a laboratory oven, never in a kitchen's",
            new,
            label="cut sample",
        )

    @word(
        "weigh",
        STORY,
        "weigh weight",
        "a weighing in its series; on 2026-11-03 says when",
        "weigh 31.4",
        "series drying scale kg",
    )
    def _weigh(self, rest: str) -> Command:
        amount, day = self._dated(rest)
        last = max(self.piece.weighings, key=lambda w: w.on, default=None)
        kg = self.number(amount, "the weight", 0.001, 2000, WEIGHT, beside=last.kg if last else self.piece.mass_kg)
        return Command(f"weighs {kg:.4g} kg on {day}", self.weighed(kg, day), label="weighing")

    @word(
        "rest",
        STORY,
        "rest bow twist figure",
        "bow (and twist) today in the rest log; over says the span",
        "rest 2.0 twist .4",
        "log moving settled straight bow",
    )
    def _rest(self, rest: str) -> Command:
        amount, day = self._dated(rest)
        told = self.options(amount.removeprefix("bow").strip(), ("twist", "over"))
        told.all_used("rest needs the bow, then twist and over, such as rest 2.0 twist .4 over 1500.")
        bow = self.mm(told.first, "bow", least=-1e-9, most=300)
        twist = self.mm(told.given["twist"], "twist", least=-1e-9, most=300) if "twist" in told.given else None
        over = self.mm(told.given["over"], "span") if "over" in told.given else None
        others = [r for r in self.piece.rests if r.on != day]
        spans = {r.over_mm for r in others}
        if others and over not in spans:
            before = next(iter(spans))
            raise BadEntry(
                f"The rest log was read over {f'{self.told(before)}' if before else 'the whole board'}: only readings over the same span can be compared."
            )
        rows = tuple(sorted((*others, Rest(on=day, bow_mm=bow, twist_mm=twist, over_mm=over)), key=lambda r: r.on))
        last = rows[-1]
        twisted = {"rock_mm": last.twist_mm, "rock_span_mm": last.over_mm} if last.twist_mm is not None else {}
        flat = self.piece.flatness.changed(bow_mm=last.bow_mm, bow_span_mm=last.over_mm, **twisted)
        read = ("bow", "twist") if last.twist_mm is not None else ("bow",)
        flat_read = (*(w for w in self.piece.flat_read if w not in read), *read)
        from grainet.wood.rest import rest_of

        message = (
            f"bow {self.told(bow, 'g')}"
            + (f", twist {self.told(twist, 'g')}" if twist is not None else "")
            + (f" over {self.told(over)}" if over else "")
        )
        new = self.piece.changed(rests=rows, flatness=flat, flat_read=flat_read)
        state = rest_of(new, self.kit.rules.rest_within_mm, self.kit.rules.rest_days)
        return Command(f"{message} on {day}: {state.word}, {state.message}", new, label="rest log")

    @word(
        "settled",
        STORY,
        "settled why",
        "marked as settled by hand, with the reason; settled no takes it back",
        "settled two years in this room",
        "ready done dry acclimatised mark",
    )
    def _settled(self, rest: str) -> Command:
        """Marked by hand as settled: it counts until a newer reading says otherwise."""
        why = rest.strip()
        if why.lower() in ("no", "not"):
            return Command("no longer marked as settled", self.piece.changed(settled=None), label="settled")
        if not 3 <= len(why) <= 200:
            raise BadEntry("settled needs a reason in words, such as settled two years in this room.")
        row = Happening(on=self.today, what=f"marked as settled: {why}")
        new = self.piece.changed(settled=Happening(on=self.today, what=why), history=(*self.piece.history, row))
        return Command(f"settled by your word: {why}; a newer reading that says otherwise counts more", new, label="settled")

    @word(
        "waive",
        STORY,
        "waive why",
        "works a moving piece, with the reason",
        "waive grain is straight",
        "override moving anyway",
        free=True,
    )
    def _waive(self, rest: str) -> Command:
        why = rest.strip()
        if len(why) < 3 or len(why) > 200:
            raise BadEntry("waive needs a reason in words, such as waive straight for a year on another shelf.")
        story = (*self.piece.history, Happening(on=self.today, what=f"worked though it may move: {why}"))
        return Command(
            f"worked though it may move: {why}", self.piece.changed(rest_waived=why, history=story), label="rest waived"
        )

    @word("stack", WOOD, "stack how", "how it rests: sticks, still, bench, sealed", "stack sticks", "stickers pile drying rest")
    def _stack(self, rest: str) -> Command:
        word = {"bench": "bench", "sticks": "sticks", "stickers": "sticks", "still": "still", "sealed": "sealed"}.get(
            rest.strip().lower()
        )
        if word is None:
            raise BadEntry(f"“stack {rest}”: needs sticks, still, bench or sealed.")
        return Command(f"rests {STACKING_WORDS[word]}", self.piece.changed(stacking=word), label="stacking")

    # a knock ------------------------------------------------------------------------------------------------------
    @word(
        "tap",
        WOOD,
        "tap tone",
        "a knock: tone in Hz, d the decay to 1/e in s, or t60",
        "tap 368 d .09",
        "tone ring knock sound hz",
    )
    def _tap(self, rest: str) -> Command:
        from grainet.grade.facts import own_density_of

        told = self.options(rest, ("d", "t60"))
        told.all_used("tap needs a tone, then d (to 1/e) or t60 and its decay, such as tap 368 d .09.")
        if len(told.given) > 1:
            raise BadEntry("d and t60 both say how long it rang; needs one of them.")
        hz = self.number(told.first, "the tone", 15, 8000, TONE)
        decay = self.number(told.given["d"], "the decay", 0.001, 30, SECONDS) if "d" in told.given else None
        if "t60" in told.given:
            decay = decay_from_t60(self.number(told.given["t60"], "the decay", 0.005, 60, SECONDS))
        piece = self.piece
        x0, y0, x1, y1 = piece.extents
        if not piece.outline or not piece.all_thicknesses_mm:
            raise BadEntry("A knock says nothing without length, width and thickness: measure them first.")
        tap = Tap(
            on=self.today, hz=hz, decay_s=decay, length_mm=x1 - x0, width_mm=y1 - y0, thickness_mm=sum(piece.all_thicknesses_mm) / len(piece.all_thicknesses_mm),
            density_kg_m3=own_density_of(piece), by=self.by,
        )  # fmt: skip
        from grainet.wood.tap import facts_of

        facts = facts_of(tap)
        stiff = (
            f", {facts.stiffness_gpa:.1f} GPa, radiates {facts.radiation:.1f}" if facts.stiffness_gpa and facts.radiation else ""
        )
        stiff += f", Q {facts.quality:.0f}" if facts.quality else ""
        stiff += self._far_from_expected(tap)
        return Command(
            f"rings at {hz:g} Hz: {facts.speed_m_s:.0f} m/s{stiff}; weightless unless the house says so",
            piece.changed(taps=(*piece.taps, tap)),
            label="knock",
        )

    def _far_from_expected(self, tap: Tap) -> str:
        """What to say where a tone is not the one that the species' stiffness would give: another mode, or a support in the way."""
        species = self.library.find(self.piece.species)
        if species is None or species.moe_gpa is None:
            return ""
        expected = expected_hz(species.moe_gpa, tap.density_kg_m3 or species.density_12_kg_m3, tap.length_mm, tap.thickness_mm)
        if abs(tap.hz - expected) <= TRUST_WITHIN * expected:
            return ""
        return f"; about {expected:.0f} Hz were to be expected, held at {SUPPORTS_AT:.3f} of its length: another tone?"

    # where it is from ---------------------------------------------------------------------------------------------
    def _supply(self, field: str, verb: str, most: int) -> Callable[[str], Command]:
        def read(rest: str) -> Command:
            text = rest.strip()
            if not text or len(text) > most:
                raise BadEntry(f"{field.replace('_', ' ')} needs 1 to {most} letters; found {len(text)}.")
            return Command(f"{verb} {text}", self.piece.changed(supply=self.piece.supply.changed(**{field: text})), label=field)

        return read

    @word("price", STORY, "price figure", "what it cost", "price 42", "cost paid money value")
    def _price(self, rest: str) -> Command:
        if not rest.strip():
            raise BadEntry("price needs what it cost, such as price 42.50.")
        price = parse_money(rest)
        if not 0 <= price <= 1_000_000:
            raise BadEntry(f"“{rest.strip()}” is out of reach for a price; needs 0 to 1000000.")
        return Command(f"cost {price:.10g}", self.piece.changed(supply=self.piece.supply.changed(price=price)), label="price")

    @word(
        "paper",
        STORY,
        "paper kind number",
        "proof of origin",
        "paper invoice 2019-117",
        "invoice certificate permit trade rules",
        free=True,
    )
    def _paper(self, rest: str) -> Command:
        kind, _, number = rest.strip().partition(" ")
        if not kind:
            raise BadEntry("paper needs what it is and its number, such as paper invoice 2019-117.")
        if len(kind) > 60:
            raise BadEntry(f"“{kind[:60]}”: {len(kind)} letters are too many for what it is; at most 60.")
        supply = self.piece.supply
        new = supply.changed(papers=(*supply.papers, Paper(kind=kind, number=number.strip(), on=self.today)))
        return Command(f"{kind} {number.strip()} kept with it", self.piece.changed(supply=new), label="paper")

    @word("surprise", STORY, "surprise words", "a flaw that it hid", "surprise hidden nail", "flaw hid supplier bad", free=True)
    def _surprise(self, rest: str) -> Command:
        if not rest.strip():
            raise BadEntry("surprise needs what it hid, such as surprise hidden nail.")
        supply = self.piece.supply
        if len(rest) > 200:
            raise BadEntry(f"{len(rest)} letters are too many; at most 200.")
        new = supply.changed(surprises=(*supply.surprises, Surprise(on=self.today, what=rest.strip())))
        return Command(f"it hid {rest.strip()}", self.piece.changed(supply=new), label="surprise")

    @word("passed", STORY, "passed why", "why it was left lying", "passed too short", "passed over rejected not used", free=True)
    def _passed(self, rest: str) -> Command:
        if not rest.strip():
            raise BadEntry("passed needs why it was left lying, such as passed too short for a bass.")
        if len(rest) > 300:
            raise BadEntry(f"{len(rest)} letters are too many; at most 300.")
        row = Happening(on=self.today, what=rest.strip())
        return Command(
            f"passed over: {rest.strip()}", self.piece.changed(passed_over=(*self.piece.passed_over, row)), label="passed over"
        )

    # claims -------------------------------------------------------------------------------------------------------
    @word(
        "keep",
        SHOP,
        "keep for what",
        "claims it, or the part tried on it; free gives it back",
        "keep for Merrow neck",
        "claim reserve promise hold",
        free=True,
    )
    def _keep(self, rest: str) -> Command:
        what = re.sub(r"^for\s+", "", rest.strip())
        if not what or len(what) > 80:
            raise BadEntry("keep needs what it is kept for, such as keep for Merrow neck.")
        return Command(f"kept for {what}", claims=what)

    @word("beside", SHOP, "beside number", "what to mind where the two are glued", "beside 3", "glue joint pair next compare")
    def _beside(self, rest: str) -> Command:
        number = rest.strip().lstrip("#")
        if not number or " " in number:
            raise BadEntry("beside needs the number of another piece, such as beside 3: what to mind where the two are glued.")
        return Command(f"what to mind beside No. {number}", beside=number)

    @word(
        "mates", SHOP, "mates", "which boards go with it where none was sawn from it", "mates", "pair partner match second board"
    )
    def _mates(self, rest: str) -> Command:
        if rest.strip():
            raise BadEntry(f"mates stands alone: it ranks the boards that go with the piece in hand; found “{rest.strip()}”.")
        return Command("which boards go with it", mates=True)

    @word("free", SHOP, "free what", "gives claims back", "free Merrow", "release claim unreserve", free=True)
    def _free(self, rest: str) -> Command:
        return Command(f"given back: {rest.strip() or 'every claim on it'}", frees=rest.strip() or "*")

    @word("supplier", STORY, "supplier name", "who sold it", "supplier Nether Holm", "seller shop bought dealer", free=True)
    def _word_supplier(self, rest: str) -> Command:
        return self._supply("supplier", "bought of", 80)(rest)

    @word(
        "claim",
        STORY,
        "claim words",
        "what was said of its drying; age says of its age",
        "claim kiln dried",
        "kiln air dried age years old",
        free=True,
    )
    def _word_claim(self, rest: str) -> Command:
        return self._supply("drying_claim", "said to be", 200)(rest)

    @word("age", STORY, "age words", "what was said of its age", "age 1890", "old years date", free=True)
    def _word_age(self, rest: str) -> Command:
        return self._supply("age_claim", "said to date from", 200)(rest)
