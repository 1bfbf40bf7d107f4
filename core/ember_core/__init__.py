"""Frugal Ember's core: a typed design document in, an evaluation out. No interface, no server, no clock."""

from .design import FORMAT, Design
from .evaluation import Evaluation, evaluate
from .problems import DocumentError, Problem
from .references import build_design, read_design

__all__ = ["FORMAT", "Design", "DocumentError", "Evaluation", "Problem", "build_design", "evaluate", "read_design"]
