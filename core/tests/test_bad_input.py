"""Documents, parts lists and cells that are wrong: each a clear problem at its place."""

from __future__ import annotations

import json
import unittest
from typing import Any

from ember_core import DocumentError, build_design, read_design
from ember_core.design import Part, Phase, Use
from ember_core.imports.grid_text import EntryError, read_cell, write_cell
from ember_core.imports.new_gadget import new_gadget
from ember_core.imports.parts_list import read_parts_list
from ember_core.quantities import QuantityError

from .gadgets import LINEAR, document, part, state, use
from .test_stages import BOOST


class Documents(unittest.TestCase):
    def problem(self, raw: Any) -> dict[str, str]:
        with self.assertRaises(DocumentError) as caught:
            read_design(raw) if isinstance(raw, str | bytes) else build_design(raw)
        return {p.path: p.message for p in caught.exception.problems}

    def test_unknown_format_version(self) -> None:
        self.assertIn("'frugal-ember/9'", self.problem(document(format="frugal-ember/9"))["/format"])
        self.assertIn("no format version", self.problem({})["/format"])

    def test_not_json_nan_and_hostile_text(self) -> None:
        self.assertIn("line 1", self.problem("{nonsense")[""])
        text = json.dumps(document()).replace("0.1", "NaN", 1)
        self.assertIn("NaN is not a number", self.problem(text)[""])
        self.assertIn("too large", self.problem(json.dumps(document()).replace("1800", "1e400"))[""])
        self.assertIn("nested too deeply", self.problem("[" * 100 + "]" * 100)[""])
        self.assertIn("nested too deeply", self.problem("[" * 200_000)[""])
        self.assertIn("UTF-8", self.problem(b"\xff\xfe{}")[""])
        self.assertIn("an object was expected", self.problem("[]")[""])

    def test_a_hundred_megabytes_are_refused_before_they_are_read(self) -> None:
        self.assertIn("100 MB", self.problem(b" " * 100_000_000)[""])

    def test_negative_size_and_wrong_type_name_their_field(self) -> None:
        found = self.problem(document(enclosure={"outer_mm": [60, -1, 24]}))
        self.assertEqual(found, {"/enclosure/outer_mm/1": "-1 must be above 0"})
        found = self.problem(document(enclosure={"outer_mm": [60, "wide", 24], "flavour": "red"}))
        self.assertIn("'wide'", found["/enclosure/outer_mm/1"])
        self.assertIn("not a field", found["/enclosure/flavour"])

    def test_places_inside_unions_have_plain_paths(self) -> None:
        chip = part("chip", state("sleep", -1, 0, 0), state("active", 0.1))
        self.assertIn("/parts/0/states/0/draw/current_a/typical", self.problem(document(parts=[chip])))

    def test_a_mode_without_parts(self) -> None:
        modes = document()["modes"] + [{"id": "idle", "name": "Idle", "uses": []}]
        self.assertIn("'Idle' has no parts", self.problem(document(modes=modes))["/modes/2/uses"])

    def supply_problem(self, *stages: Any, sources: Any = (), **mode: Any) -> dict[str, str]:
        supply = {
            "sources": list(sources),
            "stages": list(stages),
            "rails": [{"id": "main", "name": "Main", "feed": stages[0]["id"]}],
        }
        modes = document()["modes"]
        modes[0] |= mode
        return self.problem(document(supply=supply, modes=modes))

    def test_efficiencies_and_points_that_cannot_be(self) -> None:
        def points(*rows: tuple[float, float, float], **more: Any) -> dict[str, str]:
            table = [{"current_a": a, "efficiency": e, "input_v": v} for a, e, v in rows]
            return self.supply_problem(BOOST | {"points": table} | more)

        where = "/supply/stages/0/points"
        self.assertEqual(points((0.1, 0, 3.7)), {f"{where}/0/efficiency": "0 must be above 0"})
        self.assertEqual(points((0.1, -0.5, 3.7)), {f"{where}/0/efficiency": "-0.5 must be above 0"})
        self.assertEqual(points((0.1, 1.2, 3.7)), {f"{where}/0/efficiency": "1.2 must be below 1"})
        self.assertIn("has 2 points", points((0.1, 0.9, 3.7), (0.1, 0.8, 3.7))[where])
        self.assertIn("go upwards", points((0.1, 0.9, 3.7), (0.01, 0.8, 3.7))[f"{where}/1/current_a"])
        self.assertIn("above its limit of 1 A", points((1.5, 0.9, 3.7))[f"{where}/0/current_a"])
        self.assertIn("does not work at 6 V", points((0.1, 0.9, 6.0))[f"{where}/0/input_v"])
        self.assertIn("out of 3 V", points((0.1, 0.9, 3.0), topology="buck", output_v=3.3)[f"{where}/0/input_v"])

    def test_limits_that_contradict_each_other(self) -> None:
        self.assertIn("starts below", str(self.supply_problem(BOOST | {"start_up_v": 1.0})))
        self.assertIn("not above the input", str(self.supply_problem(BOOST | {"input_max_v": 1.5})))
        self.assertIn("cannot give more", str(self.supply_problem(BOOST | {"topology": "buck", "input_max_v": 4.0})))
        self.assertIn("above the most", str(self.supply_problem(LINEAR | {"input_max_v": 3.0})))

    def test_three_thousand_amperes(self) -> None:
        self.assertIn("100", self.supply_problem(LINEAR | {"limit_a": 3000})["/supply/stages/0/limit_a"])

    def test_a_converter_that_feeds_itself_also_through_its_second_input(self) -> None:
        loop = [BOOST | {"input": "reg"}, LINEAR | {"input": "boost"}]
        self.assertIn("feeds itself: Boost → Regulator → Boost", self.supply_problem(*loop)["/supply/stages/0/input"])
        either = {"type": "power-or", "id": "e", "name": "E", "input": "battery", "other": "reg", "limit_a": 1}
        found = self.supply_problem(either, LINEAR | {"input": "e"})
        self.assertIn("feeds itself", found["/supply/stages/0/other"])

    def test_a_stage_that_is_its_own_input_and_several_loops(self) -> None:
        found = self.supply_problem(BOOST | {"input": "boost"})
        self.assertIn("feeds itself: Boost → Boost", found["/supply/stages/0/input"])
        ring = [LINEAR | {"id": f"r{i}", "name": f"R{i}", "input": f"r{i ^ 1}"} for i in range(4)]
        found = self.supply_problem(*ring)
        self.assertIn("R0 → R1 → R0", found["/supply/stages/0/input"])
        self.assertIn("R2 → R3 → R2", found["/supply/stages/2/input"])

    def test_many_ways_through_the_supply_are_no_more_work_than_its_stages(self) -> None:
        """Sixty-four stages in pairs, each fed by both before it: 2^32 ways, and a loop at the very end."""
        either = {"type": "power-or", "limit_a": 1}
        pairs = [
            either | {"id": f"{k}{i}", "name": f"{k}{i}", "input": f"a{i - 1}" if i else "battery", "other": f"b{i - 1}" if i else "battery"}
            for i in range(32)
            for k in "ab"
        ]  # fmt: skip
        rails = [{"id": "main", "name": "Main", "feed": "a31"}]
        build_design(document(supply={"stages": pairs, "rails": rails}))
        pairs[0]["input"] = "a31"
        self.assertIn("feeds itself", str(self.supply_problem(*pairs)))

    def test_what_modes_switch_and_plug_has_to_exist(self) -> None:
        self.assertIn("nothing is 'gone'", self.supply_problem(LINEAR, off_stages=["gone"])["/modes/0/off_stages/0"])
        fixed = self.supply_problem(LINEAR | {"enable": False}, off_stages=["reg"])
        self.assertIn("no enable input", fixed["/modes/0/off_stages/0"])
        self.assertIn("no source is 'usb'", self.supply_problem(LINEAR, plugged=["usb"])["/modes/0/plugged/0"])
        double = self.supply_problem(LINEAR, sources=[{"id": "reg", "name": "USB"}])
        self.assertIn("something else", double["/supply/sources/0/id"])

    def test_states_that_do_not_exist_any_more(self) -> None:
        chip = part("chip", state("sleep", 1e-3), state("active", 0.1), wakes=[{"state": "gone", "by": ["pin"]}],
                    bursts=[{"name": "boot", "phases": [{"state": "old", "seconds": 1}]}],
                    peak={"current_a": 1, "seconds": 1, "state": "gone"},
                    divider={"upper_ohm": 1, "lower_ohm": 1, "reader": "nobody"})  # fmt: skip
        found = self.problem(document(parts=[chip]))
        self.assertEqual(set(found), {"/parts/0/wakes/0/state", "/parts/0/bursts/0/phases/0/state", "/parts/0/peak/state", "/parts/0/divider/reader"})  # fmt: skip

    def test_a_rail_without_a_source(self) -> None:
        supply = {"stages": [LINEAR], "rails": [{"id": "main", "name": "Main", "feed": "gone"}]}
        self.assertIn("no source", self.problem(document(supply=supply))["/supply/rails/0/feed"])

    def test_a_cycle_in_the_supply(self) -> None:
        stages = [LINEAR | {"input": "two"}, LINEAR | {"id": "two", "name": "Two", "input": "reg"}]
        found = self.problem(document(supply={"stages": stages, "rails": document()["supply"]["rails"]}))
        self.assertIn("Regulator → Two → Regulator", found["/supply/stages/0/input"])

    def test_dangling_and_doubled_references(self) -> None:
        modes = [{"id": "asleep", "name": "A", "uses": [use("chip", "nap"), use("ghost", "x"), use("chip", "sleep")]}]
        found = self.problem(document(modes=modes, day={"rest": "nowhere"}))
        self.assertIn("no state 'nap'", found["/modes/0/uses/0/state"])
        self.assertIn("nothing is 'ghost'", found["/modes/0/uses/1/part"])
        self.assertIn("used twice", found["/modes/0/uses/2/part"])
        self.assertIn("/day/rest", found)

    def test_events_have_ids_and_no_two_the_same(self) -> None:
        session = {"name": "In use", "mode": "asleep", "seconds": 60, "per_day": 1}
        given = [session, session | {"id": "in-use"}, session | {"name": "\u4f7f\u3046"}]
        made = build_design(document(day={"rest": "asleep", "sessions": given})).day.sessions
        self.assertEqual([s.id for s in made], ["in-use-2", "in-use", "event"])
        twice = [session | {"id": "one"}] * 2
        found = self.problem(document(day={"rest": "asleep", "sessions": twice}))
        self.assertIn("used twice", found["/day/sessions/1/id"])
        for odd in (None, 3, "In use", {"name": 5}, []):
            self.assertTrue(self.problem(document(day={"rest": "asleep", "wakes": [odd]})), odd)

    def test_impossible_times(self) -> None:
        long_day = {"rest": "asleep", "sessions": [{"name": "S", "mode": "awake", "seconds": 7200, "per_day": 13}]}
        self.assertIn("above 24 h", self.problem(document(day=long_day))["/day/sessions/0"])
        wake = {"rest": "asleep", "wakes": [{"name": "W", "mode": "awake", "every_s": 5, "awake_s": 6}]}
        self.assertIn("longer than", self.problem(document(day=wake))["/day/wakes/0/awake_s"])
        burst = use("chip", "active", burst=[{"state": "active", "seconds": 30}], period_s=20)
        modes = [{"id": "asleep", "name": "A", "uses": [burst]}]
        self.assertIn(
            "longer than its period", self.problem(document(modes=modes, day={"rest": "asleep"}))["/modes/0/uses/0"]
        )

    def test_impossible_efficiency_and_current(self) -> None:
        def with_point(**more: float) -> dict[str, Any]:
            point = {"current_a": 0.1, "efficiency": 0.9, "input_v": 3.7} | more
            stage = {
                "type": "switching", "id": "reg", "name": "S", "input": "battery", "topology": "buck",
                "output_v": 3.3, "points": [point], "quiescent_a": 0, "limit_a": 1, "undervoltage_lockout_v": 2,
            }  # fmt: skip
            return document(supply={"stages": [stage], "rails": document()["supply"]["rails"]})

        place = "/supply/stages/0/points/0/efficiency"
        self.assertIn("below 1", self.problem(with_point(efficiency=1.2))[place])
        self.assertIn("above 0", self.problem(with_point(efficiency=0))[place])
        chip = part("chip", state("sleep", 0.001), state("active", 3000))
        self.assertIn("100 or less", self.problem(document(parts=[chip]))["/parts/0/states/1/draw/current_a/typical"])

    def test_least_above_typical(self) -> None:
        chip = part("chip", state("sleep", 0.001, min=0.002), state("active", 0.1))
        found = self.problem(document(parts=[chip]))
        self.assertIn("least figure is above", found["/parts/0/states/0/draw/current_a"])

    def test_round_trip_loses_nothing(self) -> None:
        design = build_design(document())
        self.assertEqual(read_design(design.model_dump_json()), design)
        self.assertEqual(read_design(design.model_dump_json()).model_dump_json(), design.model_dump_json())


GOOD = b"""name;rail;kind;quantity;sleep [uA];active [mA];size;mass [g];cost;max supply
Brain;Main;controller;1;12;46;18 x 25,5 x 3,2 mm;3;3,40;3.6
Ear;Main;sensor;2;0.5 uA;650 uA;6x5x1.5;0,3;2;
Bell;Loud;sound;1;0;120;;;;
"""


class PartsLists(unittest.TestCase):
    def problem(self, raw: bytes) -> dict[str, str]:
        with self.assertRaises(DocumentError) as caught:
            read_parts_list(raw)
        return {p.path: p.message for p in caught.exception.problems}

    def test_reads_any_order_semicolons_decimal_commas_and_units_anywhere(self) -> None:
        listed = read_parts_list(GOOD)
        brain, ear, bell = listed.parts
        self.assertEqual(listed.rails, ["Main", "Loud"])
        self.assertEqual([s.draw.current_a.typical for s in brain.states], [12e-6, 0.046])  # type: ignore[union-attr]
        self.assertAlmostEqual(ear.states[1].draw.current_a.typical, 650e-6)  # type: ignore[union-attr]
        assert brain.body
        self.assertEqual(brain.body.size_mm, (18, 25.5, 3.2))
        self.assertEqual((brain.cost, brain.mass_g, brain.supply_absolute_max_v, ear.quantity), (3.4, 3, 3.6, 2))
        self.assertEqual((bell.rail, bell.kind), ("loud", "sound"))

    def test_becomes_a_gadget_with_a_runtime(self) -> None:
        from ember_core import evaluate

        gadget = build_design(new_gadget("Bell", read_parts_list(GOOD)).model_dump(mode="json"))
        self.assertEqual([u.state for u in gadget.modes[0].uses], ["sleep", "sleep", "sleep"])
        self.assertEqual([u.state for u in gadget.modes[1].uses], ["active", "active", "active"])
        self.assertGreater(evaluate(gadget).runtime.total.value or 0, 1)

    def test_commas_and_quotes(self) -> None:
        listed = read_parts_list(b'active,name\n"1,5 mA","Lamp, green"\n')
        self.assertEqual(listed.parts[0].name, "Lamp, green")

    def test_missing_columns(self) -> None:
        self.assertIn("no column 'name'", self.problem(b"part no,active [mA]\nx,1\n")["row 1"])
        self.assertIn("no column with a current", self.problem(b"name,cost\nx,1\n")["row 1"])

    def test_letters_in_a_number_and_a_charge_for_a_current(self) -> None:
        found = self.problem(b"name,sleep [uA],active\nChip,12x,45 mAh\nBell,1,2 mA\n")
        self.assertIn("'12x'", found["row 2, sleep [uA]"])
        self.assertIn("is a charge", found["row 2, active"])

    def test_a_bare_number_without_a_unit_is_asked_about(self) -> None:
        self.assertIn("needs a unit", self.problem(b"name,active\nChip,45\n")["row 2, active"])

    def test_too_many_rows_wrong_encoding_not_text(self) -> None:
        self.assertIn("10000 rows", self.problem(b"name,active [mA]\n" + b"Chip,1\n" * 10_000)[""])
        self.assertIn("UTF-8", self.problem("name,active [µA]\nFühler,1\n".encode("latin-1"))[""])
        self.assertIn("zero bytes", self.problem(b"name,active [mA]\n\0\n")[""])
        self.assertIn("is empty", self.problem(b"\n\n")[""])
        self.assertIn("MB", self.problem(b"x" * 1_100_000)[""])

    def test_rows_that_do_not_fit_the_heading(self) -> None:
        self.assertIn("quote decimal commas", self.problem(b"name,active [mA]\nChip,1,5\n")["row 2"])
        self.assertIn("has no name", self.problem(b"name,active [mA]\n,5\n")["row 2"])
        self.assertIn("twice", self.problem(b"name,name,active [mA]\nA,B,5\n")["row 1"])

    def test_wrong_quantity_kind_and_size(self) -> None:
        found = self.problem(b"name,active [mA],quantity,kind,size\nChip,1,half,gizmo,10 x 5\n")
        self.assertEqual(set(found), {"row 2, quantity", "row 2, kind", "row 2, size"})


class Cells(unittest.TestCase):
    PART = Part.model_validate(part("chip", state("sleep", 0), state("active", 0.1), state("active radio", 0.2)))

    def test_understands_states_shares_and_currents(self) -> None:
        self.assertEqual(read_cell("sl", self.PART).state, "sleep")
        self.assertEqual(read_cell("Active", self.PART).state, "active")
        entry = read_cell("active radio 30%", self.PART)
        self.assertEqual((entry.state, entry.duty), ("active radio", 0.3))
        self.assertAlmostEqual(read_cell("12 mA", self.PART).current_a or 0, 0.012)
        self.assertAlmostEqual(read_cell("active 48mA", self.PART).current_a or 0, 0.048)
        for empty in ("", "-", " 0 ", "off"):
            self.assertTrue(read_cell(empty, self.PART).clear)

    def test_ranges_and_which_modes_are_meant(self) -> None:
        entry = read_cell("active 100-140 mA", self.PART)
        assert entry.draw and entry.draw.behaviour == "current"
        span = entry.draw.current_a
        self.assertEqual((entry.state, span.typical, span.min, span.max), ("active", 0.12, 0.1, 0.14))
        entry = read_cell("120 mA ± 20 %", self.PART)
        self.assertAlmostEqual(entry.current_a or 0, 0.12)
        self.assertEqual(entry.duty, None)
        self.assertEqual(read_cell("12 mA here", self.PART).scope, "here")

    def test_a_state_that_is_not_there_is_made_with_its_current_unless_it_is_a_slip(self) -> None:
        entry = read_cell("shout 120 mA 20 %", self.PART)
        self.assertEqual((entry.adds, entry.state, entry.current_a, entry.duty), (True, "shout", 0.12, 0.2))
        known = read_cell("sleep 120 µA 20 %", self.PART)
        self.assertEqual((known.adds, known.state, known.duty), (False, "sleep", 0.2))
        plain = read_cell("12 mA 20 %", self.PART)
        self.assertEqual((plain.adds, plain.state, plain.current_a, plain.duty), (False, None, 0.012, 0.2))
        for typed in ("shout", "shout 20 %", "slep 12 mA", "2 mA 3 mA", "a 12 mA 20"):
            with self.assertRaises(EntryError, msg=typed):
                read_cell(typed, self.PART)
        self.assertEqual(read_cell("active 12 mA everywhere", self.PART).scope, "everywhere")
        self.assertEqual(read_cell("12 mA", self.PART).scope, None)
        with self.assertRaisesRegex(EntryError, "goes with a current"):
            read_cell("active here", self.PART)

    def test_a_typed_current_keeps_the_kind_of_load(self) -> None:
        def typed(draw: dict[str, Any], text: str = "10 mA", volts: float | None = 5.0) -> dict[str, Any]:
            load = Part.model_validate({"id": "x", "name": "Load", "rail": "main", "states": [{"name": "on", "draw": draw, "provenance": "guess"}]})  # fmt: skip
            entry = read_cell(text, load, "on", volts)
            assert entry.draw
            return entry.draw.model_dump(mode="json")

        power = {"behaviour": "power", "power_w": {"typical": 1}}
        held = {"behaviour": "resistor", "resistance_ohm": {"typical": 100}}
        lamp = {"behaviour": "led", "forward_v": 2, "resistance_ohm": {"typical": 100}}
        self.assertEqual(typed(power)["power_w"]["typical"], 0.05)
        self.assertEqual(typed(held)["resistance_ohm"]["typical"], 500)
        self.assertEqual(typed(lamp), {"behaviour": "led", "forward_v": 2, "resistance_ohm": {"typical": 300, "min": None, "max": None}})  # fmt: skip
        spread = typed(held, "10-20 mA")["resistance_ohm"]
        self.assertEqual((spread["min"], spread["max"]), (250, 500))
        for draw, volts, words in ((lamp, 1.9, "does not light"), (lamp, None, "resistor in series"), (power, None, "has no current of its own but a power")):  # fmt: skip
            with self.subTest(words), self.assertRaisesRegex(EntryError, words):
                typed(draw, volts=volts)
        with self.assertRaisesRegex(EntryError, "resistance"):
            typed(held, "0 mA")

    def test_a_doubtful_number_comes_back_with_choices(self) -> None:
        with self.assertRaises(EntryError) as caught:
            read_cell("active 12", self.PART)
        self.assertIn("active 12 mA", caught.exception.choices)

    def test_refuses_unknown_states_and_charges(self) -> None:
        with self.assertRaises(EntryError):
            read_cell("dreaming", self.PART)
        with self.assertRaises(QuantityError):
            read_cell("45 mAh", self.PART)

    def test_bursts_and_what_happens_in_between(self) -> None:
        entry = read_cell("active 0.4 s + active radio 250 ms every 10 min else sleep", self.PART)
        assert entry.burst
        self.assertEqual([(p.state, p.seconds) for p in entry.burst], [("active", 0.4), ("active radio", 0.25)])
        self.assertEqual((entry.period_s, entry.rest_given, entry.rest), (600, True, "sleep"))
        shared = read_cell("active 30 % else nothing", self.PART)
        self.assertEqual((shared.duty, shared.rest_given, shared.rest), (0.3, True, None))

    def test_bursts_that_cannot_be(self) -> None:
        for text, words in (
            ("active 20 s every 10 s", "longer than its period"), ("0.4 s every 10 s", "not a phase"),
            ("dreaming 1 s every 10 s", "no state 'dreaming'"), ("active 0 s every 10 s", "lasts no time"),
            ("active 1 s every now", "is not a time"), ("active 30 % else dreaming", "no state 'dreaming'"),
            ("active 1 mA every 10 s", "is a current"),
        ):  # fmt: skip
            with self.subTest(text), self.assertRaises(QuantityError) as caught:
                read_cell(text, self.PART)
            self.assertIn(words, str(caught.exception))

    def test_what_is_written_is_read_back(self) -> None:
        phases = [Phase(state="active", seconds=0.35), Phase(state="active radio", seconds=2.4)]
        for use_ in (
            Use(part="chip", state="active"), Use(part="chip", state="active", duty=0.125, rest="sleep"),
            Use(part="chip", state="active", burst=phases, period_s=1234.5, rest="sleep"),
        ):  # fmt: skip
            entry = read_cell(write_cell(use_), self.PART)
            again = Use(part="chip", state=entry.state or "", duty=entry.duty or 1, rest=entry.rest,
                        burst=entry.burst or [], period_s=entry.period_s)  # fmt: skip
            self.assertEqual(again, use_)


class Effort(unittest.TestCase):
    """What would take too long is a problem with what to reduce; a design at the bound still passes."""

    def design(self, parts: int, modes: int, phases: int = 0, stages: int = 1) -> dict[str, Any]:
        def use_of(i: int) -> dict[str, Any]:
            burst = [{"state": "active", "seconds": 0.001 * (i + 1)}] * phases
            return use(f"p{i}", "sleep") | ({"burst": burst, "period_s": 100 + i, "rest": "sleep"} if burst else {})

        chips = [part(f"p{i}", state("sleep", 1e-6), state("active", 0.01)) for i in range(parts)]
        listed = [{"id": f"m{m}", "name": f"M{m}", "uses": [use_of(i) for i in range(parts)]} for m in range(modes)]
        feeds = [LINEAR | {"id": f"s{i}"} for i in range(stages)]
        rails = [{"id": "main", "name": "Main", "feed": "s0"}]
        return document(parts=chips, modes=listed, day={"rest": "m0", "sessions": []},
                        supply={"stages": feeds, "rails": rails, "sources": []})  # fmt: skip

    def problem(self, data: dict[str, Any]) -> list[tuple[str, str]]:
        try:
            build_design(data)
        except DocumentError as error:
            return [(p.path, p.message) for p in error.problems]
        return []

    def test_parts_times_modes(self) -> None:
        self.assertEqual(self.problem(self.design(1000, 8)), [])
        ((path, message),) = self.problem(self.design(1000, 9))
        self.assertEqual(path, "/parts")
        self.assertIn("quantity", message)

    def test_moments_of_bursts(self) -> None:
        self.assertEqual(self.problem(self.design(1, 25, 31)), [])  # 25 × 32 = 800
        ((path, message),) = self.problem(self.design(1, 25, 31) | {"modes": self.design(1, 26, 31)["modes"]})
        self.assertEqual(path, "/modes/0/uses")
        self.assertIn("832 moments", message)
        self.assertIn("fewer phases", message)

    def test_moments_times_stages_and_rails(self) -> None:
        self.assertEqual(self.problem(self.design(1, 25, 29, stages=15)), [])  # 750 × 16 = 12,000
        ((path, message),) = self.problem(self.design(1, 25, 29, stages=16))
        self.assertEqual(path, "/modes/0/uses")
        self.assertIn("17 stages and rails", message)
