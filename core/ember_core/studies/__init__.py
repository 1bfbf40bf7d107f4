"""Answers that are asked for, because they take longer than an edit should: each option is the changed design,
evaluated whole."""

from .cells import CellChoice, Depth, answer_cells
from .charging import ChargeAnswer, HeatAnswer, answer_charge, answer_heat
from .day import DayTrace, answer_day
from .gaps import GapsAnswer, answer_gaps
from .holding import HoldingOffer, answer_holding
from .instead import InsteadAnswer, answer_instead
from .intervals import IntervalCurve, answer_intervals
from .outlook import Outlook, answer_outlook
from .placing import PlaceAnswer, answer_place
from .rail import ConverterChoice, RailAnswers, RailOption, answer_rail
from .range import RangeAnswer, answer_range
from .remedies import RemedyAnswer, answer_remedies
from .savings import Saving, Stack, answer_savings, stack_savings
from .section import SectionAnswer, answer_section
from .shell import ShellAnswer, answer_shell
from .smallest import SmallestCase, answer_smallest
from .soc_table import SocTable, answer_soc_table

__all__ = [
    "CellChoice",
    "ChargeAnswer",
    "ConverterChoice",
    "DayTrace",
    "Depth",
    "GapsAnswer",
    "HeatAnswer",
    "HoldingOffer",
    "InsteadAnswer",
    "IntervalCurve",
    "Outlook",
    "PlaceAnswer",
    "RailAnswers",
    "RailOption",
    "RangeAnswer",
    "RemedyAnswer",
    "Saving",
    "SectionAnswer",
    "ShellAnswer",
    "SmallestCase",
    "SocTable",
    "Stack",
    "answer_cells",
    "answer_charge",
    "answer_day",
    "answer_gaps",
    "answer_heat",
    "answer_holding",
    "answer_instead",
    "answer_intervals",
    "answer_outlook",
    "answer_place",
    "answer_rail",
    "answer_range",
    "answer_remedies",
    "answer_savings",
    "answer_section",
    "answer_shell",
    "answer_smallest",
    "answer_soc_table",
    "stack_savings",
]  # fmt: skip
