"""The speed figures. Run by `./ember bench` against the served application; prints, and judges nothing."""

from __future__ import annotations

import io
import json
import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from datetime import date
from functools import partial
from pathlib import Path

import numpy as np
import openpyxl
import pyarrow as pa
import pyarrow.csv as arrow_csv
import trimesh
from core.tests.large import large_design, sampled_values, solve_plainly
from manifold3d import Manifold
from playwright.sync_api import Browser, Page, expect, sync_playwright
from validation.compare import calibrated, cell_of, gadget, state

from ember_core import VERSION, build_design, evaluate, read_design
from ember_core.battery.pack import charge_grid, pack_at
from ember_core.battery.state import after, settled_at, terminal_v
from ember_core.bringup import assembly, bring_up
from ember_core.catalogue import built_in
from ember_core.charging.charge import charge
from ember_core.choosing import AIMS, Aim, ChoiceAnswer, answer_choice
from ember_core.design import Body, CaseShape, Design, Enclosure
from ember_core.documents import compare, report_content, report_pdf
from ember_core.enclosure.fit import check_fit
from ember_core.imports.case_walls import measured_case
from ember_core.imports.mesh import read_mesh
from ember_core.imports.parts_table import PartsTable, read_parts_table
from ember_core.imports.recognise import tables_of
from ember_core.imports.workbook import read_sheets
from ember_core.load.operating_points import all_operating_points, load_table
from ember_core.measures.bench import TrialBench
from ember_core.numeric import Array
from ember_core.planning import PlanState, batch_bill, build_plan
from ember_core.recipes import Answers, begin
from ember_core.reports.fit import totals_report
from ember_core.runtime.run import run
from ember_core.runtime.uncertainty import ON_DEMAND, sample_runtime
from ember_core.schools import answer_schools
from ember_core.studies import answer_cells, answer_charge, answer_remedies
from ember_core.studies.judging import Judged
from ember_core.supply.solution import Solution
from ember_core.supply.solver import solve
from ember_core.supply.tree import build_tree
from ember_core.thermal.shell import _table
from ember_core.traces import (
    Recording,
    cut,
    judge_rundown,
    packed_samples,
    read_recording,
    reduced,
    samples_between,
    simulated,
    simulated_run_down,
)
from ember_core.wiring import Role, Wants, assign, read_pins, wiring_sheet

from .chromium import FLAGS, PROGRAM, SIZE

DEMO = Path(__file__).resolve().parent.parent / "demo" / "dusk-ear.json"


def measured(work: Callable[[], object], runs: int, clock: Callable[[], float] = time.perf_counter) -> list[float]:
    """Seconds of each run, after one that is not counted."""
    work()
    times = []
    for _ in range(runs):
        start = clock()
        work()
        times.append(clock() - start)
    return times


def report(name: str, seconds: list[float], target_ms: float) -> None:
    middle = statistics.median(seconds) * 1000
    low, high = min(seconds) * 1000, max(seconds) * 1000
    print(
        f"{name:<58} {middle:9.1f} ms  ({low:.1f} to {high:.1f}, {len(seconds)} runs)"
        f"  target {target_ms:g} ms, ratio {middle / target_ms:.2f}",
        flush=True,
    )


def anew(design: Design) -> object:
    """The warmth of a design with nothing kept of the case."""
    _table.cache_clear()
    return TrialBench(design, built_in()).warmth


def core() -> None:
    design = read_design(DEMO.read_bytes())
    report("evaluate Dusk Ear, one process", measured(lambda: evaluate(design), 60), 50)
    bench = TrialBench(design, built_in())
    warm = bench.warmth
    assert design.charger is not None and warm.usual_shell is not None and warm.meanwhile is not None
    parts = (design.charger, design.battery, warm.usual_shell, warm.meanwhile)
    report("one charge of Dusk Ear, simulated", measured(lambda: charge(*parts), 60), 30)
    report(
        "charge, settings and loads as the step asks",
        measured(lambda: answer_charge(TrialBench(design, built_in())), 10),
        200,
    )
    report("the case's table of heat, anew", measured(lambda: anew(design), 20), 30)
    command = [sys.executable, "-m", "ember_core", str(DEMO)]
    with tempfile.TemporaryDirectory() as folder:
        usual = as_installed(folder)
        report(
            "whole process: evaluate FILE.json",
            measured(lambda: subprocess.run(command, check=True, capture_output=True, env=usual), 5),
            1500,
        )
        imported_s(usual)
        report("import of the core, processor time", [imported_s(usual) for _ in range(5)], 600)
    memory()


IMPORT = "import time; t = time.process_time(); import ember_core; print(time.process_time() - t)"


def as_installed(folder: str) -> dict[str, str]:
    """The environment in which Python keeps what it has compiled, as it does unless it is told not to."""
    found = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}
    return found | {"PYTHONPYCACHEPREFIX": folder}


def imported_s(environment: dict[str, str]) -> float:
    """Seconds of processor time in which a process of its own reads the core."""
    command = [sys.executable, "-c", IMPORT]
    return float(subprocess.run(command, check=True, capture_output=True, text=True, env=environment).stdout)


WORKER = """
import config.wsgi, sys
from pathlib import Path
from config import gunicorn
from ember_core import evaluate, read_design
from ember_core.figures import as_json
gunicorn.post_fork(None, None)
designs = [read_design(Path(f).read_bytes()) for f in sys.argv[1:]]
for i in range(1000):
    as_json(evaluate(designs[i % len(designs)]))
print(int(Path("/proc/self/statm").read_text().split()[1]) * 4096 / 1e6)
"""


def memory() -> None:
    """What a process of the web server holds after a thousand evaluations of the demos."""
    command = [sys.executable, "-c", WORKER, *(str(f) for f in sorted(DEMO.parent.glob("*.json")))]
    held = float(subprocess.run(command, check=True, capture_output=True, text=True).stdout)
    print(f"{'memory of a web process after 1,000 evaluations':<58} {held:9.0f} MB  target 220 MB", flush=True)


def many_bodies(count: int) -> Design:
    """A gadget of so many bodies, every third one a cuboid along the axes, one turned and one round, as close as they may be."""
    parts = []
    for i in range(count):
        at = [4.0 + 14 * (i % 4), 4.0 + 14 * (i // 4 % 4), 4.0 + 12 * (i // 16)]
        shapes: list[dict[str, object]] = [{}, {"turn_deg": [0, 0, 20]}, {"shape": "cylinder"}]
        draw = {"behaviour": "current", "current_a": {"typical": 1e-3}}
        parts.append({"id": f"p{i}", "name": f"Part {i}", "rail": "main", "states": [{"name": "on", "draw": draw}],
                      "body": {"size_mm": [9, 9, 8], "position_mm": at} | shapes[i % 3]})  # fmt: skip
    uses = [{"part": p["id"], "state": "on"} for p in parts]
    cell = built_in().cells[0].model_dump()
    return build_design({
        "format": "frugal-ember/3", "brief": {"goal_h": 10}, "name": "Bodies", "parts": parts, "modes": [{"id": "on", "name": "On", "uses": uses}],
        "supply": {"rails": [{"id": "main", "name": "Main", "feed": "battery"}]}, "battery": {"cell": cell}, "day": {"rest": "on"},
        "enclosure": {"outer_mm": [64, 64, 30], "corner_mm": 5},
    })  # fmt: skip


def as_file(solid: Manifold) -> bytes:
    mesh = solid.to_mesh()
    found = trimesh.Trimesh(mesh.vert_properties[:, :3], mesh.tri_verts, process=False).export(file_type="stl")
    assert isinstance(found, bytes)
    return found


def bodies_from_files(count: int, turn_deg: float = 0.0) -> Design:
    """The same with bodies of two thousand triangles each, dented so that they are no hulls, in a case with its own surface."""
    dented = Manifold.cube((16, 14, 9)) - Manifold.sphere(5, 90).translate((8, 7, 9))
    body = read_mesh(as_file(dented), "body.stl")
    deep = max(60.0, -(-count // 5) * 14.7 + 10)
    outer = Manifold.cube((90, deep, 20))
    case = read_mesh(as_file(outer - Manifold.cube((86, deep - 4, 16)).translate((2, 2, 2))), "case.stl", as_case=True)
    assert body.surface is not None
    assert case.surface is not None
    made = many_bodies(count)
    parts = []
    for i, part in enumerate(made.parts):
        at = (3 + i % 5 * 16.6, 3 + i // 5 * 14.7, 2.5)
        own = Body(
            size_mm=(16, 14, 9),
            shape="mesh",
            hull_mm=body.hull_mm,
            surface=body.surface,
            position_mm=at,
            turn_deg=(0.0, 0.0, turn_deg),
        )
        parts.append(part.model_copy(update={"body": own}))
    shape = CaseShape(name=case.name, surface=case.surface, volume_mm3=case.volume_mm3)
    return made.model_copy(update={"parts": parts, "enclosure": Enclosure(outer_mm=(90, deep, 20), shape=shape)})


def enclosure() -> None:
    design = many_bodies(15)
    report("fit of 15 bodies, turned and round ones among them", measured(lambda: check_fit(design), 20), 50)
    many = many_bodies(100)
    report("fit of 100 bodies, turned and round ones among them", measured(lambda: check_fit(many), 5), 200)
    surfaces = bodies_from_files(15)
    report("fit of 15 bodies from files in a case from a file", measured(lambda: check_fit(surfaces), 10), 2000)
    turned = bodies_from_files(45, turn_deg=5)
    began = time.process_time()
    judged = Judged.of(turned, built_in())
    assert judged.found
    report("45 turned bodies from files, seen for the first time", [time.process_time() - began], 2000)
    began = time.process_time()
    answer_remedies(judged.bench)
    report("and the ways out of what is found", [time.process_time() - began], 5000)
    ball = (Manifold.sphere(30, 620) - Manifold.sphere(28, 460)).translate((30, 30, 30))
    name = f"walls of a case of {ball.num_tri():,} triangles"
    report(name, measured(lambda: measured_case(ball, np.full(3, 60.0)), 3), 5000)


def battery() -> None:
    """The deterministic runtime, and all cells ranked, on each demo gadget."""
    for file in sorted(DEMO.parent.glob("*.json")):
        design = read_design(file.read_bytes())
        report(f"runtime of {file.stem}", measured(lambda d=design: run(d).seconds, 30), 10)  # type: ignore[misc]
        bench = TrialBench(design, built_in())
        sight = answer_cells(bench, "first sight")
        report(
            f"all cells, first sight, for {file.stem}", measured(partial(answer_cells, bench, "first sight"), 5), 500
        )
        six = list(dict.fromkeys(row.name for row in sight if row.open))[:6]
        report(f"six of them, whole, for {file.stem}", measured(partial(answer_cells, bench, "whole", six), 5), 1000)


def ends() -> None:
    """What stands at both ends: a table read, the six supplies, variants beside each other, the report. In processor time."""
    book = openpyxl.Workbook()
    book.active.append(["Part", "Qty", "Rail", "Sleep (µA)", "Active [mA]", "Size", "Mass [g]"])
    for i in range(1000):
        book.active.append([f"Part {i}", i % 3 + 1, "3.3 V", i % 50 + 0.5, i % 90 + 1, "18 x 25 x 3 mm", 2])
    out = io.BytesIO()
    book.save(out)

    def read() -> object:
        table = tables_of(read_sheets(out.getvalue()))[0]
        return read_parts_table(PartsTable(columns=table.columns, rows=table.rows, numbers=table.numbers))

    report("workbook of 1,000 parts, read and previewed", measured(read, 5, time.process_time), 2000)
    named = []
    for file in sorted(DEMO.parent.glob("*.json")):
        design = read_design(file.read_bytes())
        named.append((file.stem, design))
        report(
            f"six supplies of {file.stem}",
            measured(lambda d=design: answer_schools(TrialBench(d, built_in())), 2, time.process_time),  # type: ignore[misc]
            1000,
        )
    ear_bench = TrialBench(dict(named)["dusk-ear"], built_in())
    for aim in AIMS:

        def searched(against: Aim = aim) -> ChoiceAnswer:
            return answer_choice(TrialBench(ear_bench.design, built_in()), [against], {"cost": 1e6})

        choice = searched()
        name = f"best supplies of dusk-ear against {aim}: {choice.combinations:,} combinations, {choice.solved} solved"
        report(name, measured(searched, 1, time.process_time), 10_000)
    there = read_pins("P0..P29: in out analogue pulse\nQ0..Q29: in out wake i2c0 i2c1 spi0")
    asked = Wants(
        [
            Role(f"s{i}", i, "s", ("in", "out", "analogue", "pulse")[i % 4], i % 7 == 0 and i % 4 == 0)
            for i in range(40)
        ],
        [],
    )
    report("40 signals assigned to 60 pins", measured(lambda: assign(there, asked), 5, time.process_time), 300)

    evaluated = TrialBench(ear_bench.design, built_in())
    wiring_sheet(evaluated), bring_up(evaluated)  # what an evaluation has worked out is there

    def sheets() -> object:
        return assembly(evaluated, wiring_sheet(evaluated)), bring_up(evaluated)

    report(
        "wiring, assembly and bring-up of Dusk Ear beyond its evaluation", measured(sheets, 5, time.process_time), 200
    )
    recorded()
    half = simulated_run_down(evaluated, 0.5, 1)
    report(
        "a run-down of 400 points held against Dusk Ear",
        measured(lambda: judge_rundown(half, evaluated), 5, time.process_time),
        500,
    )
    bill = batch_bill(evaluated.design, totals_report(evaluated).bill, 1, [])
    begins = PlanState(start=date(2026, 3, 2))
    report(
        "build plan of Dusk Ear",
        measured(lambda: build_plan(evaluated, bill, begins, begins.start), 5, time.process_time),
        300,
    )
    report("six designs beside each other", measured(lambda: compare(named, built_in()), 2, time.process_time), 1000)
    ear = dict(named)["dusk-ear"]
    content = report_content(ear, evaluate(ear), VERSION)
    for key in ("tester", "wearable"):
        report(
            f"first answer, {key}: to its band",
            measured(partial(begin, Answers(recipe=key), built_in()), 5, time.process_time),
            300,
        )
    report("report of Dusk Ear set", measured(lambda: report_pdf(ear, content), 5, time.process_time), 10_000)


def recorded() -> None:
    """A recording of some nine million samples: read (the target is twice what the columnar reader alone takes), made small, cut, a window drawn."""
    ear = TrialBench(read_design(DEMO.read_bytes()), built_in())
    recording, _ = simulated(ear, 9000, 1000, 1)
    with tempfile.NamedTemporaryFile(suffix=".csv") as file:
        arrow_csv.write_csv(pa.table({"time [s]": recording.time_s, "current [A]": recording.current_a}), file.name)

        def read() -> Recording:
            with Path(file.name).open("rb") as source:
                return read_recording(source)

        options = arrow_csv.ReadOptions(use_threads=False)
        alone = measured(lambda: arrow_csv.read_csv(file.name, read_options=options), 1, time.process_time)
        report(
            f"recording of {recording.time_s.size:,} samples read",
            measured(read, 1, time.process_time),
            2000 * alone[0],
        )
        small = reduced(read())
    report("recording cut into modes", measured(lambda: cut(small.recording, ear), 2, time.process_time), 20_000)
    report("window of a recording", measured(lambda: small.seen(100, 5000, 800), 9), 100)
    whole = io.BytesIO(packed_samples(recording))
    report("window of its samples", measured(lambda: samples_between(whole, 4000, 4030).seen(4000, 4030, 800), 9), 100)


def samples() -> None:
    """1,024 samples of each demo gadget, the savings and what else is asked for on demand."""
    for file in sorted(DEMO.parent.glob("*.json")):
        base = run(read_design(file.read_bytes()))
        report(f"1,024 samples of {file.stem}", measured(lambda s=base: sample_runtime(s, ON_DEMAND), 15), 150)  # type: ignore[misc]


def physics(python: str) -> None:
    """A pulsed discharge of five hours against a physics-based model of the same cell, in the same run."""
    done = subprocess.run([python, "validation/speed.py", "5"], check=True, capture_output=True, text=True)
    slow = json.loads(done.stdout)
    data = json.loads((DEMO.parent.parent / "core" / "tests" / "data" / "discharges.json").read_text())["sets"][
        "Chen2020"
    ]
    cell = cell_of(data, "lithium-ion", calibrated(data, "lithium-ion"))
    states = [state(name, "current", slow[name] * slow["capacity_ah"]) for name in ("low", "high")]
    use = {
        "state": "high",
        "rest": "low",
        "burst": [{"state": "high", "seconds": slow["high_s"]}],
        "period_s": slow["period_s"],
    }
    design = gadget(cell, states, use)
    edges = np.linspace(0, slow["whole_s"], slow["points"])
    seconds, middles = np.diff(edges), (edges[1:] + edges[:-1]) / 2
    amps = slow["capacity_ah"] * np.where(middles % slow["period_s"] < slow["high_s"], slow["high"], slow["low"])

    def voltage() -> Array:
        pack = pack_at(design.battery, 25.0)
        then = after(pack, settled_at(pack), amps, seconds)
        return terminal_v(pack, then.charge, then.felt_a, amps)

    off = np.abs(voltage() - np.interp(edges[1:], slow["time_s"], slow["voltage_v"]))[edges[1:] < slow["end_s"]]
    physical = min(slow["seconds"])  # the least of each: what the machine does beside it is not in it
    cases = {
        f"its voltage at {slow['points']} moments": (voltage, f"off by {np.median(off) * 1000:.0f} mV in the middle"),
        "a whole gadget's runtime": (lambda: run(design).seconds, f"{run(design).seconds:.0f} s against {slow['end_s']:.0f} s"),
    }  # fmt: skip
    for what, (ours, said) in cases.items():
        middle = min(measured(ours, 200, time.process_time))
        name = f"pulsed discharge of five hours against SPMe: {what}"
        print(
            f"{name:<78} {physical * 1000:.0f} ms against {middle * 1000:.2f} ms: {physical / middle:.0f} times; {said}",
            flush=True,
        )


SAMPLES, CHARGES, PLAIN_SAMPLES = 256, 200, 4


def supply() -> None:
    """60 parts, 8 modes, 6 rails over 200 states of charge and 256 samples, against the same in plain loops."""
    design = large_design(60, 8)
    operating_points, values = all_operating_points(design), sampled_values(design, SAMPLES)
    pack = pack_at(design.battery, 25.0, charge_grid(CHARGES))
    tree = build_tree(design)

    def fast() -> Solution:
        return solve(tree, load_table(design, operating_points).loads(values), pack)

    times = measured(fast, 15)
    report("supply of 60 parts, 8 modes, 200 charges, 256 samples", times, 150)
    start = time.perf_counter()
    plain = np.array(solve_plainly(design, operating_points, values[:PLAIN_SAMPLES], pack))
    slow = (time.perf_counter() - start) * SAMPLES / PLAIN_SAMPLES
    worst = float(np.max(np.abs(fast().terminal_v.reshape(SAMPLES, *plain.shape[1:])[:PLAIN_SAMPLES] - plain)))
    ratio = slow / statistics.median(times)
    print(
        f"{'  in plain loops (from ' + str(PLAIN_SAMPLES) + ' samples)':<58} {slow:9.1f} s   ratio {ratio:.0f}, at least 100 wanted;"
        f" largest difference {worst:.1e} V, at most 1e-9 wanted",
        flush=True,
    )
    report("evaluate the 60-part design whole", measured(lambda: evaluate(design), 15), 250)


WATCH_RUNTIME = """() => {
  const figure = document.querySelector('[data-testid=figure-runtime]');
  const before = figure.textContent;
  window.measured = new Promise((done) => {
    let start;
    document.addEventListener('keydown', () => { start = performance.now(); }, { capture: true, once: true });
    new MutationObserver((_, observer) => {
      if (figure.textContent === before) return;
      observer.disconnect();
      requestAnimationFrame(() => done(performance.now() - start));
    }).observe(figure, { subtree: true, characterData: true, childList: true });
  });
}"""


def sign_in(browser: Browser, address: str) -> tuple[Page, float]:
    """A page with the list of gadgets, and the seconds from the click to the list."""
    page = browser.new_context(viewport=SIZE).new_page()
    page.goto(address)
    button = page.get_by_role("button", name="Look around in the demo")
    expect(button).to_be_visible()
    start = time.perf_counter()
    button.click()
    expect(page.get_by_role("link", name="Pouch cell")).to_be_visible()
    return page, time.perf_counter() - start


def interface(address: str) -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=PROGRAM, args=FLAGS)
        sign_in(browser, address)
        report("first page of the demo after sign-in", [sign_in(browser, address)[1] for _ in range(5)], 2000)
        page, _ = sign_in(browser, address)
        page.get_by_role("link", name="Pouch cell").click()
        expect(page.get_by_test_id("figure-runtime")).to_be_visible()
        times = []
        for turn in range(21):
            page.get_by_test_id("cell-controller-listening").click()
            page.keyboard.type(f"{40 + 3 * turn} mA here")
            page.evaluate(WATCH_RUNTIME)  # taken in the page: from the key press to the changed text
            page.keyboard.press("Enter")
            times.append(page.evaluate("window.measured") / 1000)
            expect(page.get_by_test_id("save-state")).to_have_attribute("data-save", "saved")
        report("key press to the new runtime on screen, loopback", times[1:], 200)
        frames(page)
        report("key press to the repainted cell, 60 parts in 8 modes", large_grid(page, address), 100)
        browser.close()


COUNT_FRAMES = """() => {
  window.frames_s = [];
  let before = performance.now();
  const frame = (now) => { window.frames_s.push(now - before); before = now; window.counting && requestAnimationFrame(frame); };
  window.counting = true;
  requestAnimationFrame(frame);
}"""


def frames(page: Page) -> None:
    """Frames a second while the case is turned in space, drawn by the processor."""
    page.get_by_role("navigation", name="Steps").get_by_role("link", name="Fit").click()
    canvas = page.get_by_test_id("in-space")
    expect(canvas).to_be_visible()
    page.wait_for_timeout(1500)
    box = canvas.bounding_box()
    assert box is not None
    x, y = box["x"] + 20, box["y"] + 20
    page.mouse.move(x, y)
    page.mouse.down()
    page.evaluate(COUNT_FRAMES)
    begun, turn = time.perf_counter(), 0
    while time.perf_counter() - begun < 4:
        turn += 1
        page.mouse.move(x + 3 * (turn % 60), y + turn % 40)
    page.evaluate("window.counting = false")
    page.mouse.up()
    taken = page.evaluate("window.frames_s")
    mean, slow = sum(taken) / len(taken), sorted(taken)[int(len(taken) * 0.95)]
    renderer = page.evaluate(RENDERER)
    print(
        f"{'frames a second while the case is turned':<58} {1000 / mean:9.1f} /s  target 15 /s, nineteen of twenty within {slow:.0f} ms; {renderer}",
        flush=True,
    )


RENDERER = """() => {
  const gl = document.createElement('canvas').getContext('webgl2');
  return gl.getParameter(gl.getExtension('WEBGL_debug_renderer_info').UNMASKED_RENDERER_WEBGL);
}"""
WATCH_CELL = """id => {
  const cell = document.querySelector(`[data-testid="${id}"]`);
  window.measured = new Promise((done) => {
    let start;
    document.addEventListener('keydown', () => { start = performance.now(); }, { capture: true, once: true });
    new MutationObserver((_, observer) => {
      if (cell.querySelector('input')) return;
      observer.disconnect();
      requestAnimationFrame(() => done(performance.now() - start));
    }).observe(cell, { subtree: true, characterData: true, childList: true });
  });
}"""


def large_grid(page: Page, address: str) -> list[float]:
    """Seconds from the Enter that ends typing to the cell drawn with what was typed."""
    document = large_design(60, 8).model_dump_json().encode()
    page.goto(f"{address}/gadgets")
    page.get_by_role("button", name="Empty or from a file").click()
    page.get_by_text("From a design document").click()
    page.locator("input[type=file]").set_input_files(
        {"name": "large.json", "mimeType": "application/json", "buffer": document}
    )
    page.get_by_role("button", name="Make it").click()
    expect(page.get_by_test_id("figure-runtime")).to_be_visible()
    times = []
    for turn in range(21):
        page.get_by_test_id("cell-p6-m1").click()
        page.keyboard.type("busy 40 %" if turn % 2 else "calm 70 %")
        page.evaluate(WATCH_CELL, "cell-p6-m1")
        page.keyboard.press("Enter")
        times.append(page.evaluate("window.measured") / 1000)
        expect(page.get_by_test_id("save-state")).to_have_attribute("data-save", "saved")
    return times[1:]


if __name__ == "__main__":
    core()
    enclosure()
    battery()
    ends()
    samples()
    physics(sys.argv[2])
    supply()
    interface(sys.argv[1])
