"""Traces: measured courses of current, cut into the modes of a design and held against it."""

from .cutting import Stretch, cut
from .judging import TraceAnswer, TraceMode, TraceStretch, judge_trace, trace_text
from .reading import UnitAsked, read_recording
from .recording import Recording
from .reduced import Reduced, TracePicture, reduced, unpacked
from .simulated import Truth, simulated

__all__ = [
    "Recording",
    "Reduced",
    "Stretch",
    "TraceAnswer",
    "TraceMode",
    "TracePicture",
    "TraceStretch",
    "Truth",
    "UnitAsked",
    "cut",
    "judge_trace",
    "read_recording",
    "reduced",
    "simulated",
    "trace_text",
    "unpacked",
]  # fmt: skip
