"""Begin with a question: a few answers become a whole design, whose guesses are marked."""

from .begin import Answers, Begun, begin
from .recipe import RECIPES, Recipe

__all__ = ["RECIPES", "Answers", "Begun", "Recipe", "begin"]
