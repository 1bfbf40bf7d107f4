"""The schools of supply: what a gadget becomes on cells that are swapped, a pouch and charger, a module, a board's own input, a power bank."""

from .answer import SchoolAnswer, answer_schools, placed_in_case, shown, told
from .packs import SCHOOLS, SchoolKey, school_of

__all__ = ["SCHOOLS", "SchoolAnswer", "SchoolKey", "answer_schools", "placed_in_case", "school_of", "shown", "told"]
