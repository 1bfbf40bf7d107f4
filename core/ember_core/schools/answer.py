"""The six schools of supply side by side: for each the gadget completed on it, judged whole, with what it asks of its maker."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from itertools import islice
from typing import Annotated

from pydantic import Field

from ..battery.chemistry import CHEMISTRIES, full_v
from ..catalogue import Catalogue
from ..design import Charger, Design
from ..design.patches import apply_patch, replace
from ..design.problems import DocumentError
from ..enclosure.placing import place_all
from ..evaluation import Evaluation, evaluate
from ..figures import Figure, Status, figure, record
from ..findings import CHECKS_BUT_OF_FIT, Found, find
from ..measures.bench import TrialBench
from ..quantities import show
from ..runtime.uncertainty import LEAST_SAMPLES, sample_runtime
from ..solved.gadget import once
from ..words import called, say
from .packs import MODULES, ON_BOARD, SCHOOLS, PackChoice, SchoolKey, gives, over_mm, packs_of, school_of
from .supplied import completed, gently_charged, on_pack, through, with_charger, without

BAD = ("stop", "fix")
OF_A_SUPPLY = ("supply", "battery", "charge")  # steps whose findings speak against a school
ENOUGH = 1.3  # times the goal that a pack's energy has to last by the mean power, to be tried first
MOST_TRIED = 5  # packs of a school that are worked out
LARGER, MOST_LARGER = 2.0, 2  # times a pack's energy, and how often: what lasts but fails may work on a larger one
POUCH_CHARGERS = ("charger-path", "charger-small-path", "charger-board-path-c", "charger-small-100", "charger-board-500", "charger-switching-1")  # fmt: skip
TRIES = 1  # orders in which what is new is put into the case
MOVABLE = ("/battery", "/charger")
MODULE_STAGE = "stage-boost-50-module"
HOURS_A_YEAR = 8766.0
CHARGED = 0.5  # of the capacity an hour, where the cell allows it
MOST_MENDED, MOST_WAYS = 2, 2  # ways out that are applied one after the other; that are tried of a finding
SURE = 1.4  # times the goal: a run that lasts so long reaches it by its median too
HARM = 0.9  # of the runtime: a way out that costs more of it is none
OTHERS = ("/parts", "/modes", "/day", "/brief", "/battery/cell", "/battery/series", "/enclosure")


@record
class SchoolVerdict:
    key: str
    status: Status
    word: str
    sentence: str


@record
class SchoolAnswer:
    """A gadget on one school. Where it cannot work, `blame` says which requirement is in the way, and by how much; `design` is then null. Figures are
    those of the whole evaluation of that design."""

    key: SchoolKey
    name: str
    about: str
    now: Annotated[bool, Field(description="the gadget as it stands")]
    works: Annotated[
        bool,
        Field(
            description="nothing about supply, battery or charging says stop or fix, and its median reaches the goal"
        ),
    ]
    status: Annotated[
        Status,
        Field(
            description="fails where it does not work; passes where nine in ten reach the goal, it closes, and no finding says stop or fix"
        ),
    ]
    blame: str
    pack: str
    runtime: Figure | None
    coldest: Figure | None
    peak: Figure | None
    refill: str
    mass: Figure | None
    cost: Figure | None
    yearly: Figure | None
    closes: SchoolVerdict | None
    verdicts: list[SchoolVerdict]
    parts: Annotated[list[str], Field(description="what stands between the energy and the parts")]
    skills: str
    risks: str
    design: Design | None


@dataclass(frozen=True)
class _Try:
    pack: PackChoice
    bench: TrialBench
    bad: bool
    hours: float
    short: bool

    @property
    def works(self) -> bool:
        return not self.bad and not self.short

    @property
    def rank(self) -> tuple[int, bool, float]:
        return self.bad + self.short, self.short, -self.hours if self.short else self.pack.mass_g


def answer_schools(bench: TrialBench) -> list[SchoolAnswer]:
    """The six arrangements, each completed; the present one as it stands."""
    now, base = school_of(bench.design, bench.catalogue), _settled(bench)
    return [told(key, bench.design, bench, now=True) if key == now else _answer(base, key) for key in SCHOOLS]


def _answer(bench: TrialBench, key: SchoolKey) -> SchoolAnswer:
    try:
        found = _best(bench, key)
    except DocumentError as error:
        found = error.problems[0].message
    if isinstance(found, str):
        return SchoolAnswer(
            key=key, name=say(f"school-{key}.name"), about=say(f"school-{key}.about"), now=False, works=False, status="fail", blame=found, pack="",
            runtime=None, coldest=None, peak=None, refill="", mass=None, cost=None, yearly=None, closes=None, verdicts=[], parts=[],
            skills=say(f"school-{key}.skills"), risks="", design=None,
        )  # fmt: skip
    return told(key, placed_in_case(found, bench.catalogue), bench, now=False)


def placed_in_case(design: Design, catalogue: Catalogue) -> Design:
    """With everything that is new in the case, as far as it goes in."""
    fit = TrialBench(design, catalogue).fit
    wrong = {c.first for c in fit.contacts if c.margin_mm < 0} | {
        c.second for c in fit.contacts if c.margin_mm < 0 and c.second >= 0
    }
    loose = [
        fit.placed[i].pointer for i in wrong if fit.placed[i].pointer in MOVABLE or "/stages/" in fit.placed[i].pointer
    ]
    if not fit.unplaced and not loose:
        return design
    freed = (
        apply_patch(design, [replace(f"{pointer}/body/position_mm", None) for pointer in loose]) if loose else design
    )
    found = place_all(freed, tries=TRIES)
    return (
        apply_patch(freed, [replace(f"{pointer}/body", body) for pointer, body in found.bodies.items()])
        if not found.left
        else design
    )


def _best(bench: TrialBench, key: SchoolKey) -> Design | str:
    """The lightest pack of a school with which the gadget works and lasts as long as it must, else the one that comes nearest; or what is in
    the way of any."""
    design, catalogue = bench.design, bench.catalogue
    goal = design.brief.goal_h or bench.runtime_s / 3600
    if key == "board" and (why := _no_board(design)):
        return why
    packs = packs_of(catalogue, key)
    if not packs:
        return say("school.no-pack")
    room = design.brief.outer_max_mm or design.enclosure.outer_mm
    able = [p for p in packs if over_mm(p, room) <= 0]
    if not able:
        nearest = min(packs, key=lambda p: over_mm(p, room))
        return say("school.no-room", pack=nearest.cell.name, over=(over_mm(nearest, room), "mm"))
    volts = float(bench.usual.pack.open_circuit_v[bench.middle])
    able = [p for p in able if gives(p, bench.peak_a[0] * volts)] or able
    able = [p for p in able if _stands_charge(catalogue, key, p)] or able
    fitting = able
    watts, tried, seen = bench.mean_a * volts, list[_Try](), set[int]()
    for _ in range(MOST_TRIED):
        pack = _lightest(able, ENOUGH * goal * watts)
        if id(pack) in seen or any(t.works and t.pack.mass_g <= pack.mass_g for t in tried):
            break
        seen.add(id(pack))
        try:
            made = _judged(pack, _on(bench, key, pack), goal)
        except DocumentError:
            able = [p for p in able if p is not pack] or able
            continue
        tried.append(made)
        watts = pack.energy_wh / made.hours if made.hours > 0 else 2 * watts  # what it takes on such a supply
        if made.bad:  # other kinds come first
            able = [p for p in able if p.kind != pack.kind] or able
    if not tried:
        return say("school.no-supply")
    best, known = min(tried, key=lambda t: t.rank), {f.code for f in _against(bench)}
    found = _settled(best.bench, known)
    if best.short or not _against(found):
        return found.design
    return (_on_a_larger(bench, key, best.pack, fitting, known) or found).design


def _on_a_larger(
    bench: TrialBench, key: SchoolKey, pack: PackChoice, packs: list[PackChoice], known: set[str]
) -> TrialBench | None:
    """The gadget on a pack of the same kind that is at least twice as large, or four times, if nothing speaks against that; else None."""
    for _ in range(MOST_LARGER):
        larger = [p for p in packs if p.kind == pack.kind and p.energy_wh >= LARGER * pack.energy_wh]
        if not larger:
            return None
        pack = min(larger, key=lambda p: p.mass_g)
        try:
            found = _settled(_on(bench, key, pack), known)
        except DocumentError:
            continue
        if not _against(found):
            return found
    return None


def _lightest(packs: list[PackChoice], energy_wh: float) -> PackChoice:
    """The lightest pack that holds so much, or the one that holds most."""
    enough = [p for p in packs if p.energy_wh >= energy_wh]
    return min(enough, key=lambda p: p.mass_g) if enough else max(packs, key=lambda p: p.energy_wh)


def _no_board(design: Design) -> str:
    """Why no controller of the gadget takes a lithium cell at its own input; empty where one does."""
    boards = [p for p in design.parts if p.kind == "controller"]
    if any((p.supply_min_v or 0) <= 3.3 and (p.supply_absolute_max_v or 0) >= 4.3 for p in boards):
        return ""
    if not boards:
        return say("school.no-controller")
    best = max(boards, key=lambda p: p.supply_absolute_max_v or 0)
    return say(
        "school.no-input", board=best.name, stands=(best.supply_absolute_max_v, "V"), least=(best.supply_min_v, "V")
    )


def _on(bench: TrialBench, key: SchoolKey, pack: PackChoice) -> TrialBench:
    """The gadget on a pack of a school. Raises DocumentError where it becomes no design."""
    entry = bench.catalogue.by_key.get(MODULE_STAGE)
    boost = entry.stage if entry is not None else None
    bare = without(bench.design, boost.name) if boost is not None else bench.design
    made = with_charger(on_pack(bare, pack), _charger(bench.catalogue, key, pack))
    if key == "module" and boost is not None:
        made = through(made, boost)
    return gently_charged(completed(bench.of(made)), CHARGED)


def _stands_charge(catalogue: Catalogue, key: SchoolKey, pack: PackChoice) -> bool:
    """Whether a pack stands the least current that the school's chargers can be brought to."""
    charger, limit = _charger(catalogue, key, pack), pack.cell.charge_max_a
    return (
        charger is None or limit is None or charger.fixed_a is None or min([charger.fixed_a, *charger.steps_a]) <= limit
    )


def _charger(catalogue: Catalogue, key: SchoolKey, pack: PackChoice) -> Charger | None:
    """The first of the school's chargers that fills such cells with what they take."""
    if key in ("cells", "swap", "bank"):
        return None
    full = full_v(pack.cell)
    keys = {"module": MODULES, "board": ON_BOARD}.get(key, POUCH_CHARGERS)
    able = [
        c for k in keys
        if k in catalogue.by_key and (c := catalogue.by_key[k].charger) is not None and full is not None and abs(c.float_v_per_cell - full) < 0.02
    ]  # fmt: skip
    limit = pack.cell.charge_max_a
    calm = [c for c in able if limit is None or c.fixed_a is None or c.fixed_a <= limit]
    return next(iter(calm or able), None)


def _judged(pack: PackChoice, bench: TrialBench, goal_h: float) -> _Try:
    """The median is drawn unless the run itself lasts well beyond the goal. A gadget that does not run at all is looked at no further."""
    hours = bench.coldest.seconds / 3600
    if 0 < hours <= SURE * goal_h:
        hours = sample_runtime(bench.coldest, LEAST_SAMPLES).median / 3600
    dead = hours == 0
    return _Try(pack, bench, dead or bool(_against(bench)), hours, dead or hours < goal_h)


def _settled(bench: TrialBench, known: Collection[str] = ()) -> TrialBench:
    """As it is, or, where something speaks against its supply, with the first of the ways out that leave less of that; what is `known`, by its
    code, had none before."""
    bad = _against(bench)
    for _ in range(MOST_MENDED):
        mended = _mended(bench, bad, known)
        if mended is None:
            break
        bench, bad = mended
    return bench


@once
def _against(bench: TrialBench) -> list[Found]:
    return [f for f in find(bench, CHECKS_BUT_OF_FIT) if f.severity in BAD and f.step in OF_A_SUPPLY]


def _mended(bench: TrialBench, bad: list[Found], known: Collection[str]) -> tuple[TrialBench, list[Found]] | None:
    for found in bad:
        if found.step == "battery" or found.code in known:  # the ways of the former are other cells
            continue
        for way in islice(found.ways() if found.ways else (), MOST_WAYS):
            if way is None or any(p.path.startswith(OTHERS) or p.path == "/charger" for p in way.patch):
                continue  # parts, modes, day and case stay, and so does what makes it this school
            try:
                after = bench.changed(way.patch)
            except DocumentError:
                continue
            left = _against(after)
            fresh = {f.code for f in left} - {f.code for f in bad}
            if len(left) < len(bad) and not fresh and after.usual.seconds >= HARM * bench.usual.seconds:
                return after, left
    return None


def told(key: SchoolKey, design: Design, bench: TrialBench, *, now: bool) -> SchoolAnswer:
    result = evaluate(design, bench.catalogue, bench.known)
    bad = [f for f in result.findings if f.severity in BAD and f.step in OF_A_SUPPLY]
    elsewhere = [f for f in result.findings if f.severity in BAD and f.step not in OF_A_SUPPLY]
    goal, runtime = design.brief.goal_h, result.runtime.total
    short = goal is not None and (runtime.value or 0.0) < goal
    unsure = goal is not None and (runtime.low or 0.0) < goal
    blame = ""
    if bad:
        blame = f"{bad[0].title}: {bad[0].sentence}"
    elif short:
        blame = say("school.short", lasts=(runtime.value, "h"), goal=(goal, "h"))
    elif elsewhere:
        blame = f"{elsewhere[0].title}: {elsewhere[0].sentence}"
    elif unsure:
        blame = say("school.unsure", low=(runtime.low, "h"), goal=(goal, "h"))
    verdicts = [SchoolVerdict(key=v.key, status=v.status, word=v.word, sentence=v.sentence) for v in result.verdicts]
    closes = next(v for v in verdicts if v.key == "fit")
    status: Status = "fail" if bad or short else "watch" if elsewhere or unsure or closes.status != "pass" else "pass"
    cell = design.battery.cell
    lithium = cell.chemistry.startswith("lithium")
    thrown = not CHEMISTRIES[cell.chemistry].rechargeable
    return SchoolAnswer(
        key=key,
        name=say(f"school-{key}.name"),
        about=say(f"school-{key}.about"),
        now=now,
        works=not bad and not short,
        status=status,
        blame=blame,
        pack=_pack_name(design),
        runtime=runtime,
        coldest=result.runtime.coldest,
        peak=result.battery.peak_current,
        refill=_refill(result),
        mass=result.totals.mass,
        cost=result.totals.cost,
        yearly=_yearly(design, result),
        closes=closes,
        verdicts=verdicts,
        parts=[*(s.name for s in design.supply.stages), *([design.charger.name] if design.charger else [])],
        skills=say(f"school-{key}.skills"),
        risks=say(
            "school.risks", lithium=lithium, thrown=thrown, pouch=cell.form == "pouch", bank=cell.bank is not None
        ),
        design=design,
    )


def _pack_name(design: Design) -> str:
    battery = design.battery
    many = battery.series * battery.parallel
    return battery.cell.name if many == 1 else f"{many} × {battery.cell.name}"


def _refill(result: Evaluation) -> str:
    """How it is filled again: a charge of so long so often, or cells swapped so often."""
    if result.swap is not None:
        return say("school.swapped", every=(result.runtime.total.value, "h"))
    if result.charge is None:
        return say("school.itself")
    full = next((v.figure.value for v in result.verdicts if v.key == "charge"), None)
    return say("school.charged", full=(full, "h"), every=(result.runtime.total.value, "h"))


def _yearly(design: Design, result: Evaluation) -> Figure | None:
    """What cells cost in a year: those that are thrown away, and those that wear out by their cycles. A bank that switches itself off is not
    worn by what it does not give."""
    if result.swap is not None and result.swap.cost is not None:
        return result.swap.cost
    cell, hours = design.battery.cell, result.runtime.total.value
    if not hours or not CHEMISTRIES[cell.chemistry].rechargeable or not cell.cost:
        return None
    if any(f.code == "switches-off" for f in result.findings):
        return None
    a_year, stands = HOURS_A_YEAR / hours, CYCLES.get(cell.chemistry, 500.0)
    price = cell.cost * design.battery.series * design.battery.parallel
    return figure(
        "cells-worn-a-year", price * max(a_year / stands, 1 / SHELF_YEARS), design.brief.currency,
        [(called("cycles-a-year"), a_year, ""), (called("cycles-it-stands"), stands, ""), (called("years-it-keeps"), SHELF_YEARS, ""), (called("cells"), price, design.brief.currency)],
        "usual figures of makers; a rule of thumb",
    )  # fmt: skip


CYCLES = {
    "lithium-ion": 500.0,
    "lithium-iron-phosphate": 2000.0,
    "nickel-metal-hydride": 500.0,
}  # to 80 % of the capacity; usual figures
SHELF_YEARS = 8.0  # a rechargeable cell ages by itself; a rule of thumb


def shown(answer: SchoolAnswer) -> str:
    """A school as a few lines of text."""
    mark = "now" if answer.now else "ok" if answer.works else "no"
    lines = [f"[{mark:>3}] {answer.name}: {answer.pack or answer.blame}"]
    if answer.runtime is not None:
        low, high = show(answer.runtime.low, "h"), show(answer.runtime.high, "h")
        lines.append(f"      {show(answer.runtime.value, 'h')} ({low} to {high}); {answer.refill}")
        if answer.blame:
            lines.append(f"      {answer.blame}")
    return "\n".join(lines)
