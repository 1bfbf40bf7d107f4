"""The schools of supply: what a gadget becomes on cells that are swapped, a pouch and charger, a module, a board's own input, a power bank."""

from .answer import SchoolAnswer, answer_schools, shown
from .packs import SCHOOLS, SchoolKey, school_of

__all__ = ["SCHOOLS", "SchoolAnswer", "SchoolKey", "answer_schools", "school_of", "shown"]
