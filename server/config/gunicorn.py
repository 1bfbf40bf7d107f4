"""What the web server's processes do on their own: each has a limit on its memory."""

from __future__ import annotations

import resource
from typing import Any

MOST_MEMORY = 3 * 2**30  # bytes of addresses, libraries included; what needs more gets a MemoryError


def post_fork(server: Any, worker: Any) -> None:
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
