"""A design in, everything that is known about it out."""

from .evaluate import Evaluation, evaluate

__all__ = ["Evaluation", "evaluate"]
