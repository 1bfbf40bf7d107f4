"""What the web server's processes do on their own: each has a limit on its memory, and leaves what it was started with
out of the search for garbage, which would go through all of Django in the middle of an evaluation."""

from __future__ import annotations

import gc
import resource
from typing import Any

MOST_MEMORY = 3 * 2**30  # bytes of addresses, libraries included; what needs more gets a MemoryError

GARBAGE_EVERY = 20_000  # objects; an evaluation makes a few thousand


def post_fork(server: Any, worker: Any) -> None:
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    gc.freeze()
    gc.set_threshold(GARBAGE_EVERY)
