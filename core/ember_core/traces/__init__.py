"""Traces: measured courses of current, cut into the modes of a design and held against it."""

from .assigned import Assigned, overlaid
from .cutting import Stretch, cut
from .judging import TraceAnswer, TraceMode, TraceStretch, judge_trace, trace_text
from .phases import TracePhase
from .reading import UnitAsked, read_recording
from .recording import Recording
from .reduced import Reduced, TracePicture, TraceWindow, reduced, unpacked
from .replay import Replay, replay
from .simulated import Truth, simulated

__all__ = [
    "Assigned",
    "Recording",
    "Reduced",
    "Replay",
    "Stretch",
    "TraceAnswer",
    "TraceMode",
    "TracePhase",
    "TracePicture",
    "TraceStretch",
    "TraceWindow",
    "Truth",
    "UnitAsked",
    "cut",
    "judge_trace",
    "overlaid",
    "read_recording",
    "reduced",
    "replay",
    "simulated",
    "trace_text",
    "unpacked",
]  # fmt: skip
