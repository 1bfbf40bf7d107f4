"""What the web server's processes do on their own: each has a limit on its memory, and leaves what it was started with
out of the search for garbage, which would go through all of Django in the middle of an evaluation. A request that waits for
the database gets back soon into the interpreter beside one that computes: by default it would wait 5 ms after every query."""

from __future__ import annotations

import gc
import resource
import sys
from pathlib import Path
from typing import Any

DEMOS = Path(__file__).resolve().parents[2] / "demo"
MOST_MEMORY = 3 * 2**30  # bytes of addresses, libraries included; what needs more gets a MemoryError

GARBAGE_EVERY = 20_000  # objects; an evaluation makes a few thousand
TURNS_S = 0.0005


def post_fork(server: Any, worker: Any) -> None:
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    gc.freeze()
    gc.set_threshold(GARBAGE_EVERY)
    sys.setswitchinterval(TURNS_S)


def post_worker_init(worker: Any) -> None:
    """What is read at the first evaluation is read before anybody waits for it."""
    from ember_core import evaluate, read_design

    evaluate(read_design(next(DEMOS.glob("*.json")).read_bytes()))
    gc.freeze()
