"""What is answered on request, and what is said of odd gadgets and odd cases, as sums that any change moves (see golden.py).

`python -m core.tests.golden_answers [group …]` writes the file anew, or those groups of it, and says which sums moved.
"""

from __future__ import annotations

import importlib
import json
import pkgutil
import random
import sys
from collections.abc import Callable, Collection, Iterator, Mapping
from dataclasses import fields, is_dataclass
from pathlib import Path
from typing import Any

import numpy as np
from pydantic import TypeAdapter, ValidationError

import ember_core
from ember_core import Design, DocumentError, build_design, evaluate, making
from ember_core.battery import chemistries
from ember_core.calculators.capacitor import CapacitorTask, design_capacitor
from ember_core.calculators.cell import CellTask, cell_from_datasheet
from ember_core.calculators.divider import DividerTask, design_divider
from ember_core.calculators.led import LedTask, design_lamp
from ember_core.catalogue import built_in
from ember_core.catalogue.search import search
from ember_core.design.merging import differences, merge
from ember_core.enclosure.pieces import pieces
from ember_core.figures import as_json
from ember_core.imports.charger_list import write_charger_list
from ember_core.imports.grid_text import read_cell, write_cell
from ember_core.imports.mesh import UNIT_MM
from ember_core.imports.parts_list import read_parts_list, write_parts_list
from ember_core.measures.bench import TrialBench
from ember_core.quantities import show
from ember_core.quantities.reading import parse_quantity, parse_span
from ember_core.quantities.units import KINDS, TIMES, QuantityError
from ember_core.studies import (
    answer_cells,
    answer_charge,
    answer_day,
    answer_gaps,
    answer_heat,
    answer_holding,
    answer_outlook,
    answer_place,
    answer_rail,
    answer_range,
    answer_remedies,
    answer_savings,
    answer_section,
    answer_soc_table,
    stack_savings,
)
from ember_core.summary import fit_summary, summary
from ember_core.thermal import materials

from .golden import DEMOS, TOLERANCE, digest
from .golden_bench import bench_subjects
from .randoms import random_design
from .test_case_export import random_case
from .test_search import EVERYDAY

FILE = Path(__file__).parent / "data" / "golden_answers.json"
ODD, CASES, TASKS = 80, 24, 120
Thunk = Callable[[], Any]


def subjects() -> Iterator[tuple[str, str, Thunk]]:
    """(group, name, what gives it) of everything that is kept."""
    for file in sorted(DEMOS.glob("*.json")):
        design = build_design(json.loads(file.read_text()))
        for group, thunk in _answers(design):
            yield group, file.stem, thunk
    for seed in range(ODD):
        yield "odd gadgets", str(seed), lambda seed=seed: evaluate(odd_design(seed))  # type: ignore[misc]
    for seed in range(CASES):
        yield "odd cases", str(seed), lambda seed=seed: _case(random_case(seed))  # type: ignore[misc]
    for name, table in TABLES.items():
        yield "tables", name, lambda t=table: _table(t)  # type: ignore[misc]
    for module in pkgutil.walk_packages(ember_core.__path__, "ember_core."):
        if not module.name.endswith("__main__"):
            yield "tables", module.name, lambda m=module.name: _constants(m)  # type: ignore[misc]
    for seed in range(TASKS):
        yield "calculators", str(seed), lambda s=seed: _calculated(random.Random(f"task {s}"))  # type: ignore[misc]
        yield "merging", str(seed), lambda s=seed: _merged(random.Random(f"merge {s}"))  # type: ignore[misc]
    yield "quantities", "read", lambda: [[_read(text, dimension) for text in TYPED] for dimension in KINDS]
    yield (
        "quantities",
        "shown",
        lambda: [[show(v * 10.0**k, unit) for k in range(-9, 7)] for v in (1, 2.34567, 9.996) for unit in SHOWN],
    )
    for kind, table in EVERYDAY.items():
        entries = [e for e in built_in().entries if e.kind == kind]
        for line in table.strip().splitlines():
            text = line.split("|")[0].strip()
            yield "search", f"{kind}: {text}", lambda e=entries, t=text: [x.key for x in search(e, t)][:12]  # type: ignore[misc]
    yield from bench_subjects()


def _answers(design: Design) -> Iterator[tuple[str, Thunk]]:
    def bench() -> TrialBench:
        return TrialBench(design, built_in())

    size = design.enclosure.outer_mm
    yield "charge", lambda: [answer_charge(bench()), answer_charge(bench(), 0.4)]
    yield "heat", lambda: answer_heat(bench())
    yield "range", lambda: answer_range(bench())
    yield "outlook", lambda: answer_outlook(bench())
    yield "table", lambda: answer_soc_table(bench())
    yield "holding", lambda: answer_holding(bench())
    yield "place", lambda: [answer_place(bench()), answer_place(bench(), anew=True)]
    yield "rail", lambda: [answer_rail(bench(), i) for i in range(len(design.supply.rails))]
    yield "day", lambda: [answer_day(bench()), answer_day(bench(), 0.2)]
    yield (
        "section",
        lambda: [answer_section(design, a, v * s) for a, s in zip("xyz", size, strict=True) for v in (0.2, 0.5, 0.9)],
    )
    yield "gaps", lambda: [answer_gaps(design, f"/parts/{i}") for i in range(len(design.parts))]
    yield "savings", lambda: _savings(bench())
    yield "remedies", lambda: answer_remedies(bench())
    if len(design.parts) < 7:  # of the others it takes as long as all of the rest
        yield "cells", lambda: answer_cells(bench())
    yield "lists", lambda: _lists(design)
    yield "summary", lambda: [summary(design, evaluate(design), savings=True), fit_summary(evaluate(design))]


def _savings(bench: TrialBench) -> Any:
    rows = answer_savings(bench)
    return [rows, stack_savings(bench, [row.key for row in rows])]


def _lists(design: Design) -> Any:
    rails = {r.id: r.name for r in design.supply.rails}
    text = write_parts_list(list(design.parts), rails)
    back = read_parts_list(text.encode())
    cells = [
        [write_cell(use), read_cell(write_cell(use), part)]
        for part in design.parts
        for mode in design.modes
        for use in mode.uses
        if use.part == part.id
    ]
    chargers = write_charger_list([design.charger] if design.charger else [])
    return [
        text,
        back.model_dump(mode="json") if hasattr(back, "model_dump") else as_json(back).decode(),
        [[a, json.loads(as_json(b))] for a, b in cells],
        chargers,
    ]


TYPED = ("12 mA", "1.5", "3,3 V", "1 h 30 min", "1:30", "2 1/2 mm", "50 %", "4k7", "1,000 mAh", "3.7 Wh", "1e-3 A", "-4 °C", "68 °F", "100-140 mA", "120 mA ± 20 %",
         "every 10 min", "3 / day", "0.5 in", "1 000 Ω", "12 µA", "", "abc", "10 mF", "1 Mbit", "5 km", "2 days", "14 months", "1 oz", "nan", "1/0 A", "3 x 4 mm")  # fmt: skip
SHOWN = ("A", "V", "W", "Ω", "Ah", "Wh", "F", "h", "s", "mm", "g", "°C", "%", "share", "EUR", "mm²", "")


def _read(text: str, dimension: Any) -> Any:
    found = []
    for read in (parse_quantity, parse_span):
        try:
            value = read(text, dimension)
            found.append(value if isinstance(value, float) else [value.typical, value.min, value.max])
        except QuantityError as problem:
            found.append(str(problem))
    return found


def _calculated(choose: random.Random) -> Any:
    def lot(low: float, high: float) -> float:
        return float(f"{low * (high / low) ** choose.random():.3g}")

    tasks: list[tuple[Any, Any, dict[str, Any]]] = [
        (DividerTask, design_divider, {"top_v": lot(2, 30), "reference_v": lot(0.5, 3.3), "bits": choose.choice((8, 10, 12, 16)), "drain_max_a": lot(1e-7, 1e-3),
                                       "tolerance": lot(0.001, 0.1), "pin_leak_a": lot(1e-10, 1e-6), "sampler_f": lot(1e-12, 1e-10), "every_s": lot(0.01, 3600), "gate_s": lot(1e-4, 1)}),
        (LedTask, design_lamp, {"rail_v": lot(3, 12), "lowest_v": choose.choice((None, 2.6)), "forward_v": lot(1.6, 3.3), "mcd_per_ma": lot(2, 300), "wanted_mcd": lot(0.1, 500),
                                "current_max_a": lot(1e-3, 0.05), "resistor_ohm": choose.choice((None, 470.0))}),
        (CapacitorTask, design_capacitor, {"current_a": lot(1e-3, 3), "seconds": lot(1e-6, 1), "allowed_v": lot(0.01, 1), "cell_ohm": lot(0.01, 20), "switch_ohm": choose.choice((0, 0.1)),
                                           "limit_a": choose.choice((None, 0.3)), "load_a": choose.choice((0, 0.05)), "esr_ohm": lot(0.001, 1)}),
    ]  # fmt: skip
    found = []
    for kind, answer, figures in tasks:
        try:
            found.append(plain(answer(kind.model_validate(figures))))
        except ValidationError as problem:
            found.append(str(problem.errors()[0]["msg"]))
    chemistry = choose.choice(("lithium-ion", "alkaline", "lithium-coin", "nickel-metal-hydride", "silver-oxide"))
    size = [lot(8, 40), lot(20, 70), lot(2, 40)]
    cell = {"name": "Typed", "chemistry": chemistry, "form": choose.choice(("pouch", "cylinder", "coin")), "size_mm": size, "capacity_ah": lot(0.01, 3),
            "capacity_at_a": choose.choice((None, 0.01)), **choose.choice(({}, {"second_ah": 0.009, "second_at_a": 0.5}))}  # fmt: skip
    try:
        found.append(plain(cell_from_datasheet(CellTask.model_validate(cell), built_in())))
    except (ValidationError, DocumentError) as problem:
        found.append(type(problem).__name__)
    return found


def _merged(choose: random.Random) -> Any:
    """Two versions of a gadget, each with some figures, names and list entries of its own."""
    base = random_design(choose.randrange(10_000))

    def version() -> Design:
        while True:
            document = base.model_dump(mode="json")
            for _ in range(choose.randint(1, 4)):
                part = choose.choice(document["parts"])
                work = choose.choice(("rename", "mass", "drop", "add", "brief", "cell", "mode"))
                if work == "rename":
                    part["name"] = f"Named {choose.randint(1, 3)}"
                elif work == "mass":
                    part["mass_g"] = choose.choice((1.0, 2.0, 3.0))
                elif work == "drop" and len(document["modes"]) > 2 and not document["day"].get("sessions"):
                    document["modes"] = document["modes"][:2]
                elif work == "add":
                    document["parts"].append(part | {"id": f"new-{choose.randint(1, 2)}"})
                elif work == "brief":
                    document["brief"]["goal_h"] = choose.choice((20.0, 30.0, None))
                elif work == "cell":
                    document["battery"]["cell"]["mass_g"] = choose.choice((5.0, 6.0))
                else:
                    document["modes"][0]["name"] = choose.choice(("Calm", "Asleep"))
            try:
                return build_design(document)
            except DocumentError:
                continue

    mine, theirs = version(), version()
    made = merge(base, mine, theirs)
    told = [str(d) for d in (*made.conflicts, *made.brought, *differences(mine, theirs))]
    return [
        made.kept,
        made.more,
        told,
        made.mine_first.model_dump(mode="json"),
        made.theirs_first.model_dump(mode="json"),
    ]


TABLES: dict[str, Any] = {
    "chemistries": chemistries.CHEMISTRIES, "materials": materials.MATERIALS, "cells in the heat": materials.CELL_MAX_C, "touch": materials.TOUCH_C,
    "making": making.MAKING, "finish": making.FINISH_MM, "posts": making.POST_MM, "holes": making.HOLES_MM, "clears": making.CLEARS_MM, "passes": making.PASSES_MM,
    "nuts": making.NUT_MM, "heads": making.HEAD_MM, "snaps": making.SNAPS_MM, "quantities": KINDS, "times": TIMES, "inches": UNIT_MM,
}  # fmt: skip


def _table(value: Any) -> Any:
    """A table of constants as plain data."""
    if is_dataclass(value) and not isinstance(value, type):
        return {f.name: _table(getattr(value, f.name)) for f in fields(value)}
    if isinstance(value, Mapping):
        return {str(k): _table(v) for k, v in value.items()}
    if isinstance(value, list | tuple):
        return [_table(v) for v in value]
    return value


def _constants(module: str) -> dict[str, Any]:
    """The figures that stand by a name in a module: usual ones, limits, rules of thumb."""
    stands = vars(importlib.import_module(module))
    return {k: _figures(v) for k, v in stands.items() if k.lstrip("_").isupper() and k.lstrip("_") not in BY_THEMSELVES}


BY_THEMSELVES = {"ROOT", "FILE", "BUILT_IN", "MESSAGES", "RECIPES", "KEPT"}


def _figures(value: Any) -> Any:
    """Of a constant what is a number, a text or made of them."""
    if isinstance(value, bool | int | float | str | None):
        return value
    if isinstance(value, np.ndarray):
        return value.tolist()
    if isinstance(value, Mapping):
        return {str(k): _figures(v) for k, v in value.items()}
    if isinstance(value, set | frozenset):
        return sorted(map(str, value))
    if isinstance(value, list | tuple):
        return [_figures(v) for v in value]
    if is_dataclass(value) and not isinstance(value, type):
        return {f.name: _figures(getattr(value, f.name)) for f in fields(value)}
    return None


def _case(design: Design) -> Any:
    made = [
        [p.volume_mm3, p.hangs_mm2, p.upside_down, p.vertices.min(axis=0).tolist(), p.vertices.max(axis=0).tolist()]
        for p in pieces(design)
    ]
    size = design.enclosure.outer_mm
    cuts = [answer_section(design, a, 0.4 * s) for a, s in zip("xyz", size, strict=True)]
    return [made, cuts, evaluate(design).fit, evaluate(design).findings]


def odd_design(seed: int) -> Design:
    """A random gadget with what random gadgets do not have: any cell and charger, heat and sun, seals, vents, metal, children, things outside."""
    choose = random.Random(f"odd {seed}")
    catalogue = built_in()
    while True:
        document = random_design(choose.randrange(10_000)).model_dump(mode="json")
        battery, case, brief = document["battery"], document["enclosure"], document["brief"]
        battery["cell"] = choose.choice(catalogue.cells).model_dump(mode="json")
        battery["series"], battery["parallel"] = choose.choice((1, 2, 3, 4)), choose.choice((1, 2))
        battery["mixed"] = choose.random() < 0.2
        battery["swelling"] = choose.choice((0, 0.1))
        if choose.random() < 0.7:
            document["charger"] = choose.choice(catalogue.chargers).model_dump(mode="json") | {"mode": None}
        case |= {
            "plastic": choose.choice(("PLA", "PETG", "aluminium", "wood", "TPU")),
            "process": choose.choice(("filament", "resin", "milled", "ready-made")),
            "carried": choose.choice(("no", "hand", "clothes")),
            "in_sun": choose.random() < 0.4,
            "colour": choose.choice(("light", "dark")),
            "stands": choose.choice(("lying", "standing", "hung")),
            "seal": choose.choice((None, {"cord_mm": 1.0, "groove_mm": 0.8}, {"cord_mm": 3.0, "groove_mm": 1.0})),
            "vents": choose.choice((None, {"area_mm2": 60, "height_mm": 20})),
            "wall_mm": choose.choice((0.6, 1.2, 2.0, 4.0)),
            "corner_mm": choose.choice((0, 6)),
        }
        brief |= {
            "children_near": choose.random() < 0.3,
            "exposure": choose.choice(("dry", "splashed", "sealed")),
            "left_c": choose.choice((None, 70)),
            "coldest_c": choose.choice((-30, -10, 10)),
            "hottest_c": choose.choice((30, 55)),
            "mass_max_g": choose.choice((None, 60)),
            "outer_max_mm": choose.choice((None, [70, 70, 25])),
        }
        for part in document["parts"]:
            if part["body"] is not None and choose.random() < 0.6:
                part["body"]["position_mm"] = [choose.uniform(-5, 60), choose.uniform(-5, 40), choose.uniform(0, 22)]
                part["body"]["through"] = choose.choice((None, None, "left", "top"))
            part["outside"] = choose.random() < 0.1
        try:
            return build_design(document)
        except DocumentError:
            continue


def plain(value: Any) -> Any:
    if isinstance(value, list):
        return [plain(v) for v in value]
    if isinstance(value, str | int | float | bool | None | dict):
        return value
    try:
        return json.loads(as_json(value))
    except Exception:
        return TypeAdapter(type(value)).dump_python(value, mode="json")


def sums(groups: Collection[str] = ()) -> dict[str, dict[str, list[float]]]:
    found: dict[str, dict[str, list[float]]] = {}
    for group, name, thunk in subjects():
        if not groups or group in groups:
            found.setdefault(group, {})[name] = digest(plain(thunk()))
    return found


def moved(group: str, names: dict[str, list[float]], only: Callable[[str], bool] = lambda name: True) -> list[str]:
    """Of a group, the names of what gives another sum than is kept."""
    found = []
    for own, name, thunk in subjects():
        if own == group and only(name):
            figures, words = digest(plain(thunk()))
            if name not in names or abs(names[name][0] - figures) >= TOLERANCE or names[name][1] != words:
                found.append(name)
    return found


def read() -> dict[str, dict[str, list[float]]]:
    kept: dict[str, dict[str, list[float]]] = json.loads(FILE.read_text())
    return kept


if __name__ == "__main__":
    before = read() if FILE.exists() else {}
    after = sums(sys.argv[1:])
    FILE.write_text(json.dumps((before if sys.argv[1:] else {}) | after, indent=0) + "\n")
    for group, names in after.items():
        for name, value in names.items():
            if before.get(group, {}).get(name) != value:
                sys.stdout.write(f"{group}: {name}\n")
