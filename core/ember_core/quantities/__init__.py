"""Figures with units: read as people write them, shown as people read them, and the preferred values of components."""

from .reading import Spanned, parse_quantity, parse_span, unit_in_heading
from .showing import MINUS, NO_BREAK, about, clock, ratio, show
from .units import Dimension, QuantityError, units_table

__all__ = [
    "MINUS", "NO_BREAK", "Dimension", "QuantityError", "Spanned", "about", "clock", "parse_quantity", "parse_span", "ratio", "show",
    "unit_in_heading", "units_table",
]  # fmt: skip
