"""A few answers, and a whole design for them: parts with bodies, modes, day, supply, charger, a case that closes, the brief."""

from __future__ import annotations

from typing import Annotated, Literal, NamedTuple

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ..catalogue import Catalogue
from ..design import (
    FORMAT,
    Battery,
    Brief,
    Day,
    Design,
    Enclosure,
    Guess,
    Mode,
    Part,
    Rail,
    Session,
    Size,
    Supply,
    Title,
    Use,
    Wake,
)
from ..design.patches import apply_patch, replace
from ..design.problems import DocumentError, Problem, sentence
from ..design.references import BATTERY
from ..enclosure.bodies import things
from ..enclosure.placing import place_all
from ..evaluation import Evaluation, evaluate
from ..figures import Verdict, record
from ..load.occasion_text import Occasion, read_occasion
from ..measures.bench import TrialBench
from ..measures.measure import state_a
from ..quantities import QuantityError
from ..reports.guesses import GuessRow, happening
from ..schools.supplied import whole
from ..studies.placing import warm_w
from ..words import say
from .feeding import BAD, Try, best_of, nearest
from .recipe import RECIPES, Place, Recipe, School

ENOUGH = (
    1.45,
    2.0,
)  # times the goal that a pack has to last at typical figures, so that nine in ten of such gadgets reach it; where it does not suffice
PLACES: dict[Place, dict[str, object]] = {
    "indoors": {"coldest_c": 10, "usual_c": 20, "hottest_c": 30},
    "outdoors": {"coldest_c": -10, "usual_c": 10, "hottest_c": 40, "exposure": "splashed"},
    "pocket": {"coldest_c": 0, "usual_c": 20, "hottest_c": 35},
    "cold": {"coldest_c": -20, "usual_c": -5, "hottest_c": 20, "exposure": "splashed"},
}
CARRIED: dict[Place, Literal["no", "hand", "clothes"]] = {"pocket": "hand"}
LARGER = (
    1.0,
    1.1,
    1.2,
    1.35,
    1.5,
    1.75,
    2.0,
    2.5,
    3.0,
)  # times the least case along each side, until everything has room
WALLS_MM = 6.0  # walls and clearance on both sides together
TRIES = 3
ARRANGEMENTS = 5  # of which the one is taken that keeps what is warm off the battery and the walls


class Answers(BaseModel):
    """What a maker answers; whatever is left out is as the recipe says."""

    model_config = ConfigDict(extra="forbid")

    recipe: str
    name: Title | None = None
    often: Annotated[
        list[Annotated[str, Field(max_length=200)]] | None,
        Field(max_length=8, description="how long and how often, for each thing that the recipe lets happen"),
    ] = None
    supply: School | None = Field(None, description="null: the one that serves best")
    outer_max_mm: Size | None = Field(None, description="the largest that it may be [mm]")
    goal_h: Annotated[float, Field(ge=1e-4, le=24 * 366 * 30)] | None = None
    place: Place | None = None


@record
class Begun:
    """A whole design, with what was taken for it, and in words where an answer could not be met."""

    design: Design
    supply: School
    schools: Annotated[list[School], Field(description="the supplies that this recipe can have")]
    met: Annotated[bool, Field(description="nothing says stop or fix, and nine in ten last as long as they must")]
    sentence: str
    made_of: Annotated[list[str], Field(description="what is in it, a line each")]
    verdicts: list[Verdict]
    guesses: list[GuessRow]


def begin(answers: Answers, catalogue: Catalogue) -> Begun:
    """The design that answers describe. Raises DocumentError with the place of the answer that cannot be read.

    >>> from ember_core.catalogue import built_in
    >>> begun = begin(Answers(recipe="handheld"), built_in())
    >>> begun.design.battery.cell.name
    'Pouch 503040, 600 mAh'
    """
    recipe = next((r for r in RECIPES if r.key == answers.recipe), None)
    if recipe is None:
        raise DocumentError([Problem("/recipe", "is no recipe that is known")])
    if answers.supply is not None and answers.supply not in recipe.packs:
        raise DocumentError([Problem("/supply", f"{recipe.name} has no recipe with that supply")])
    occasions = _occasions(recipe, answers)
    try:
        plain = _plain(recipe, answers, occasions, catalogue)
    except ValidationError as error:
        raise DocumentError(
            [Problem("/often", sentence(e).removeprefix("Value error, ")) for e in error.errors()]
        ) from None
    goal = plain.brief.goal_h or 0.0
    made = _made(plain, recipe, answers.supply, ENOUGH[0] * goal, catalogue)
    runtime = made.judged.runtime.total
    if (runtime.low or 0.0) < goal <= (runtime.value or 0.0):
        larger = _made(plain, recipe, answers.supply, ENOUGH[1] * goal, catalogue)
        made = made if _against(larger.judged, goal) else larger
    against = _against(made.judged, goal)
    return Begun(
        design=made.design, supply=made.school, schools=list(recipe.packs), met=against is None, sentence=against or say("begun.met"),
        made_of=_made_of(made.design), verdicts=made.judged.verdicts, guesses=made.judged.guesses,
    )  # fmt: skip


class _Made(NamedTuple):
    """A gadget with a supply and a case, and what is said of it."""

    school: School
    design: Design
    judged: Evaluation


def _made(plain: Design, recipe: Recipe, school: School | None, wanted_h: float, catalogue: Catalogue) -> _Made:
    """With a supply of a school, or of the one that serves best, that lasts so long at typical figures, else of what comes nearest."""
    tried: list[Try] = []
    for one in [school] if school else recipe.packs:  # in the order in which they serve such a gadget
        tried += best_of(plain, recipe, one, wanted_h, catalogue)
        if tried and tried[-1].good(wanted_h):
            break
    if not tried:
        raise DocumentError([Problem("/recipe", "asks for entries that the catalogue no longer has")])
    chosen = nearest(tried, wanted_h)
    housed = _housed(chosen.bench.design, catalogue)
    return _Made(chosen.school, housed, evaluate(housed, catalogue))


def _against(judged: Evaluation, goal_h: float) -> str | None:
    """What speaks against a design as it was judged, the gravest first; None where nothing does."""
    found = next((f for f in judged.findings if f.severity in BAD), None)
    if found is not None and found.code == "case-too-large":
        return say("begun.larger")
    runtime = judged.runtime.total
    lasts, low = runtime.value or 0.0, runtime.low or 0.0
    if lasts < goal_h:
        return say("begun.short", lasts=(lasts, "h"), goal=(goal_h, "h"))
    if found is not None:
        return f"{found.title}: {found.sentence}"
    return None if low >= goal_h else say("begun.may-fall-short", low=(low, "h"), goal=(goal_h, "h"))


def _made_of(design: Design) -> list[str]:
    cells, name = design.battery.series, design.battery.cell.name
    charger = [design.charger.name] if design.charger else []
    battery = name if cells == 1 else f"{cells} × {name}"
    return [*(p.name for p in design.parts), battery, *(s.name for s in design.supply.stages), *charger]


def _occasions(recipe: Recipe, answers: Answers) -> list[Occasion]:
    """When it does what it does, as it was answered, or as the recipe has it."""
    texts = [h.text for h in recipe.happens]
    for i, text in enumerate((answers.often or [])[: len(texts)]):
        texts[i] = text if text.strip() else texts[i]
    found, wrong = [], []
    for i, text in enumerate(texts):
        try:
            found.append(read_occasion(text))
        except QuantityError as error:
            wrong.append(Problem(f"/often/{i}", str(error)))
    if wrong:
        raise DocumentError(wrong)
    return found


def _plain(recipe: Recipe, answers: Answers, occasions: list[Occasion], catalogue: Catalogue) -> Design:
    """The gadget without a supply of its own yet: a pouch straight on its rails."""
    parts = []
    for wanted in recipe.parts:
        entry = catalogue.by_key.get(wanted.entry)
        if entry is None or entry.part is None:
            raise DocumentError([Problem("/recipe", f"asks for “{wanted.entry}”, which the catalogue no longer has")])
        parts.append(entry.part.model_copy(update={"id": wanted.id, "rail": wanted.rail, "quantity": wanted.quantity}))
    modes = [
        Mode(id=m.id, name=m.name, uses=[Use(part=p.id, state=p.uses[m.id]) for p in recipe.parts if m.id in p.uses],
             switched_off=recipe.switch and m.id == recipe.rest)
        for m in recipe.modes
    ]  # fmt: skip
    happenings: list[Session | Wake] = []
    for happens, when in zip(recipe.happens, occasions, strict=True):
        key, name = f"{happens.mode}-time", happens.name
        if when.every_s is not None:
            happenings.append(Wake(id=key, name=name, mode=happens.mode, every_s=when.every_s, awake_s=when.seconds))
        else:
            happenings.append(
                Session(id=key, name=name, mode=happens.mode, seconds=when.seconds, per_day=when.per_day or len(when.at_h), at_h=when.at_h)
            )  # fmt: skip
    place = answers.place or recipe.place
    brief = {"goal_h": answers.goal_h or recipe.goal_h, "outer_max_mm": answers.outer_max_mm, **PLACES[place]}
    cell = catalogue.by_key["cell-pouch-503040"].cell
    assert cell is not None
    rails = [Rail(id=r, name=r.capitalize(), feed=BATTERY) for r in dict.fromkeys(p.rail for p in recipe.parts)]
    return Design(
        format=FORMAT,
        name=answers.name or recipe.gadget,
        summary=recipe.about,
        brief=Brief.model_validate(brief),
        parts=parts,
        modes=modes,
        supply=Supply(stages=[], rails=rails),
        battery=Battery(cell=cell, body=None),
        day=Day(
            rest=recipe.rest,
            sessions=[h for h in happenings if isinstance(h, Session)],
            wakes=[h for h in happenings if isinstance(h, Wake)],
        ),
        enclosure=Enclosure(outer_mm=(60, 90, 24), carried=CARRIED.get(place, "no")),
        guesses=_guesses(recipe, parts, modes, happenings, answers),
    )


def _guesses(
    recipe: Recipe, parts: list[Part], modes: list[Mode], occasions: list[Session | Wake], answers: Answers
) -> list[Guess]:  # fmt: skip
    """What nobody said: how long and how often, unless it was answered, and what each part draws in the states that are used."""
    told = [bool(t.strip()) for t in answers.often or []]
    told += [False] * (len(recipe.happens) - len(told))
    found = [
        Guess(id=f"happens {h.mode}", kind="happens", subject=f"{h.mode}-time", was=happening(o))
        for h, o, answered in zip(recipe.happens, occasions, told, strict=False)
        if not answered
    ]
    for part in parts:
        states = dict.fromkeys(u.state for m in modes for u in m.uses if u.part == part.id)
        drawn = [(s, state_a(next(x for x in part.states if x.name == s))) for s in states]
        found += [
            Guess(id=f"draw {part.id} {s}", kind="draw", subject=part.id, state=s, was=[a]) for s, a in drawn if a > 0
        ]
    return found


def _housed(design: Design, catalogue: Catalogue) -> Design:
    """The smallest case of the same proportions as its contents in which everything has a place."""
    boxes = [sorted(t.body.size_mm, reverse=True) for t in things(design) if t.body is not None]
    if not boxes:
        return design
    long, wide, high = (max(b[k] for b in boxes) for k in range(3))
    volume = sum(float(np.prod(b)) for b in boxes)
    wide = max(wide, volume * 1.6 / (long * high))
    if wide > 1.5 * long:  # two layers rather than a long row
        wide, high = wide / 2, high * 2
    for factor in LARGER:
        x, y, z = (round(v * factor + WALLS_MM) for v in (wide, long, high))
        tried = whole(
            design.model_copy(update={"enclosure": design.enclosure.model_copy(update={"outer_mm": (x, y, z)})})
        )
        if not place_all(tried, anew=True, tries=TRIES).left:
            break
    placed_at = place_all(tried, anew=True, tries=ARRANGEMENTS, warm_w=warm_w(TrialBench(tried, catalogue))).bodies
    return apply_patch(tried, [replace(f"{pointer}/body", body) for pointer, body in placed_at.items()])
