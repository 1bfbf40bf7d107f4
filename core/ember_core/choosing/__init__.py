"""The supply chosen by search: every pack, charger and stage of the catalogue in every place, and the designs that no other beats."""

from .answer import ChoiceAnswer, ChoiceRow, answer_choice, choice_shown, chosen_design
from .places import AIMS, Aim
from .search import Going

__all__ = ["AIMS", "Aim", "ChoiceAnswer", "ChoiceRow", "Going", "answer_choice", "choice_shown", "chosen_design"]
