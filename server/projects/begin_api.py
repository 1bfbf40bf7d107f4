"""Begin with a question: the recipes, what a few answers come to, and a gadget made of them."""

from __future__ import annotations

from ninja import Router, Schema

from catalogue.services import catalogue_for
from config.requests import SignedIn
from ember_core import Design, evaluate
from ember_core.figures import Verdict
from ember_core.recipes import RECIPES, Answers, Begun, Recipe, begin
from ember_core.reports.guesses import GuessRow

from . import services
from .api import _project
from .demo import add_examples
from .schemas import ProjectOut

router = Router(tags=["begin"])


class Beginning(Schema):
    """What the answers come to: the design, what was taken for it, and its verdicts."""

    begun: Begun
    made_of: list[str]
    verdicts: list[Verdict]
    guesses: list[GuessRow]


@router.get("/recipes", response=list[Recipe])
def list_recipes(request: SignedIn) -> list[Recipe]:
    return list(RECIPES)


@router.post("/recipes/begin", response=Beginning)
def ask_for_beginning(request: SignedIn, answers: Answers) -> Beginning:
    """The design that the answers describe, judged. Nothing is stored."""
    catalogue = catalogue_for(request.user)
    begun = begin(answers, catalogue)
    found = evaluate(begun.design, catalogue)
    return Beginning(begun=begun, made_of=_made_of(begun.design), verdicts=found.verdicts, guesses=found.guesses)


@router.post("/projects/from-answers", response=ProjectOut)
def create_from_answers(request: SignedIn, answers: Answers) -> ProjectOut:
    return _project(services.create_from_answers(request.user, answers))


@router.post("/projects/examples", response=list[ProjectOut])
def create_examples(request: SignedIn) -> list[ProjectOut]:
    """The demos as gadgets of one's own."""
    return [_project(p) for p in add_examples(request.user)]


def _made_of(design: Design) -> list[str]:
    """What is in it, in a line each."""
    cell = design.battery.cell.name
    battery = cell if design.battery.series == 1 else f"{design.battery.series} × {cell}"
    charger = [design.charger.name] if design.charger else []
    return [*(p.name for p in design.parts), battery, *(s.name for s in design.supply.stages), *charger]
