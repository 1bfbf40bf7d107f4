"""Frugal Ember's core: a typed design document in, an evaluation out. No interface, no server, no clock."""

from .design import FORMAT, Design
from .design.problems import DocumentError, Problem
from .design.references import build_design, read_design
from .evaluation import Evaluation, evaluate

VERSION = "0.5"  # goes up when the same document may get other figures

__all__ = [
    "FORMAT",
    "VERSION",
    "Design",
    "DocumentError",
    "Evaluation",
    "Problem",
    "build_design",
    "evaluate",
    "read_design",
]
