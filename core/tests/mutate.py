"""How much the tests notice: small faults, one at a time, in the core; the tests that should see them run on each.

`./ember mutate [--count N] [--seed S] [MODULE ...]`. A fault is one change of one operator, comparison, sign, number or
condition in a module's syntax tree; it is put in place of the module in a process of its own, whose tests stop at the first
that fails. What survives is printed with its line. The faults are drawn evenly over the modules, with a seed.
"""

from __future__ import annotations

import argparse
import ast
import copy
import importlib.abc
import importlib.util
import os
import random
import re
import resource
import subprocess
import sys
import unittest
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[2]
CORE = ROOT / "core"
LIMIT_S = 240

# module -> the tests that look at it, the quickest first
TESTS: dict[str, list[str]] = {
    "numeric": ["test_numeric", "test_pieces"],
    "measures.selection": ["test_ways", "test_answers", "test_traps"],
    "case_shape": ["test_case_shape", "test_inside", "test_section"],
    "enclosure.bodies": [
        "test_copies",
        "test_fit",
        "test_details",
        "test_inside",
        "test_boards",
        "test_solids",
        "test_rooms",
        "test_case",
    ],
    "enclosure.walls": ["test_fit", "test_inside", "test_case_shape", "test_case"],
    "enclosure.zones": ["test_case", "test_inside", "test_windows"],
    "enclosure.hollow": ["test_inside", "test_case_shape"],
    "enclosure.passage": ["test_inside", "test_case_shape", "test_case"],
    "enclosure.joints": ["test_case_pieces", "test_constants", "test_case"],
    "enclosure.vents": ["test_case_pieces"],
    "findings.inside": ["test_inside", "test_case", "test_constants", "test_windows"],
    "findings.posts": ["test_inside", "test_case_pieces", "test_constants"],
    "enclosure.solids": ["test_solids", "test_case", "test_boards", "test_windows", "test_case_shape"],
    "enclosure.step_file": ["test_case_pieces"],
    "imports.case_walls": ["test_case_shape"],
    "findings.boards": ["test_boards"],
    "findings.case": ["test_metal_and_ratings", "test_case", "test_windows", "test_case_shape"],
    "studies.gaps": ["test_gaps"],
    "making": ["test_case", "test_constants"],
    "imports.charger_list": ["test_charger_list"],
    "imports.mesh": ["test_mesh"],
    "battery.state": ["test_battery_state", "test_relaxation", "test_timeline"],
    "runtime.powers": ["test_shares", "test_warmth", "test_evaluation", "test_golden"],
    "supply.converters": [
        "test_pieces",
        "test_converters",
        "test_stages",
        "test_supply",
        "test_answers",
        "test_golden",
    ],
    "supply.solver": [
        "test_ways",
        "test_supply",
        "test_pieces",
        "test_stages",
        "test_shares",
        "test_converters",
        "test_runtime",
        "test_golden",
    ],
    "runtime.limits": [
        "test_limits",
        "test_pieces",
        "test_thresholds",
        "test_stages",
        "test_rates",
        "test_verdicts",
        "test_findings",
        "test_golden",
    ],
    "runtime.run": [
        "test_ways",
        "test_runtime",
        "test_rates",
        "test_gadgets",
        "test_calibration",
        "test_timeline",
        "test_golden",
    ],
    "runtime.uncertainty": ["test_sampling", "test_evaluation", "test_golden"],
    "charging.charge": ["test_charging", "test_ways", "test_refill", "test_calibration", "test_golden"],
    "charging.solar": ["test_solar", "test_constants"],
    "thermal.films": ["test_thermal", "test_golden"],
    "thermal.shell": ["test_thermal", "test_heat_3d", "test_odd_charges", "test_golden"],
    "solved.warmth": [
        "test_warmth",
        "test_heat_3d",
        "test_metal_and_ratings",
        "test_heat",
        "test_charging",
        "test_refill",
        "test_golden",
    ],
    "battery.calibration": ["test_late_and_cold", "test_calibration", "test_discharge_csv"],
    "battery.cold": ["test_late_and_cold"],
    "enclosure.placing": ["test_placing"],
    "findings.sun": ["test_charges_that_harm", "test_refill", "test_constants"],
    "solved.nodes": ["test_warmth", "test_heat_3d", "test_metal_and_ratings", "test_constants", "test_golden"],
    "solved.places": ["test_neighbours", "test_heat_3d", "test_warmth", "test_constants", "test_golden"],
    "findings.refill": ["test_charges_that_harm", "test_refill", "test_constants"],
    "findings.protection": ["test_charges_that_harm", "test_refill", "test_constants"],
    "studies.charging": ["test_charge_answers"],
    "enclosure.fit": [
        "test_boards",
        "test_windows",
        "test_case_shape",
        "test_ways",
        "test_rooms",
        "test_fit",
        "test_thresholds",
        "test_findings",
        "test_verdicts",
    ],
    "battery.pack": [
        "test_ways",
        "test_pack",
        "test_pieces",
        "test_chemistry",
        "test_day_traps",
        "test_cells",
        "test_rates",
        "test_golden",
    ],
    "load.day": ["test_ways", "test_day", "test_timeline", "test_day_traps", "test_golden"],
    "solved.droop": ["test_cold_and_peaks", "test_traps", "test_peaks", "test_golden"],
    "studies.trials": ["test_trials", "test_savings", "test_charging"],
    "findings.draw": ["test_ways", "test_warmth", "test_findings", "test_thresholds", "test_traps", "test_evaluation"],
    "findings.sleep": ["test_ways", "test_traps", "test_thresholds", "test_gadgets"],
    "findings.supply": ["test_ways", "test_pieces", "test_findings", "test_thresholds", "test_traps", "test_gadgets"],
    "findings.battery": ["test_ways", "test_rooms", "test_warmth", "test_thresholds", "test_findings", "test_traps"],
    "findings.charging": ["test_charges_that_harm", "test_ways", "test_charging", "test_findings", "test_cells"],
    "findings.bank": ["test_day_traps", "test_thresholds", "test_gadgets"],
    "enclosure.holding": ["test_holding", "test_boards"],
    "findings.holding": ["test_holding"],
    "enclosure.pieces": ["test_case_pieces", "test_boards", "test_windows", "test_case_shape"],
    "enclosure.section": ["test_section", "test_case_shape"],
    "studies.section": ["test_section", "test_case_shape", "test_windows", "test_boards"],
    "findings.webs": ["test_webs"],
    "findings.windows": ["test_input_windows"],
    "findings.cells": ["test_charges_that_harm"],
    "findings.cold": ["test_cold_and_peaks"],
    "findings.ratings": ["test_metal_and_ratings"],
    "findings.peaks": ["test_peaks", "test_cold_and_peaks", "test_traps"],
    "findings.fit": ["test_copies", "test_fit", "test_thresholds", "test_findings", "test_ways", "test_rooms"],
    "reports.verdicts": ["test_verdicts", "test_heat", "test_charging", "test_rule_of_verdicts", "test_golden"],
    "solved.hottest": ["test_metal_and_ratings", "test_heat", "test_verdicts", "test_golden"],
    "load.operating_points": ["test_cold_and_peaks", "test_runtime", "test_golden"],
    "enclosure.facing": ["test_neighbours"],
    "thermal.neighbours": ["test_neighbours"],
    "measures.awake": ["test_savings", "test_day_traps"],
    "measures.asleep": ["test_savings", "test_traps"],
    "findings.awake": ["test_warmth", "test_day_traps", "test_thresholds"],
    "findings.feeds": ["test_ways", "test_rooms", "test_pieces", "test_thresholds", "test_traps"],
    "findings.heat": ["test_ways", "test_warmth", "test_heat", "test_refill"],
    "design.merging": ["test_merging"],
    "catalogue.search": ["test_search"],
    "imports.csv_cells": ["test_csv_cells"],
    "quantities.reading": ["test_quantities", "test_bad_input", "test_units_table"],
    "imports.grid_text": ["test_bad_input"],
    "design.references": ["test_bad_input", "test_day_traps"],
    "runtime.ends": ["test_ends", "test_day_traps", "test_gadgets"],
    "studies.cells": ["test_cells"],
    "calculators.capacitor": ["test_designers", "test_ways", "test_traps"],
    "calculators.divider": ["test_designers", "test_ways"],
    "calculators.led": ["test_designers", "test_pieces"],
    "calculators.cell": ["test_pieces", "test_discharge_csv", "test_cells", "test_designers", "test_day_traps"],
}

SWAPS: dict[type, type] = {
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.Pow: ast.Mult,
    ast.Lt: ast.GtE, ast.GtE: ast.Lt, ast.Gt: ast.LtE, ast.LtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
    ast.And: ast.Or, ast.Or: ast.And, ast.In: ast.NotIn, ast.NotIn: ast.In,
}  # fmt: skip


@dataclass(frozen=True)
class Fault:
    module: str
    index: int
    line: int
    what: str


def _skipped(tree: ast.AST) -> set[int]:
    """Nodes that are no behaviour: annotations, sentences for people, error texts, defaults of fields that are always
    given, and budgets (`MOST_...`, `GRID...`), which trade time for nothing that a reader sees."""
    found: set[int] = set()
    for place in (tree, *(n for n in ast.walk(tree) if isinstance(n, ast.ClassDef))):
        for node in getattr(place, "body", []):
            budget = isinstance(node, ast.Assign) and str(getattr(node.targets[0], "id", "")).startswith(
                ("MOST_", "GRID")
            )
            if budget or (isinstance(node, ast.AnnAssign) and isinstance(place, ast.ClassDef)):
                found |= {id(x) for x in ast.walk(node)}
    for node in ast.walk(tree):
        if isinstance(node, ast.JoinedStr | ast.Assert | ast.Raise):
            found |= {id(x) for x in ast.walk(node)}
        for name in ("annotation", "returns"):
            part = getattr(node, name, None)
            if isinstance(part, ast.AST):
                found |= {id(x) for x in ast.walk(part)}
        if isinstance(node, ast.AnnAssign):
            found |= {id(x) for x in ast.walk(node.annotation)}
        if isinstance(node, ast.keyword) and node.arg in (
            "title",
            "sentence",
            "note",
            "description",
            "label",
        ):
            found |= {id(x) for x in ast.walk(node)}
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in ("show", "Field"):
            found |= {id(x) for x in ast.walk(node)}
    return found


def _places(tree: ast.AST) -> Iterator[tuple[ast.AST, str, int]]:
    """(node, what would be changed, which of its operators) in a fixed order."""
    skipped = _skipped(tree)
    for node in ast.walk(tree):
        if id(node) in skipped:
            continue
        if isinstance(node, ast.BinOp) and type(node.op) in SWAPS:
            yield node, type(node.op).__name__, 0
        elif isinstance(node, ast.Compare):
            for k, operator in enumerate(node.ops):
                if type(operator) in SWAPS:
                    yield node, type(operator).__name__, k
        elif isinstance(node, ast.BoolOp) or (
            isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.USub | ast.Not)
        ):
            yield node, type(node.op).__name__, 0
        elif (
            isinstance(node, ast.Constant) and isinstance(node.value, int | float) and not isinstance(node.value, bool)
        ):
            yield node, repr(node.value), 0
        elif isinstance(node, ast.IfExp):
            yield node, "IfExp", 0
        elif (
            isinstance(node, ast.Return) and isinstance(node.value, ast.Constant) and isinstance(node.value.value, bool)
        ):
            yield node, "Return", 0


def _changed(node: ast.AST, k: int) -> None:
    match node:
        case ast.BinOp() | ast.BoolOp():
            node.op = SWAPS[type(node.op)]()
        case ast.Compare():
            node.ops[k] = SWAPS[type(node.ops[k])]()
        case ast.Constant(value=0 | 0.0):
            node.value = 1
        case ast.Constant(value=1) if isinstance(node.value, int):
            node.value = 2
        case ast.Constant():
            assert isinstance(node.value, int | float)
            node.value = node.value + 1 if isinstance(node.value, int) else node.value * 1.3
        case ast.IfExp():
            node.body, node.orelse = node.orelse, node.body
        case ast.UnaryOp():
            node.op = ast.UAdd() if isinstance(node.op, ast.USub) else ast.Not()
            if isinstance(node.op, ast.Not):
                node.operand = ast.UnaryOp(ast.Not(), node.operand)
        case ast.Return():
            assert isinstance(node.value, ast.Constant)
            node.value = ast.Constant(not node.value.value)


def all_modules() -> list[str]:
    """Every module of the core that computes something, by its name within it."""
    root = CORE / "ember_core"
    files = (
        p.relative_to(root)
        for p in root.rglob("*.py")
        if p.name != "__main__.py" and p.parent != root / "catalogue" / "data"
    )
    names = (".".join((f.parent if f.name == "__init__.py" else f.with_suffix("")).parts) for f in files)
    return sorted(name for name in names if name and faults(name))


def tests_of(module: str) -> list[str]:
    """The tests that look at a module: those that are named for it, else those that import it, else those that import something of its room;
    the golden file looks at all that an evaluation says."""
    if module in TESTS:
        return TESTS[module]
    room = module.rpartition(".")[0]
    by_import: dict[str, list[str]] = {module: [], room: []}
    for file in sorted((CORE / "tests").glob("test_*.py"), key=lambda p: p.stat().st_size):
        text = file.read_text()
        for name, files in by_import.items():
            if re.search(rf"ember_core\.{re.escape(name)}\b" if name else "ember_core", text):
                files.append(file.stem)
    last = module.rpartition(".")[2]
    named = [f.stem for f in sorted((CORE / "tests").glob("test_*.py")) if last.removesuffix("s") in f.stem]
    own = [*dict.fromkeys([*named, *by_import[module], *by_import[room]])][:MOST_TESTS]
    return [*dict.fromkeys(own), "test_evaluation", "test_golden"]


MOST_TESTS = 8


def path_of(module: str) -> Path:
    place = CORE / "ember_core" / module.replace(".", "/")
    return place / "__init__.py" if place.is_dir() else place.with_suffix(".py")


def faults(module: str) -> list[Fault]:
    tree = ast.parse(path_of(module).read_text())
    return [Fault(module, i, getattr(n, "lineno", 0), what) for i, (n, what, _) in enumerate(_places(tree))]


def faulty_tree(module: str, index: int) -> ast.AST:
    tree = ast.parse(path_of(module).read_text())
    node, _, k = list(_places(tree))[index]
    _changed(node, k)
    return ast.fix_missing_locations(copy.deepcopy(tree))


class _Loader(importlib.abc.Loader):
    def __init__(self, module: str, index: int) -> None:
        self.module, self.index = module, index

    def exec_module(self, module: Any) -> None:
        code = compile(faulty_tree(self.module, self.index), str(path_of(self.module)), "exec")  # type: ignore[arg-type]
        exec(code, module.__dict__)


class _Finder(importlib.abc.MetaPathFinder):
    def __init__(self, module: str, index: int) -> None:
        self.name, self.loader = f"ember_core.{module}", _Loader(module, index)

    def find_spec(self, name: str, path: Any, target: Any = None) -> Any:
        return (
            importlib.util.spec_from_loader(name, self.loader, origin=str(self.loader.module))
            if name == self.name
            else None
        )


def notices(module: str, index: int) -> bool:
    """In the process of one fault: whether any of the module's tests fails."""
    sys.meta_path.insert(0, _Finder(module, index))
    for name in dict.fromkeys(["test_constants", *tests_of(module)]):
        if not (CORE / "tests" / f"{name}.py").exists():
            continue
        suite = unittest.defaultTestLoader.loadTestsFromName(f"core.tests.{name}")
        with open(os.devnull, "w") as quiet:  # noqa: PTH123
            if not unittest.TextTestRunner(stream=quiet, failfast=True).run(suite).wasSuccessful():
                return True
    return False


def _tried(fault: Fault) -> bool:
    command = [sys.executable, "-m", "core.tests.mutate", "--one", fault.module, str(fault.index)]
    # by processor time, so that a busy machine notices no more; what hangs is noticed
    done = subprocess.run(command, cwd=ROOT, capture_output=True, check=False, preexec_fn=_limited)
    return done.returncode != 0


def _limited() -> None:
    resource.setrlimit(resource.RLIMIT_CPU, (LIMIT_S, LIMIT_S))


def main() -> int:
    parser = argparse.ArgumentParser(prog="ember mutate", description="How many small faults the core's tests notice.")
    parser.add_argument("modules", nargs="*", help="of the core, as findings.supply; all by default")
    parser.add_argument("--count", type=int, default=120)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--one", nargs=2, metavar=("MODULE", "INDEX"), help=argparse.SUPPRESS)
    chosen = parser.parse_args()
    if chosen.one:
        return int(notices(chosen.one[0], int(chosen.one[1])))
    choose = random.Random(chosen.seed)
    modules = chosen.modules or choose.sample(all_modules(), len(all_modules()))
    pools = {m: choose.sample(faults(m), len(faults(m))) for m in modules}
    drawn: list[Fault] = []
    while len(drawn) < chosen.count and any(pools.values()):
        for module in modules:
            if pools[module] and len(drawn) < chosen.count:
                drawn.append(pools[module].pop())
    noticed: list[bool] = []
    with ThreadPoolExecutor(max_workers=os.cpu_count() or 2) as pool:
        for fault, seen in zip(drawn, pool.map(_tried, drawn), strict=True):  # as they come
            noticed.append(seen)
            text = path_of(fault.module).read_text().splitlines()[fault.line - 1].strip()
            told = "noticed" if seen else "survived"
            print(
                f"{len(noticed):>4}/{len(drawn)} {told}: {fault.module}:{fault.line} ({fault.what})  {text[:120]}",
                flush=True,
            )
    by_module = {m: [s for f, s in zip(drawn, noticed, strict=True) if f.module == m] for m in modules}
    for module, seen_ones in by_module.items():
        if seen_ones and not all(seen_ones):
            print(f"{module:<26} {sum(seen_ones):>3} of {len(seen_ones)}")
    print(f"noticed: {sum(noticed)} of {len(noticed)} faults, {100 * sum(noticed) / max(len(noticed), 1):.0f} %")
    return 0


if __name__ == "__main__":
    sys.exit(main())
