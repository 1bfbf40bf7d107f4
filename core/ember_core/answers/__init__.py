"""Answers to "what if": each option is the changed design, evaluated whole."""

from .cells import CellChoice, answer_cells
from .rail import ConverterChoice, RailAnswers, RailOption, answer_rail

__all__ = ["CellChoice", "ConverterChoice", "RailAnswers", "RailOption", "answer_cells", "answer_rail"]
