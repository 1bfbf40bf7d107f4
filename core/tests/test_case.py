"""The traps of the case: each on both sides of its limit, and each way out applied and looked at again."""

from __future__ import annotations

import unittest
from typing import Any

from ember_core import Design
from ember_core.catalogue import Entry, built_in, read_entry
from ember_core.catalogue.search import search
from ember_core.design import Body
from ember_core.design.patches import apply_patch
from ember_core.design.problems import DocumentError
from ember_core.design.references import build_design
from ember_core.enclosure.fit import check_fit, contact_status
from ember_core.findings import find
from ember_core.findings.found import Found
from ember_core.making import MAKING, clearance_mm, making_of, own_making, solid_share, wall_left_mm
from ember_core.measures.bench import TrialBench
from ember_core.quantities import show
from ember_core.reports.fit import fit_report
from ember_core.thermal.shell import shell_centre_mm, shell_mass_g

from .gadgets import plain
from .test_solids import body, gadget

ROOM = {"outer_mm": (60, 60, 30)}


def found(design: Design, code: str) -> list[Found]:
    chosen = [f for f in find(TrialBench(design, built_in())) if f.code == code]
    for one in chosen:
        for name, (value, unit) in one.figures.items():
            assert show(value, unit) in one.sentence, (code, name, one.sentence)
    return chosen


class CaseTest(unittest.TestCase):
    def only(self, design: Design, code: str) -> Found:
        self.assertEqual(len(found(design, code)), 1)
        return found(design, code)[0]

    def way_out(self, design: Design, code: str) -> tuple[str, Design]:
        """The first way out, applied: the finding is gone, and nothing collides."""
        ways = self.only(design, code).ways
        assert ways is not None
        remedy = next(iter(ways()))
        assert remedy is not None
        after = apply_patch(design, remedy.patch)
        self.assertEqual(found(after, code), [])
        self.assertEqual([c for c in check_fit(after).contacts if contact_status(c) == "fail"], [])
        return plain(remedy.label), after


class OwnMachine(CaseTest):
    MINE = {"name": "My printer", "free_mm": 0.45, "sliding_mm": 0.3, "press_mm": 0.1, "least_mm": 0.25, "wall_mm": 1.5, "least_wall_mm": 1.0,
            "strut_mm": 2.5, "least_hole_mm": 2.0, "hole_mm": 0.35, "post_mm": 0.2, "shrinks": 0.004}  # fmt: skip

    def test_its_figures_stand_for_the_usual_ones(self) -> None:
        for wall, severity in ((1.5, ""), (1.49, "watch"), (1.0, "watch"), (0.99, "fix")):
            made = gadget(ROOM | {"wall_mm": wall, "making": self.MINE})
            self.assertEqual([f.severity for f in found(made, "thin-wall")], [severity] if severity else [])
        case = gadget(ROOM | {"making": self.MINE, "clearance_mm": None}).enclosure
        self.assertEqual(clearance_mm(case), 0.45)
        self.assertEqual(check_fit(gadget(ROOM | {"making": self.MINE, "clearance_mm": None})).clearance_mm, 0.45)
        self.assertEqual(clearance_mm(gadget(ROOM | {"making": self.MINE, "clearance_mm": 0.2}).enclosure), 0.2)

    def test_to_begin_with_nothing_changes(self) -> None:
        for process in MAKING:
            usual = gadget(ROOM | {"process": process}).enclosure
            own = usual.model_copy(update={"making": own_making(usual)})
            self.assertEqual(making_of(own), MAKING[process])
            self.assertEqual(own_making(own), own.making)

    def test_what_cannot_be_is_refused(self) -> None:
        for wrong in (
            {"least_mm": 0.5},
            {"least_wall_mm": 1.6},
            {"shrinks": 0.2},
            {"free_mm": -0.1},
            {"hole_mm": 6},
            {"name": " "},
        ):
            with self.subTest(wrong), self.assertRaises(DocumentError):
                gadget(ROOM | {"making": self.MINE | wrong})

    def test_it_is_kept_as_an_entry_of_ones_own(self) -> None:
        entry = Entry.model_validate({"key": "own-my-printer", "kind": "making", "making": self.MINE})
        self.assertEqual(read_entry(entry.model_dump_json()), entry)
        self.assertEqual((entry.name, search([entry], "printer")), ("My printer", [entry]))


class ThinWalls(CaseTest):
    def test_both_sides_of_what_is_usual_and_of_what_comes_out(self) -> None:
        for process, making in (
            (p, m) for p, m in MAKING.items() if p != "ready-made"
        ):  # which is as thin as it was bought
            for wall, severity in (
                (making.wall, ""), (making.wall - 0.01, "watch"), (making.least_wall, "watch"), (making.least_wall - 0.01, "fix"),
            ):  # fmt: skip
                design = gadget(ROOM | {"wall_mm": wall, "process": process})
                self.assertEqual([f.severity for f in found(design, "thin-wall")], [severity] if severity else [])

    def test_what_sanding_takes_counts_and_a_coat_does_not(self) -> None:
        for finish, number in (("as made", 0), ("sanded", 1), ("coated", 0)):
            design = gadget(ROOM | {"wall_mm": 1.3, "finish": finish})
            self.assertEqual(len(found(design, "thin-wall")), number)
        self.assertIn(
            "1.1 mm thick once sanded",
            plain(self.only(gadget(ROOM | {"wall_mm": 1.3, "finish": "sanded"}), "thin-wall").sentence),
        )

    def test_thicker_walls_keep_the_inside_and_every_gap(self) -> None:
        things = (body((10, 10, 10), (5, 5, 5)), body((8, 8, 8), (52, 20, 5), through="right"))
        for case in (
            {"wall_mm": 0.7},
            {"wall_mm": 2, "walls_mm": {"left": 0.5, "top": 0.6}},
            {"wall_mm": 1.3, "finish": "sanded"},
        ):
            design = gadget(ROOM | case, *things)
            before = check_fit(design)
            _, after = self.way_out(design, "thin-wall")
            fit = check_fit(after)
            for a, b in zip(before.cavity_mm, fit.cavity_mm, strict=True):
                self.assertAlmostEqual(a, b)
            for a, b in zip(before.contacts, fit.contacts, strict=True):
                inner = fit.placed[a.first].through is None and (a.second < 0 or fit.placed[a.second].through is None)
                if inner:
                    self.assertAlmostEqual(a.gap_mm, b.gap_mm)
            self.assertAlmostEqual(fit.placed[1].high[0], after.enclosure.outer_mm[0])

    def test_one_wall_is_named(self) -> None:
        design = gadget(ROOM | {"wall_mm": 2, "walls_mm": {"top": 1}})
        self.assertEqual(
            plain(self.only(design, "thin-wall").sentence),
            "The top wall is 1 mm thick; filament walls are 1.2 mm or more as a rule, and below 0.8 mm they come out with gaps or not at all.",
        )


class NoInside(CaseTest):
    def test_walls_that_take_all_the_room_are_said_and_no_share_is_told(self) -> None:
        for wall, number in ((9.9, 0), (10.0, 1), (14.0, 1)):
            design = gadget({"outer_mm": (40, 30, 20), "wall_mm": wall}, body((5, 5, 5), (10, 10, 8)))
            self.assertEqual(len(found(design, "no-inside")), number)
            filled = fit_report(TrialBench(design, built_in())).filled.value
            self.assertEqual(filled is None, number == 1)


class Corners(CaseTest):
    def test_it_is_moved_out_of_a_rounded_corner(self) -> None:
        design = gadget({"corner_mm": 8}, body((10, 10, 10), (3, 3, 5)))
        self.assertEqual(
            plain(self.only(design, "collision").sentence), "Part 0 reaches 1.1 mm into the left front corner."
        )
        label, after = self.way_out(design, "collision")
        self.assertIn("Move Part 0 by", label)
        self.assertEqual([c for c in check_fit(after).contacts if contact_status(c) != "pass"], [])

    def test_where_it_cannot_move_the_edges_are_less_round(self) -> None:
        """It fills the case: only an inner radius of half a millimetre leaves its edges room."""
        design = gadget({"corner_mm": 8}, body((35, 25, 15), (2.5, 2.5, 2.5)))
        ways = found(design, "collision")[0].ways
        assert ways is not None
        remedy = next(iter(ways()))
        assert remedy is not None
        after = apply_patch(design, remedy.patch)
        self.assertEqual([c for c in check_fit(after).contacts if contact_status(c) != "pass"], [])
        rounder = after.enclosure.model_copy(update={"corner_mm": after.enclosure.corner_mm + 0.5})
        worse = check_fit(after.model_copy(update={"enclosure": rounder}))
        self.assertTrue([c for c in worse.contacts if contact_status(c) != "pass"])
        self.assertEqual(plain(remedy.label), f"Round the upright edges by {after.enclosure.corner_mm:g} mm")


class Reaching(CaseTest):
    def test_what_shows_through_ends_at_its_wall(self) -> None:
        for short, number in ((1.0, 0), (1.01, 1)):
            design = gadget(ROOM, body((10, 10, 10), (20, 20, 30 - 2 - short - 10), through="top"))
            self.assertEqual(len(found(design, "short-of-its-wall")), number)

    def test_it_is_moved_to_the_face_of_its_side(self) -> None:
        for side, at in (("top", (20, 20, 5)), ("left", (9, 20, 5)), ("back", (20, 30, 5))):
            design = gadget(ROOM, body((10, 10, 10), at, through=side))
            label, after = self.way_out(design, "short-of-its-wall")
            self.assertEqual(label, f"Move Part 0 to the {side}")
            placed = check_fit(after).placed[0]
            self.assertEqual({"top": 30 - placed.high[2], "left": placed.low[0], "back": 60 - placed.high[1]}[side], 0)

    def test_a_plug_reaches_so_far_behind_the_face(self) -> None:
        plug = {"through": "right", "zones": [{"kind": "plug", "side": "right", "depth_mm": 25}]}
        for behind, number in ((1.5, 0), (1.51, 1)):
            design = gadget(ROOM, body((10, 10, 5), (50 - behind, 20, 5), **plug))
            self.assertEqual(len(found(design, "plug-out-of-reach")), number)
        self.way_out(gadget(ROOM, body((10, 10, 5), (48, 20, 5), **plug)), "plug-out-of-reach")
        without = gadget(ROOM, body((10, 10, 5), (48, 20, 5), through="right"))
        self.assertEqual(found(without, "plug-out-of-reach"), [])


class Free(CaseTest):
    def zone(self, kind: str = "wires", side: str = "right", depth: float = 8, **more: float) -> dict[str, Any]:
        return {"zones": [{"kind": kind, "side": side, "depth_mm": depth} | more]}

    def test_both_sides_of_a_body_in_the_way(self) -> None:
        for at, number in ((28.0, 0), (27.99, 1)):
            design = gadget(ROOM, body((10, 10, 10), (10, 10, 5), **self.zone()), body((5, 5, 5), (at, 12, 7)))
            self.assertEqual(len(found(design, "zone-blocked")), number)

    def test_who_stands_in_it_how_far_and_what_for(self) -> None:
        design = gadget(ROOM, body((10, 10, 10), (10, 10, 5), **self.zone()), body((5, 9, 9), (26, 10.5, 5.5)))
        one = self.only(design, "zone-blocked")
        self.assertEqual(
            plain(one.sentence),
            "8 mm at the right of Part 0 must stay free for the bend of its wires, and Part 1 reaches 2 mm into that along x.",
        )
        self.assertEqual(one.severity, "fix")
        label, after = self.way_out(design, "zone-blocked")
        self.assertEqual(label, "Move Part 1 by 2 mm along x")
        self.assertIsNotNone(after)

    def test_what_only_suffers_is_watched(self) -> None:
        for kind, severity in (("antenna", "watch"), ("air", "watch"), ("card", "fix"), ("removal", "fix")):
            design = gadget(ROOM, body((10, 10, 10), (10, 10, 5), **self.zone(kind)), body((5, 5, 5), (21, 12, 7)))
            self.assertEqual(self.only(design, "zone-blocked").severity, severity)

    def test_a_margin_widens_it_and_may_narrow_it(self) -> None:
        beside = body((5, 5, 5), (22, 22, 5))
        for margin, number in ((1.9, 0), (2.1, 1)):
            design = gadget(ROOM, body((10, 10, 10), (10, 10, 5), **self.zone(margin_mm=margin)), beside)
            self.assertEqual(len(found(design, "zone-blocked")), number)

    def test_a_wall_in_the_way_and_the_side_that_it_goes_through(self) -> None:
        near = {"size_mm": (10, 10, 10), "position_mm": (45, 10, 5)}
        design = gadget(ROOM, Body.model_validate(near | self.zone()))
        self.assertIn("the right wall reaches 5 mm into", plain(self.only(design, "zone-blocked").sentence))
        self.assertEqual(self.way_out(design, "zone-blocked")[0], "Move Part 0 by 5 mm along x")
        through = {"through": "right", "position_mm": (50, 10, 5)}
        self.assertEqual(
            found(gadget(ROOM, Body.model_validate(near | through | self.zone("card"))), "zone-blocked"), []
        )

    def test_of_very_many_some_are_told(self) -> None:
        """Two hundred bodies with six rooms each, all in each other's way."""
        rooms = [
            {"kind": "air", "side": side, "depth_mm": 20}
            for side in ("left", "right", "front", "back", "bottom", "top")
        ]
        things = [
            body((2, 2, 2), (5 + i % 10 * 4, 5 + i // 10 * 2.5, 5), turn_deg=(0, 0, 10), zones=rooms)
            for i in range(200)
        ]
        self.assertEqual(len(found(gadget(ROOM, *things), "zone-blocked")), 12)

    def test_a_turned_body_s_room_is_outside_where_it_goes_through(self) -> None:
        """Its own front looks to the right of the case, through which it goes; then, turned the other way, to the left, where a wall is."""
        room = self.zone("plug", side="front", depth=25, margin_mm=4)
        for angle, number in ((90, 0), (-90, 1)):
            turned = body(
                (10, 10, 6), (50, 1, 5) if angle > 0 else (1, 1, 5), turn_deg=(0, 0, angle), through="right", **room
            )
            blocked = [f for f in found(gadget(ROOM, turned), "zone-blocked") if "bottom" not in f.sentence]
            self.assertEqual(bool(blocked), bool(number))

    def test_it_turns_with_its_body(self) -> None:
        """A quarter turn about z: its right side looks to the back."""
        turned = body((10, 10, 10), (10, 10, 5), turn_deg=(0, 0, 90), **self.zone())
        for at, number in (((10, 22, 5), 1), ((22, 10, 5), 0)):
            self.assertEqual(len(found(gadget(ROOM, turned, body((5, 5, 5), at)), "zone-blocked")), number)

    def test_what_is_on_the_same_board_is_no_stranger(self) -> None:
        board, riser = body((30, 30, 2), (5, 5, 3)), {"on": "p0"}
        design = gadget(ROOM, board, body((5, 5, 5), (10, 10, 5), **riser), body((5, 5, 5), (15, 10, 5), **riser))
        self.assertEqual([c for c in check_fit(design).contacts if c.second >= 0], [])
        loose = gadget(ROOM, board, body((5, 5, 5), (10, 10, 5)))
        self.assertEqual([contact_status(c) for c in check_fit(loose).contacts if c.second >= 0], ["watch"])

    def test_what_sits_on_a_body_moves_with_it(self) -> None:
        board = body((20, 20, 2), (10, 10, 3), through="left")
        design = gadget(ROOM, board, body((5, 5, 5), (15, 15, 5), on="p0"))
        _, after = self.way_out(design, "short-of-its-wall")
        rider = after.parts[1].body
        assert rider is not None
        self.assertEqual(rider.position_mm, (5, 15, 5))

    def test_a_board_that_is_not_there_is_refused_at_its_place(self) -> None:
        document = gadget(ROOM, body((5, 5, 5), (10, 10, 5))).model_dump(mode="json")
        for on, said in (("nothing", "there is no such part"), ("p0", "cannot sit on itself")):
            document["parts"][0]["body"]["on"] = on
            with self.assertRaises(DocumentError) as caught:
                build_design(document)
            [problem] = caught.exception.problems
            self.assertEqual(problem.path, "/parts/0/body/on")
            self.assertIn(said, problem.message)


class Balance(unittest.TestCase):
    def test_by_hand(self) -> None:
        """Two bodies of 10 g in a case that weighs nothing to speak of: at the middle of both."""
        design = gadget(ROOM | {"wall_mm": 0.01}, body((10, 10, 10), (0, 0, 0)), body((10, 10, 10), (50, 0, 0)))
        heavy = [p.model_copy(update={"mass_g": 1e4}) for p in design.parts]
        fit = fit_report(TrialBench(design.model_copy(update={"parts": heavy}), built_in()))
        assert fit.balance is not None and fit.balance_mm is not None and fit.balance.value is not None
        for a, b in zip(fit.balance_mm, (30, 5, 5), strict=True):
            self.assertAlmostEqual(a, b, places=2)
        self.assertAlmostEqual(fit.balance.value, (25**2 + 10**2) ** 0.5, places=2)

    def test_a_case_with_a_thick_bottom_has_its_own_centre_lower(self) -> None:
        """10 x 10 x 10 without sides to speak of, the bottom 4 mm and the top 2 mm: 4 x 2 + 2 x 9 over 6."""
        case = gadget({"outer_mm": (1000, 1000, 10), "wall_mm": 0.01, "walls_mm": {"bottom": 4, "top": 2}}).enclosure
        self.assertAlmostEqual(float(shell_centre_mm(case)[2]), (4 * 2 + 2 * 9) / 6, places=3)

    def test_nothing_without_a_mass_and_a_place(self) -> None:
        self.assertIsNone(fit_report(TrialBench(gadget(ROOM, body((5, 5, 5), (9, 9, 9))), built_in())).balance)


class Radio(CaseTest):
    def radio(self, plastic: str, kind: str = "radio", **more: Any) -> Design:
        design = gadget(ROOM | {"plastic": plastic}, body((10, 10, 3), (20, 20, 5), **more))
        return design.model_copy(update={"parts": [design.parts[0].model_copy(update={"kind": kind})]})

    def test_metal_keeps_a_radio_in_and_plastic_and_wood_do_not(self) -> None:
        for plastic, number in (("aluminium", 1), ("steel", 1), ("PETG", 0), ("wood", 0)):
            self.assertEqual(len(found(self.radio(plastic), "radio-shielded")), number)
        self.way_out(self.radio("steel"), "radio-shielded")

    def test_an_antenna_counts_and_one_outside_does_not(self) -> None:
        antenna = {"zones": [{"kind": "antenna", "side": "top", "depth_mm": 5}]}
        self.assertEqual(len(found(self.radio("steel", "controller", **antenna), "radio-shielded")), 1)
        self.assertEqual(found(self.radio("steel", "controller"), "radio-shielded"), [])
        outside = {"through": "left"} | antenna
        self.assertEqual(found(self.radio("steel", "radio", **outside), "radio-shielded"), [])


class Sealed(CaseTest):
    def sealed(self, cord: float, groove: float) -> Design:
        return gadget(ROOM | {"seal": {"cord_mm": cord, "groove_mm": groove}})

    def test_both_sides_of_what_seals(self) -> None:
        for groove, severity in ((1.7, ""), (1.71, "fix"), (1.4, ""), (1.39, "watch"), (2.0, "fix"), (3.0, "fix")):
            found_ = found(self.sealed(2.0, groove), "seal-squeeze")
            self.assertEqual([f.severity for f in found_], [severity] if severity else [])

    def test_how_much_is_said_and_the_groove_that_seals(self) -> None:
        design = self.sealed(3.0, 2.7)
        self.assertIn(
            "is pressed together by 10 %; 15 % to 30 % seal", plain(self.only(design, "seal-squeeze").sentence)
        )
        self.assertIn("not pressed at all", self.only(self.sealed(3, 3), "seal-squeeze").sentence)
        label, after = self.way_out(design, "seal-squeeze")
        assert after.enclosure.seal is not None
        self.assertEqual((label, after.enclosure.seal.groove_mm), ("A groove of 2.3 mm", 2.34))

    def test_a_sealed_gadget_wants_a_seal(self) -> None:
        design = gadget(ROOM)
        for exposure, number in (("dry", 0), ("splashed", 0), ("sealed", 1)):
            brief = design.brief.model_copy(update={"exposure": exposure})
            self.assertEqual(len(found(design.model_copy(update={"brief": brief}), "no-seal")), number)
        sealed = design.model_copy(update={"brief": design.brief.model_copy(update={"exposure": "sealed"})})
        _, after = self.way_out(sealed, "no-seal")
        self.assertEqual(found(after, "seal-squeeze"), [])


class Making(unittest.TestCase):
    def test_a_coat_wants_more_clearance_and_one_s_own_figure_counts_as_it_is(self) -> None:
        case = gadget({"clearance_mm": None, "finish": "coated"}).enclosure
        self.assertAlmostEqual(clearance_mm(case), 0.4)
        self.assertEqual(clearance_mm(case.model_copy(update={"clearance_mm": 0.25})), 0.25)
        for own, number in ((0.3, 0), (0.29, 1)):
            design = gadget({"clearance_mm": own, "finish": "coated"})
            self.assertEqual(len(found(design, "clearance")), number)

    def test_infill_between_two_skins(self) -> None:
        """A wall of 3 mm: 0.8 mm solid on each side, a fifth of the 1.4 mm between them."""
        case = gadget({"wall_mm": 3, "infill": 0.2}).enclosure
        self.assertAlmostEqual(solid_share(3, case), (1.6 + 0.2 * 1.4) / 3)
        whole = case.model_copy(update={"infill": 1.0})
        self.assertAlmostEqual(shell_mass_g(case) / shell_mass_g(whole), (1.6 + 0.28) / 3)
        self.assertEqual(solid_share(1.6, case), 1)
        self.assertEqual(solid_share(3, case.model_copy(update={"process": "resin"})), 1)

    def test_a_finish_works_on_both_faces(self) -> None:
        for finish, left in (("as made", 2.0), ("sanded", 1.8), ("smoothed", 1.9), ("coated", 2.0)):
            self.assertAlmostEqual(wall_left_mm(2.0, gadget({"finish": finish}).enclosure), left)


if __name__ == "__main__":
    unittest.main()
