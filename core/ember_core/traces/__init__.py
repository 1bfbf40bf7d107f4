"""Traces: measured courses of current, cut into the modes of a design and held against it."""

from .assigned import Assigned, overlaid
from .cutting import Stretch, cut
from .judging import TraceAnswer, TraceMode, TraceStretch, judge_trace, trace_text
from .phases import TracePhase
from .reading import UnitAsked, read_recording
from .recording import Recording
from .reduced import Reduced, TracePicture, TraceWindow, reduced, unpacked
from .replay import Replay, replay
from .rundown import Course, RunDown, course_of, judge_rundown, rundown_text, unpacked_course
from .samples import Kept, packed_samples, samples_between
from .simulated import Truth, simulated, simulated_run_down

__all__ = [
    "Assigned",
    "Course",
    "Kept",
    "Recording",
    "Reduced",
    "Replay",
    "RunDown",
    "Stretch",
    "TraceAnswer",
    "TraceMode",
    "TracePhase",
    "TracePicture",
    "TraceStretch",
    "TraceWindow",
    "Truth",
    "UnitAsked",
    "course_of",
    "cut",
    "judge_rundown",
    "judge_trace",
    "overlaid",
    "packed_samples",
    "read_recording",
    "reduced",
    "replay",
    "rundown_text",
    "samples_between",
    "simulated",
    "simulated_run_down",
    "trace_text",
    "unpacked",
    "unpacked_course",
]  # fmt: skip
