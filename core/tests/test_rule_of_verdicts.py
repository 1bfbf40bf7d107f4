"""A verdict never passes over a finding of its own that says stop or fix, or over what is not known: on demos, random gadgets, and every
charger on every cell, of which a table written by hand from the chemistry says which are unsafe."""

from __future__ import annotations

import unittest
from itertools import cycle
from pathlib import Path
from typing import Any

from ember_core import Design, build_design, read_design
from ember_core.catalogue import built_in
from ember_core.figures import Verdict
from ember_core.findings import Found
from ember_core.reports.verdicts import USUAL_STATUSES, held_against
from ember_core.studies.judging import Judged

from .gadgets import document, plain
from .randoms import THOROUGH, random_design, sweep

DEMO = Path(__file__).resolve().parents[2] / "demo"

# which verdicts a finding of a step is held against, written down here once more
STEPS = {
    "draw": {"runtime"}, "runtime": {"runtime"}, "battery": {"runtime", "weakest"}, "supply": {"weakest"}, "charge": {"charge"}, "fit": {"fit"},
    "record": {"mass", "cost"}, "brief": set(),
}  # fmt: skip
CHARGED_BARE = {"no-protection"}  # told at the battery, and what is charged must not be so
HEAT = {"too-warm", "charging-too-warm", "touch-limit", "stage-too-hot", "wall-spot", "vents-exposed"}


def broken(judged: Judged) -> list[str]:
    """Where the rule does not hold."""
    found = []
    for verdict in judged.verdicts:
        grave = [
            f
            for f in judged.found
            if f.severity in ("stop", "fix")
            and (
                verdict.key in STEPS[f.step]
                or (verdict.key == "heat" and f.code in HEAT)
                or (verdict.key == "charge" and f.code in CHARGED_BARE and judged.bench.design.charger is not None)
            )
        ]
        if grave and verdict.status == "pass":
            found.append(f"{verdict.key} passes over {[f.code for f in grave]}")
        if any(f.severity == "stop" for f in grave) and verdict.status != "fail":
            found.append(f"{verdict.key} is {verdict.status} over {[f.code for f in grave]}")
        if grave and not any(f.title in verdict.sentence for f in grave):
            found.append(f"{verdict.key} names none of {[f.code for f in grave]}: {plain(verdict.sentence)}")
        outside = verdict.key == "charge" and judged.bench.design.charger is None
        if verdict.status == "pass" and verdict.figure.value is None and not outside:
            found.append(f"{verdict.key} passes and is not known")
    return found


class Rule(unittest.TestCase):
    def test_on_the_demos(self) -> None:
        for file in sorted(DEMO.glob("*.json")):
            with self.subTest(file.name):
                self.assertEqual(broken(Judged.of(read_design(file.read_bytes()), built_in())), [])

    def test_on_random_gadgets(self) -> None:
        for seed in sweep(160, 2000):
            judged = Judged.of(random_design(70_000 + seed), built_in())
            self.assertEqual(broken(judged), [], f"seed {70_000 + seed}")

    def test_each_grade_by_itself(self) -> None:
        """What a finding does to a verdict, in each of its states."""
        verdict = next(v for v in Judged.of(build_design(document()), built_in()).verdicts if v.key == "weakest")
        graver = {"pass": 0, "unknown": 1, "watch": 2, "fail": 3}
        for status in ("pass", "unknown", "watch", "fail"):
            before = _with(verdict, status)
            for severity in ("stop", "fix", "watch", "note"):
                facts = {"rail": "It", "mode": "So", "missing": ["a"], "users": ["b"], "alive": []}
                one = Found("no-source", severity, "supply", "/supply", facts)  # type: ignore[arg-type]
                after = held_against(before, [one])
                if severity not in USUAL_STATUSES:
                    self.assertEqual(after, before)
                    continue
                wanted = "fail" if severity == "stop" else "watch"
                self.assertEqual(graver[after.status], max(graver[status], graver[wanted]), (status, severity))
                self.assertIn(
                    "It has no source while so: It hangs on a, which is not plugged in while so: b gets", after.sentence
                )
            other = Found("no-source", "stop", "fit", "/supply", facts)
            self.assertEqual(held_against(before, [other]), before)


def _with(verdict: Verdict, status: Any) -> Verdict:
    from dataclasses import replace

    return replace(verdict, status=status, word="as it was", sentence="As it was.")


# By hand, from the chemistry: the most that a cell may be held at [V]; None: never at a constant voltage.
HELD_V: dict[str, float | None] = {
    "lithium-ion": 4.2, "lithium-iron-phosphate": 3.65, "nickel-metal-hydride": None, "alkaline": None, "lithium-coin": None,
    "lithium-manganese": None, "lithium-iron-disulfide": None, "lithium-thionyl": None,
    "super-capacitor": 2.7, "alkaline-block": None, "silver-oxide": None, "zinc-air": None, "lead-acid": 2.45, "lithium-titanate": 2.8,
}  # fmt: skip
PRIMARY = {
    "alkaline",
    "lithium-coin",
    "lithium-manganese",
    "lithium-iron-disulfide",
    "lithium-thionyl",
    "alkaline-block",
    "silver-oxide",
    "zinc-air",
}
PORTS = ("usb", "type-c", "adapter", "power-bank", "bench-supply", "wireless", "solar", None)


def unsafe(charger: Any, cell: Any, series: int, port_v: float) -> str:
    """Why nobody who knows cells would sign it; empty where nothing of this table speaks against it."""
    if cell.chemistry in PRIMARY:
        return "primary"
    if cell.bank is not None:
        return "charges itself"
    held = HELD_V[cell.chemistry] if cell.full_v is None else cell.full_v  # what its label says
    if charger.method == "cc-cv":
        if held is None:
            return "held at a voltage"
        if charger.float_v_per_cell * charger.cells_in_series > held * series * 1.006:
            return "overcharged"
    elif held is not None:
        return "nickel charger on lithium"
    if charger.cells_in_series != series:
        return "another number of cells"
    current = charger.fixed_a if charger.fixed_a is not None else charger.program_constant_v / charger.program_ohm
    most = cell.charge_max_a if cell.charge_max_a is not None else cell.capacity_ah * (0.5 if held is None else 1.0)
    if current > 1.12 * most:
        return "too much current"
    if charger.input_max_v is not None and port_v > charger.input_max_v:
        return "too much voltage at the input"
    if (
        held is not None
        and charger.topology == "linear"
        and port_v < charger.float_v_per_cell * charger.cells_in_series
    ):
        return "never full"
    if (
        charger.method == "timer"
        and current * charger.timer_h > 1.65 * cell.capacity_ah
        and current > 0.13 * cell.capacity_ah
    ):
        return "overcharged by the clock"
    if (
        series > 1
        and held is not None
        and cell.chemistry != "lead-acid"
        and not charger.balances
        and not charger.protects
    ):
        return "neither balanced nor protected"
    return ""


class EveryCharger(unittest.TestCase):
    """Each charger of the catalogue on each cell, as many in series as it is made for and as many as it is not, at each kind of port."""

    def made(self, charger: Any, cell: Any, series: int, kind: str | None, port_v: float) -> Design:
        own = charger.model_dump(mode="json") | {"port_v": port_v}
        port: dict[str, Any] | None = None
        if kind is not None:
            port = {"kind": kind, "gives_a": 3.0}
            if kind == "solar":
                port["panel"] = {"peak_w": 5, "area_cm2": 400, "latitude_deg": 40, "month": 6}
        parts = {"parts": [], "modes": [{"id": "asleep", "name": "Asleep"}], "day": {"rest": "asleep"}}
        least = {"lithium-ion": 2.5, "lithium-iron-phosphate": 2.0}.get(cell.chemistry)
        guard = {"cut_v_per_cell": least, "overcurrent_a": 2} if least else None
        battery = {"cell": cell.model_dump(mode="json"), "series": series, "protection": guard}
        base = document(charger=own | {"port": port}, battery=battery, **parts)
        return build_design(base | {"supply": {"rails": [{"id": "main", "name": "Main", "feed": "battery"}]}})

    def test_none_passes_that_the_table_calls_unsafe(self) -> None:
        catalogue, ports, passed, reasons = built_in(), cycle(PORTS), 0, set()
        met: set[tuple[str, str | None]] = set()
        for n, charger in enumerate(catalogue.chargers):
            for k, cell in enumerate(catalogue.cells):
                if not THOROUGH and (k + n) % 3:  # each cell and each port on some charger in every run
                    continue
                series = 1 if cell.bank else charger.cells_in_series if k % 4 else charger.cells_in_series % 3 + 1
                port_v = charger.port_v if k % 5 else 12.0
                why = unsafe(charger, cell, series, port_v)
                reasons.add(why)
                for kind in PORTS if THOROUGH else (next(ports),):
                    met.add((charger.name, kind))
                    judged = Judged.of(self.made(charger, cell, series, kind, port_v), catalogue)
                    verdict = next(v for v in judged.verdicts if v.key == "charge")
                    passed += verdict.status == "pass"
                    said = f"{charger.name} on {series} x {cell.name} at {kind}"
                    if why:
                        self.assertNotEqual(verdict.status, "pass", f"{said}: {why}")
                    self.assertEqual(broken(judged), [], said)
        self.assertEqual(len(met), len(catalogue.chargers) * len(PORTS))
        self.assertGreater(passed, 300 if THOROUGH else 90)  # it is no rule that lets nothing pass
        self.assertGreater(len(reasons), 8)
