"""Answers to "what if": each option is the changed design, evaluated whole."""

from .rail import ConverterChoice, RailAnswers, RailOption, answer_rail

__all__ = ["ConverterChoice", "RailAnswers", "RailOption", "answer_rail"]
