"""Named machines: what each refuses, which one does a work, and the contract's kerfs and limits as their view."""

import json
import unittest

from grainet.kit.cut_kit import CutKit, Kerfs, Machines
from grainet.kit.machine import Machine, MachineKind, Stuff, Work, machine_for, machines_of, read_work, refusals
from grainet.kit.shop_profile import GUESSED_CUTS, SHIPPED_MACHINES, ShopProfile
from grainet.store.old_profiles import profile_of_form_6
from grainet.wood.value import BadEntry

LIMITS = Machines(thicknesser_width_mm=330, thicknesser_least_mm=5, planer_width_mm=260, least_length_mm=300, resaw_height_mm=200)
MORE = {"thicknesser": {"highest_mm": 150.0}, "planer": {"bench_mm": 800.0}, "router": {"deepest_mm": 40.0}}
SHOP = tuple(m.changed(**MORE.get(m.id, {})) for m in machines_of(CutKit(machines=LIMITS)))


def band_saw(name, does=(Work.RESAW,), **figures):
    return Machine(id=name, name=name, kind=MachineKind.BAND_SAW, does=does, **figures)


class Refusals(unittest.TestCase):
    def test_a_350_panel_and_a_4_mm_leaf_are_refused(self):
        for work, sizes, wanted in (
            (Work.THICKNESS, (900, 350, 20), ["350 wide, the thicknesser takes at most 330"]),
            (Work.THICKNESS, (900, 200, 4), ["4 thick, the thicknesser takes at least 5"]),
            (Work.THICKNESS, (900, 200, 20), []),
            (Work.RESAW, (900, 231, 20), ["231 high, the band saw, wide blade takes at most 200"]),
            (Work.ROUT, (900, 50, 45), ["45 deep, the router takes at most 40"]),
        ):
            self.assertEqual(refusals(SHOP, work, Stuff(*sizes)), wanted)
        self.assertEqual(len(refusals(SHOP, Work.THICKNESS, Stuff(200, 350, 160))), 3)
        self.assertEqual(len(refusals(SHOP, Work.FACE, Stuff(1700, 300, 20))), 2)

    def test_limits_are_told_as_the_house_reads_them_and_names_are_left_alone(self):
        shop = [Machine(id="p", name="Planer 2", kind=MachineKind.PLANER, does=(Work.FACE,), widest_mm=260)]
        self.assertEqual(refusals(shop, Work.FACE, Stuff(800, 300, 20)), ["300 wide, the planer 2 takes at most 260"])
        told = refusals(shop, Work.FACE, Stuff(800, 300, 20), "fraction")
        self.assertEqual(told, ["11 13/16 wide, the planer 2 takes at most 10 1/4"])

    def test_what_is_not_known_refuses_nothing(self):
        unknown = machines_of(CutKit())
        for work in Work:
            self.assertEqual(refusals(unknown, work, Stuff(10, 5000, 900)), [])
        self.assertEqual(refusals((), Work.RESAW, Stuff(10, 5000, 900)), [])

    def test_one_machine_that_takes_it_is_enough(self):
        small, tall = band_saw("small", highest_mm=150), band_saw("tall", highest_mm=400)
        self.assertEqual(refusals((small, tall), Work.RESAW, Stuff(900, 231, 40)), [])
        self.assertEqual(len(refusals((small, tall), Work.RESAW, Stuff(900, 431, 40))), 2)

    def test_saw_error_of_three_degrees_on_45_adds_2_4_to_the_margin(self):
        leaning = tuple(m.changed(lean_deg=3) if m.id == "curves" else m for m in SHIPPED_MACHINES)
        self.assertAlmostEqual(ShopProfile(machines=leaning).cuts_for(45).margin_mm, 2.36, delta=0.05)
        self.assertEqual(ShopProfile().cuts_for(45), ShopProfile().cuts)


class TheirView(unittest.TestCase):
    def test_the_contract_comes_back_whole(self):
        for kit in (CutKit(), GUESSED_CUTS, CutKit(kerf_mm=Kerfs(rip=2.2), machines=LIMITS, cutting="straight", margin_mm=1.5)):
            self.assertEqual(ShopProfile.of_cuts(kit).cuts, kit)

    def test_the_first_that_is_listed_does_the_work(self):
        veneer = Machine(id="v", name="Veneer saw", kind="veneer saw", does=("rip",), kerf_mm=0.6)
        self.assertEqual(ShopProfile(machines=(*SHIPPED_MACHINES, veneer)).cuts.kerf_mm.rip, GUESSED_CUTS.kerf_mm.rip)
        self.assertEqual(ShopProfile(machines=(veneer, *SHIPPED_MACHINES)).cuts.kerf_mm.rip, 0.6)
        self.assertIsNone(machine_for((veneer,), Work.RESAW))

    def test_a_profile_of_form_5_is_brought_along(self):
        old = {
            "cuts": GUESSED_CUTS.model_dump(mode="json"), "guessed": ["resaw kerf", "planer width"], "name": "Old",
            "limits": {"router_reach_mm": 45.0, "saw_lean_deg": 2.0, "saw_wobble_mm": 0.5, "rule_mm": 900.0, "planer_bench_mm": None},
        }  # fmt: skip
        new = profile_of_form_6(old)
        kit = ShopProfile.model_validate_json(json.dumps(new))
        by = {m.id: m for m in kit.machines}
        self.assertEqual((kit.cuts, kit.name, kit.rule_mm), (GUESSED_CUTS, "Old", 900.0))
        self.assertEqual((by["router"].deepest_mm, by["curves"].lean_deg, by["curves"].wander_mm), (45.0, 2.0, 0.5))
        guessed = {m.id: m.guessed for m in kit.machines if m.guessed}
        self.assertEqual(guessed, {"resaw": frozenset({"kerf_mm"}), "planer": frozenset({"widest_mm"})})
        self.assertEqual(profile_of_form_6(new), new)

    def test_a_profile_is_kept_and_read_whole(self):
        kit = ShopProfile()
        self.assertEqual(ShopProfile.model_validate_json(kit.model_dump_json()), kit)

    def test_work_is_read_from_words(self):
        self.assertEqual(read_work(" rip, crosscut,rip "), (Work.RIP, Work.CROSSCUT))
        with self.assertRaisesRegex(BadEntry, "“turn” is no work of a machine; needs some of crosscut"):
            read_work("turn")


if __name__ == "__main__":
    unittest.main()
