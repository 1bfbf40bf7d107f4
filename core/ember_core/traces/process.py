"""`python -m ember_core.traces.process UNITS [rundown]`: reads a recording, or a run-down, from its standard input in a process that may take so
much memory and time and no more. Writes a line of JSON, `{"samples": ..., "seconds": ..., "packed": bytes}`, `{"asked": column, "choices": [...]}` or
`{"problem": ...}`, and after the first of these the recording as it is kept. UNITS is JSON."""

from __future__ import annotations

import json
import resource
import sys
from typing import Any

from ..design.problems import DocumentError
from ..words import say
from .reading import UnitAsked, read_recording
from .recording import Recording
from .rundown import course_of
from .samples import Kept

MOST_MEMORY = 3 << 29  # what thirty million samples need, with the library's own
MOST_SECONDS = 120


def run_down_kept(recording: Recording) -> Kept:
    """What is kept of a recording that is a run-down: its course.

    >>> import numpy as np
    >>> kept = run_down_kept(Recording(np.arange(100.0), np.full(100, 0.1), 4 - np.arange(100) / 1000))
    >>> kept.samples, kept.seconds
    (100, 100.0)
    """
    return Kept(course_of(recording).packed(), recording.time_s.size, recording.seconds)


def main(arguments: list[str]) -> int:
    resource.setrlimit(resource.RLIMIT_DATA, (MOST_MEMORY, MOST_MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (MOST_SECONDS, MOST_SECONDS))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    content, told = b"", dict[str, Any]()
    try:
        run_down = arguments[1:] == ["rundown"]
        recording = read_recording(sys.stdin.buffer, json.loads(arguments[0]) if arguments else None, run_down=run_down)
        kept = run_down_kept(recording) if run_down else Kept.of(recording)
        told, content = kept.told, kept.packed + kept.whole
    except UnitAsked as asked:
        told = {"asked": asked.column, "choices": asked.choices}
    except DocumentError as error:
        told = {"problem": error.problems[0].message}
    except MemoryError:
        told = {"problem": say("traces.memory")}
    sys.stdout.buffer.write(json.dumps(told).encode() + b"\n" + content)
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
