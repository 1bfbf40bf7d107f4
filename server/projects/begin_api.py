"""Begin with a question: the recipes, what a few answers come to, and a gadget made of them."""

from __future__ import annotations

from ninja import Router

from common.requests import SignedIn
from ember_core.recipes import RECIPES, Answers, Begun, Recipe

from . import services
from .api import _project
from .demo import add_examples
from .schemas import ProjectOut

router = Router(tags=["begin"])


@router.get("/recipes", response=list[Recipe])
def list_recipes(request: SignedIn) -> list[Recipe]:
    return list(RECIPES)


@router.post("/recipes/begin", response=Begun)
def ask_for_beginning(request: SignedIn, answers: Answers) -> Begun:
    """The design that the answers describe, judged. Nothing is stored."""
    return services.beginning(request.user, answers)


@router.post("/projects/from-answers", response=ProjectOut)
def create_from_answers(request: SignedIn, answers: Answers) -> ProjectOut:
    return _project(request, services.create_from_answers(request.user, answers))


@router.post("/projects/examples", response=list[ProjectOut])
def create_examples(request: SignedIn) -> list[ProjectOut]:
    """The demos as gadgets of one's own."""
    return [_project(request, p) for p in add_examples(request.user)]
