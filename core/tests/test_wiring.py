"""Pins and wires: assignments held against brute force and puzzles worked out by hand, what is offered applied and assigned anew, levels and wires by hand."""

from __future__ import annotations

import csv
import io
import itertools
import random
import unittest
from functools import cache
from pathlib import Path
from typing import Any

from ember_core import Design, DocumentError, evaluate, read_design
from ember_core.calculators.ladder import CONVERTER, ladder
from ember_core.catalogue import built_in
from ember_core.design import BUS_LINES, Part, PickedPin, Pin, Wiring
from ember_core.design.patches import apply_patch, replace
from ember_core.measures.bench import TrialBench
from ember_core.solved.wires import DENSITY, SECTIONS_MM2
from ember_core.wiring import (
    Assignment,
    Device,
    Role,
    Wants,
    assign,
    needs_text,
    pins_text,
    read_needs,
    read_pins,
    wants_of,
    wiring_csv,
    wiring_sheet,
)
from ember_core.wiring.roles import _copies
from ember_core.wiring.sheet import A_ONE, OVER_V
from ember_core.wiring.ways import controllers, short_of

from .gadgets import asleep, design, part, state, use
from .randoms import sweep

DEMO = Path(__file__).resolve().parents[2] / "demo"
DEMOS = ("dusk-ear", "rosin-minder", "rosin-minder-rechargeable", "snow-stake", "tarn-light", "tarn-light-aaa")


@cache
def bench(name: str) -> TrialBench:
    return TrialBench(read_design((DEMO / f"{name}.json").read_bytes()), built_in())


def pins(text: str) -> list[Pin]:
    return read_pins(text.replace("/", "\n"))


def wants(text: str) -> Wants:
    """Each need, one a line, a part of its own."""
    roles, devices = list[Role](), list[Device]()
    for p, need in enumerate(read_needs(text.replace("/", "\n"))):
        for k in range(need.count):
            key = f"p{p}/{need.name}/{k}"
            if need.work in BUS_LINES:
                devices.append(Device(key, p, need.name, need))
                if need.work == "spi":
                    roles.append(Role(f"{key}/select", p, "select", "out"))
            else:
                roles.append(Role(key, p, need.name, need.work, need.wakes, need.pulled, need.current_a or 0.0))
    return Wants(roles, devices)


# pins, needs, how many find no place, by hand
PUZZLES: list[tuple[str, str, int]] = [
    ("A: in/B: in out", "x: in/y: out", 0),  # x has to leave B to y
    ("A: analogue in/B: in", "x: analogue/y: in", 0),
    ("A: in wake/B: in", "x: in wakes/y: in", 0),
    ("A: in out i2c0.sda/B: in out i2c0.scl/C: in out", "x: i2c 0x10/y: in", 0),
    ("A: i2c0/B: i2c0/C: i2c1/D: i2c1", "x: i2c 0x10/y: i2c 0x10", 0),  # one address, two buses
    ("A: i2c0/B: i2c0", "x: i2c 0x10/y: i2c 0x10 0x11", 0),  # a strap
    ("A: in", "x: in/y: in", 1),
    ("A: in wake/B: in", "x: in wakes/y: in wakes", 1),
    ("A: i2c0/B: i2c0", "x: i2c 0x10/y: i2c 0x10", 1),
    ("A: i2c0.sda/B: in", "x: i2c 0x10", 1),  # no clock
    ("A: spi0.clock/B: spi0.out/C: spi0.in", "x: spi", 1),  # no pin for its select
    ("A: uart0.send/B: uart0.receive/C: in/D: out", "x: uart/y: uart", 1),  # a serial line is for two
]


def by_brute_force(all_pins: list[Pin], wanted: Wants) -> int:
    """The fewest signals and devices without a place, by trying everything."""
    best = len(wanted.roles) + len(wanted.devices)
    numbers = {k: sorted({n for p in all_pins for kind, n, _ in p.buses if kind == k}) for k in BUS_LINES}
    places = [
        [None, *((n, a) for n in numbers[d.need.work] for a in (d.need.addresses or [None]))] for d in wanted.devices
    ]
    for chosen in itertools.product(*places):
        used: dict[tuple[str, int], list[tuple[Device, Any]]] = {}
        for d, at in zip(wanted.devices, chosen, strict=True):
            if at is not None:
                used.setdefault((d.need.work, at[0]), []).append((d, at[1]))
        if not all(_may_share(there) for there in used.values()):
            continue
        without = sum(at is None for at in chosen)
        asked = [
            [p for p, pin in enumerate(all_pins) if (*bus, line) in pin.buses]
            for bus in used
            for line in BUS_LINES[bus[0]]
        ]
        roles = [[p for p, pin in enumerate(all_pins) if _can(pin, r)] for r in wanted.roles]
        most = _most_placed(asked, roles)
        if most is not None:
            best = min(best, without + len(roles) - most)
    return best


def _may_share(there: list[tuple[Device, Any]]) -> bool:
    if len(there) > 1 and any(d.need.work not in ("i2c", "spi") or d.need.alone for d, _ in there):
        return False
    addresses = [a for _, a in there if a is not None]
    return len(addresses) == len(set(addresses))


def _can(pin: Pin, role: Role) -> bool:
    asked = {"in", "out"} if role.work == "wire" else {role.work}
    return asked | ({"wake"} if role.wakes else set()) <= set(pin.can)


def _most_placed(asked: list[list[int]], roles: list[list[int]]) -> int | None:
    """How many roles find a pin at most while every line has one; None where the lines do not."""
    best: int | None = None

    def go(k: int, taken: frozenset[int], placed: int) -> None:
        nonlocal best
        if k == len(asked) + len(roles):
            best = placed if best is None else max(best, placed)
            return
        options = asked[k] if k < len(asked) else roles[k - len(asked)]
        for p in options:
            if p not in taken:
                go(k + 1, taken | {p}, placed + (k >= len(asked)))
        if k >= len(asked):
            go(k + 1, taken, placed)

    go(0, frozenset(), 0)
    return best


class Assigning(unittest.TestCase):
    def held(self, all_pins: list[Pin], wanted: Wants, found: Assignment) -> None:
        """What was assigned is able to, and once."""
        by_name = {p.name: p for p in all_pins}
        names = [*found.pin_of.values(), *found.lines.values()]
        self.assertEqual(len(names), len(set(names)))
        for role in wanted.roles:
            self.assertEqual(role.key in found.pin_of, role.key not in found.missing)
            if role.key in found.pin_of:
                self.assertTrue(_can(by_name[found.pin_of[role.key]], role))
        for line, name in found.lines.items():
            self.assertIn(line, by_name[name].buses)
        there: dict[tuple[str, int], list[tuple[Device, Any]]] = {}
        for d in wanted.devices:
            self.assertEqual(d.key in found.bus_of, d.key not in found.missing)
            if d.key in found.bus_of:
                n, address = found.bus_of[d.key]
                there.setdefault((d.need.work, n), []).append((d, address))
        for (kind, n), on_it in there.items():
            self.assertTrue(_may_share(on_it))
            self.assertEqual({x for k, m, x in found.lines if (k, m) == (kind, n)}, set(BUS_LINES[kind]))

    def test_puzzles_worked_out_by_hand(self) -> None:
        for there, asked, missing in PUZZLES:
            with self.subTest(there=there, asked=asked):
                found = assign(pins(there), wants(asked))
                self.held(pins(there), wants(asked), found)
                self.assertEqual(len(found.missing), missing)
                self.assertEqual(by_brute_force(pins(there), wants(asked)), missing)

    def test_random_ones_leave_as_few_as_brute_force(self) -> None:
        for seed in sweep(60, 300):
            draw = random.Random(seed)
            can = ["in", "out", "analogue", "pulse", "wake", "i2c0", "i2c1.sda", "i2c1.scl", "spi0", "uart0"]
            there = [
                Pin(name=f"P{i}", can=draw.sample(can, draw.randint(1, 4)), start_up=draw.random() < 0.2)
                for i in range(6)
            ]
            lines = []
            for i in range(draw.randint(1, 4)):
                work = draw.choice(["in", "in", "out", "analogue", "pulse", "wire", "i2c", "spi", "uart"])
                lines.append(f"n{i}: {work}" + (" wakes" if work == "in" and draw.random() < 0.3 else "")
                             + (f" 0x{draw.randint(16, 17):02X}" if work == "i2c" else "") + (" alone" if work == "spi" and draw.random() < 0.3 else ""))  # fmt: skip
            wanted = wants("\n".join(lines))
            with self.subTest(seed=seed):
                found = assign(there, wanted)
                self.held(there, wanted, found)
                self.assertEqual(len(found.missing), by_brute_force(there, wanted))

    def test_what_is_rare_is_kept_for_who_needs_it(self) -> None:
        found = assign(pins("S: in start-up/W: in wake/A: in analogue/P: in"), wants("x: in/y: in"))
        self.assertEqual(set(found.pin_of.values()), {"P", "A"})  # by hand: plain 0, analogue 0.5, wake 1, start-up 4
        found = assign(pins("A: i2c0/B: i2c0/C: i2c1/D: i2c1"), wants("x: i2c 0x10/y: i2c 0x11"))
        self.assertEqual({n for n, _ in found.bus_of.values()}, {0})  # one bus is enough

    def test_a_choice_stays_and_one_that_cannot_be_is_said(self) -> None:
        there, asked = pins("A: in/B: in/C: out"), wants("x: in/y: in")
        found = assign(there, asked, {"p0/x/0": "B"})
        self.assertEqual(found.pin_of["p0/x/0"], "B")
        refused = assign(there, asked, {"p0/x/0": "C", "p1/y/0": "A", "p9/z": "A", "p1/y": "Z"}).refused
        self.assertEqual(refused, {"p0/x/0": "able", "p9/z": "gone", "p1/y": "gone"})
        twice = assign(there, asked, {"p0/x/0": "A", "p1/y/0": "A"})
        self.assertEqual((twice.refused, twice.missing), ({"p1/y/0": "taken"}, []))

    def test_a_pin_gives_no_more_than_it_can(self) -> None:
        there = pins("A: out 10 mA/B: out 20 mA")
        self.assertEqual(assign(there, wants("x: out 10 mA/y: out 20 mA")).missing, [])
        self.assertEqual(len(assign(there, wants("x: out 10.1 mA/y: out 20 mA")).missing), 1)

    def test_forty_signals_on_sixty_pins(self) -> None:
        there = pins("P0..P29: in out analogue pulse/Q0..Q29: in out wake i2c0 i2c1 spi0")
        found = assign(there, wants("a: in x20/b: analogue x10/c: in wakes x6/d: i2c 0x10/e: i2c 0x10/f: spi/g: spi"))
        self.assertEqual(found.missing, [])


class Named(unittest.TestCase):
    def test_signals_of_several_parts_and_several_alike_are_numbered(self) -> None:
        for quantity, count, names in (
            (1, 1, ["key"]), (2, 1, ["key 1", "key 2"]), (1, 2, ["key 1", "key 2"]), (2, 2, ["key 1/1", "key 1/2", "key 2/1", "key 2/2"]),
        ):  # fmt: skip
            chip = part("pad", state("on", 1e-6), quantity=quantity) | {
                "needs": [{"name": "key", "work": "in", "count": count}]
            }
            own = design(parts=[chip], modes=asleep(use("pad", "on")), day={"rest": "asleep"}).parts[0]
            self.assertEqual([name for _, name in _copies(own, own.needs[0])], names)

    def test_a_bus_without_a_number_is_the_first(self) -> None:
        self.assertEqual(Pin(name="A", can=["i2c.sda"]).buses, {("i2c", 0, "sda")})
        self.assertEqual(Pin(name="A", can=["i2c1.sda"]).buses, {("i2c", 1, "sda")})


class Typed(unittest.TestCase):
    def test_pins_and_signals_come_back_as_they_were_typed(self) -> None:
        text = "P4: in out analogue wake pull\nTX: out uart0.send start-up\nP5: in 3.6 V 0.02 A"
        self.assertEqual(pins_text(read_pins(text)), text)
        asked = "key: in x3 wakes pull\ndisplay: i2c 0x3C 0x3D\ncard: spi alone\necho: in 3 V"
        self.assertEqual(needs_text(read_needs(asked)), asked)
        for entry in built_in().entries:
            if entry.part is not None:
                self.assertEqual(read_pins(pins_text(entry.part.pins)), entry.part.pins)
                self.assertEqual(read_needs(needs_text(entry.part.needs)), entry.part.needs)

    def test_rows_tabs_and_separators(self) -> None:
        self.assertEqual([p.name for p in read_pins("P4..P6 in, out")], ["P4", "P5", "P6"])
        self.assertEqual(read_pins("GP 1\tin|out")[0].name, "GP 1")
        self.assertEqual(read_pins("\n\n"), [])
        self.assertEqual(len(read_pins("P0..P255: in")), 256)

    def test_each_wrong_line_is_told(self) -> None:
        for text, path in (
            ("A: in\nB: sing", "/lines/1"),
            ("A:", "/lines/0"),
            ("P9..P4 in", "/lines/0"),
            ("P0..P999 in", "/lines/0"),
            ("A: i2c0.clock", "/lines/0"),
            ("A: in\nA: out", ""),
            ("\n".join(f"P{i}: in" for i in range(257)), ""),
            ("\n".join("P0..P255: in" for _ in range(300)), ""),
            ("A: in 1e9 V", "/lines/0"),
        ):
            with self.subTest(text[:20]), self.assertRaises(DocumentError) as raised:
                read_pins(text)
            self.assertEqual(raised.exception.problems[0].path, path)
        for text in (
            "x: wakes",
            "x: i2c wakes",
            "x: in 0x10",
            "x: out wakes",
            "x: i2c x2",
            "x: in x999",
            "x: i2c 0xFFFFF",
        ):
            with self.subTest(text), self.assertRaises(DocumentError):
                read_needs(text)


class Ladders(unittest.TestCase):
    def test_levels_by_hand(self) -> None:
        made = ladder(2, 3.3)
        self.assertEqual((made.chain_ohm, made.levels[0]), ([10_000.0], 0.0))
        self.assertAlmostEqual(made.levels[1], 0.5)
        # half is off by 2 * 1 % * 0.25 and half the converter's share; the ends by the latter alone
        self.assertAlmostEqual(made.gap, 0.5 - 0.005 - CONVERTER)
        self.assertAlmostEqual(made.held_a, 3.3e-4)

    def test_more_keys_come_nearer_until_they_are_mistaken(self) -> None:
        gaps = [ladder(n, 3.3).gap for n in range(1, 25)]
        self.assertEqual(sorted(gaps, reverse=True)[:6], gaps[:6])
        self.assertGreater(gaps[11], 0)
        self.assertLess(gaps[23], gaps[11])
        for n in (0, 25):
            with self.assertRaises(ValueError):
                ladder(n, 3.3)


def wired(controller: str, *needs: str, volts: float = 3.3, part_volts: float | None = None) -> Design:
    """A controller on one rail, each need a part, on another rail where it has its own voltage."""
    chips = [
        part("chip", state("on", 0.01))
        | {"kind": "controller", "pins": [p.model_dump(mode="json") for p in pins(controller)]}
    ]
    rail = "main" if part_volts is None else "other"
    for i, text in enumerate(needs):
        asked = [n.model_dump(mode="json") for n in read_needs(text.replace("/", "\n"))]
        chips.append(part(f"part-{i}", state("on", 0.001)) | {"needs": asked, "rail": rail})
    stages = [_linear("main", volts)] + ([_linear("other", part_volts)] if part_volts is not None else [])
    return design(
        parts=chips,
        modes=[{"id": "on", "name": "On", "uses": [use(c["id"], "on") for c in chips]}],
        day={"rest": "on", "sessions": []},
        supply={"stages": stages, "rails": [{"id": s["id"][4:], "name": s["id"], "feed": s["id"]} for s in stages]},
    )


def _linear(rail: str, volts: float) -> dict[str, Any]:
    return {"type": "linear", "id": f"reg-{rail}", "name": f"Regulator {rail}", "input": "battery", "output_v": volts, "dropout_v": 0.1,
            "dropout_at_a": 0.1, "quiescent_a": 1e-6, "limit_a": 0.5}  # fmt: skip


class Sheets(unittest.TestCase):
    def test_every_demo_is_wired(self) -> None:
        for name in DEMOS:
            with self.subTest(name):
                sheet = wiring_sheet(bench(name))
                self.assertNotIn("fail", {f.severity for f in sheet.findings})
                self.assertFalse(sheet.unsaid)
                self.assertTrue(all(w.pin for h in sheet.hosts for w in h.wires))
                rows = list(csv.reader(io.StringIO(wiring_csv(sheet))))
                self.assertEqual(len(rows), 1 + sum(len(h.wires) for h in sheet.hosts) + len(sheet.leads))

    def test_a_level_above_what_the_pin_stands(self) -> None:
        for volts, failing in ((3.3 + OVER_V - 0.001, False), (3.3 + OVER_V + 0.001, True)):
            sheet = wiring_sheet(TrialBench(wired("A: in out", f"x: in {volts:.4f} V"), built_in()))
            self.assertEqual([f.severity for f in sheet.findings], ["fail"] if failing else [])
            self.assertEqual(sheet.status, "fail" if failing else "pass")
        stands = wiring_sheet(TrialBench(wired("A: in out 5.5 V", "x: in 5 V"), built_in()))
        self.assertEqual(stands.findings, [])

    def test_a_level_below_what_the_part_sees(self) -> None:
        for own, failing in ((A_ONE * 3.3 + 0.002, False), (A_ONE * 3.3 - 0.002, True)):
            found = wiring_sheet(
                TrialBench(wired("A: in out", "x: out", volts=own, part_volts=3.3), built_in())
            ).findings
            self.assertEqual([f.severity for f in found], ["watch"] if failing else [], own)

    def test_two_resistors_bring_a_signal_down(self) -> None:
        before = wired("A: in out", "x: in 5 V")
        (finding,) = wiring_sheet(TrialBench(before, built_in())).findings
        after = apply_patch(before, finding.ways[0].patch)
        self.assertEqual(wiring_sheet(TrialBench(after, built_in())).findings, [])
        # 10 kΩ over the largest E24 value below 10 kΩ * 3.3 / 1.7 = 19.4 kΩ: 18 kΩ
        self.assertAlmostEqual(after.parts[1].needs[0].level_v or 0, 5 * 18 / 28, places=3)

    def test_each_way_out_leaves_fewer_without_a_pin(self) -> None:
        for gadget in (
            wired("A: in wake/B: in/C: in", "x: in wakes", "y: in wakes"),
            wired("A: in/B: analogue in", "keys: in x6"),
            wired("A: i2c0/B: i2c0/C: in", "keys: in x6", "x: out"),
        ):
            short = short_of(gadget)
            self.assertGreater(short, 0)
            findings = wiring_sheet(TrialBench(gadget, built_in())).findings
            ways = [w for f in findings for w in f.ways]
            self.assertTrue(ways)
            for way in ways:
                left = short_of(apply_patch(gadget, way.patch))
                self.assertLess(left, short, way.label)
                if "still without" not in way.label:
                    self.assertEqual(left, 0, way.label)

    def test_more_that_wake_than_can_is_a_finding_on_draw_too(self) -> None:
        ear = bench("dusk-ear").design
        at = ear.index.parts["buttons"]
        for count, found in ((8, False), (9, True)):  # deep sleep is left by eight pins
            more = apply_patch(ear, [replace(f"/parts/{at}/needs/0/count", count)])
            self.assertEqual("cannot-wake" in {f.code for f in evaluate(more).findings}, found, count)

    def test_more_signals_than_any_controller_has_are_said_at_once(self) -> None:
        gadget = wired("A: in out", "x: out x50")
        for quantity, found in ((6, False), (7, True)):  # 300 are looked at
            many = gadget.model_copy(
                update={"parts": [gadget.parts[0], gadget.parts[1].model_copy(update={"quantity": quantity})]}
            )
            texts = [f.text for f in wiring_sheet(TrialBench(many, built_in())).findings]
            self.assertEqual(any("looked at" in t for t in texts), found)

    def test_levels_are_those_of_their_own_signal(self) -> None:
        gadget = TrialBench(wired("A: in/B: in", "key: in/key 2: in 5 V"), built_in())
        (finding,) = wiring_sheet(gadget).findings
        after = apply_patch(gadget.design, finding.ways[0].patch)
        self.assertEqual([n.level_v is not None for n in after.parts[1].needs], [False, True])

    def test_the_reason_is_named(self) -> None:
        for gadget, said in (
            (wired("A: in wake/B: in", "x: in wakes", "y: in wakes"), "2 ask for a pin that can wake, and 1 can"),
            (wired("A: i2c0/B: i2c0", "x: i2c 0x10", "y: i2c 0x10"), "both answer at 0x10"),
            (wired("A: in/B: out", "x: i2c 0x10"), "needs I²C, and"),
            (wired("A: uart0/B: uart0", "x: uart", "y: uart"), "for itself"),
        ):
            texts = " ".join(f.text for f in wiring_sheet(TrialBench(gadget, built_in())).findings)
            self.assertIn(said, texts)

    def test_nothing_known_is_no_pass(self) -> None:
        sheet = wiring_sheet(TrialBench(design(), built_in()))
        self.assertEqual((sheet.status, bool(sheet.note)), ("unknown", True))
        self.assertEqual(
            wiring_sheet(TrialBench(wired("A: in"), built_in())).status, "unknown"
        )  # nobody asks for its pin
        gadget = wired("A: in", "x: in")
        silent = gadget.parts[1].model_copy(update={"needs": [], "kind": "display"})
        sheet = wiring_sheet(TrialBench(gadget.model_copy(update={"parts": [gadget.parts[0], silent]}), built_in()))
        self.assertEqual((sheet.status, sheet.unsaid), ("unknown", [silent.name]))

    def test_what_the_catalogue_knows_is_taken_over(self) -> None:
        bare = bench("dusk-ear").design
        bare = bare.model_copy(update={"parts": [p.model_copy(update={"pins": [], "needs": []}) for p in bare.parts]})
        (finding,) = wiring_sheet(TrialBench(bare, built_in())).findings
        after = apply_patch(bare, finding.ways[0].patch)
        self.assertEqual(wiring_sheet(TrialBench(after, built_in())).findings, [])
        self.assertEqual(after.parts[0].pins, bench("dusk-ear").design.parts[0].pins)

    def test_an_expander_takes_as_many_as_it_has_pins_for(self) -> None:
        """Twenty signals of a part each: what does not go on the expander's pins stays at the controller."""
        crowded = wired("A: i2c0.sda/B: i2c0.scl/C: in", *["x: in"] * 20)
        own = wiring_sheet(TrialBench(crowded, built_in()))
        ways = [w for f in own.findings for w in f.ways if any(op.path == "/parts/-" for op in w.patch)]
        expanders = 0
        for way in ways:
            added = next(op.value for op in way.patch if op.path == "/parts/-")
            pins_of = added.pins if isinstance(added, Part) else Part.model_validate(added).pins
            moved = [op for op in way.patch if op.path.endswith("/at")]
            if moved:
                self.assertEqual(len(moved), min(20, sum("in" in p.can for p in pins_of)), way.label)
                expanders += 1
        self.assertGreater(expanders, 0)

    def test_a_second_controller_and_parts_at_an_expander(self) -> None:
        gadget = wired("A: i2c0/B: i2c0", "bus: i2c 0x20", "key: in")
        expander = gadget.parts[1].model_copy(update={"pins": pins("E0: in/E1: out")})
        needs = [gadget.parts[2].needs[0].model_copy(update={"at": expander.id})]
        parts = [gadget.parts[0], expander, gadget.parts[2].model_copy(update={"needs": needs})]
        sheet = wiring_sheet(TrialBench(gadget.model_copy(update={"parts": parts}), built_in()))
        self.assertEqual([(h.name, [w.pin for w in h.wires][-1]) for h in sheet.hosts][1], (expander.name, "E0"))
        self.assertEqual(sheet.findings, [])
        for signal, pin, said in ((f"{gadget.parts[2].id}/key", "E0", False), ("no/thing", "E0", True)):
            picked = gadget.model_copy(
                update={"parts": parts, "wiring": Wiring(picked=[PickedPin(signal=signal, pin=pin)])}
            )
            texts = [f.text for f in wiring_sheet(TrialBench(picked, built_in())).findings]
            self.assertEqual(sum("left out" in t for t in texts), said)

    def test_other_controllers_are_named_only_where_all_finds_a_place(self) -> None:
        gadget = bench("dusk-ear")
        for name in controllers(gadget):
            other = next(e.part for e in built_in().entries if e.part is not None and e.part.name == name)
            self.assertEqual(assign(other.pins, wants_of(gadget.design, 0)).missing, [])

    def test_wires_by_hand(self) -> None:
        gadget = TrialBench(wired("A: in", "x: in"), built_in())
        for lead in wiring_sheet(gadget).leads:
            assert lead.section_mm2 is not None
            self.assertAlmostEqual(lead.drop_v, 2 * 0.15 * 0.0175 / lead.section_mm2 * lead.peak_a)
            self.assertLessEqual(lead.peak_a / lead.section_mm2, DENSITY)
            self.assertLessEqual(lead.drop_v, 0.01 * lead.volts)

    def test_the_next_thinner_wire_would_not_do(self) -> None:
        seen = 0
        for name in DEMOS:
            for lead in wiring_sheet(bench(name)).leads:
                assert lead.section_mm2 is not None
                if lead.section_mm2 > SECTIONS_MM2[0]:
                    thinner = SECTIONS_MM2[SECTIONS_MM2.index(lead.section_mm2) - 1]
                    drop = 2 * 0.15 * 0.0175 / thinner * lead.peak_a
                    self.assertTrue(drop > 0.01 * lead.volts or lead.peak_a / thinner > DENSITY)
                    seen += 1
        self.assertGreater(seen, 0)

    def test_the_peak_of_a_wire_is_at_the_charge_where_it_is_highest(self) -> None:
        boost = bench("snow-stake")  # which takes more the emptier the cell
        lead = next(x for x in wiring_sheet(boost).leads if x.target.startswith("Boost"))
        at = [s.name for s in boost.usual.tree.stages].index(lead.target)
        amps = boost.usual.worst.stage_input_a[at]
        self.assertAlmostEqual(lead.peak_a, float(amps[boost.usual.works].max()))
        self.assertGreater(lead.peak_a, float(amps[:, 0].max()))


class Documents(unittest.TestCase):
    def test_pins_and_signals_named_twice_are_refused(self) -> None:
        chip = part("chip", state("on", 0.01))
        pin = {"name": "A", "can": ["in"]}
        for wrong in ({"pins": [pin, pin]}, {"needs": [{"name": "x", "work": "in"}] * 2}, {"pins": [{"name": "A", "can": ["fly"]}]},
                      {"pins": [{"name": "A", "can": []}]}, {"needs": [{"name": "x", "work": "i2c", "wakes": True}]}):  # fmt: skip
            with self.assertRaises(DocumentError):
                design(parts=[chip | wrong])

    def test_the_catalogue_says_what_it_can(self) -> None:
        for entry in built_in().entries:
            if entry.part is not None and entry.part.kind == "controller":
                self.assertTrue(entry.part.pins, entry.part.name)
                most = max((w.pins for w in entry.part.wakes if w.state == entry.part.states[0].name), default=0)
                self.assertLessEqual(sum("wake" in p.can for p in entry.part.pins), most or 99, entry.part.name)
            if (
                entry.part is not None
                and entry.part.kind in ("radio", "display", "storage")
                and not entry.part.plugged_by_user
            ):
                self.assertTrue(entry.part.needs, entry.part.name)
