"""Keeping the processes of the application alive: one that ends by itself is started again, with growing pauses."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, field

from .base import Trouble, say
from .processes import Child, end_group

FIRST_PAUSE_S, LONGEST_PAUSE_S = 0.5, 30.0
STEADY_S = 60.0  # one that ran for so long begins with the first pause again


@dataclass
class Service:
    """A process that is to run: how it is started, and how it went so far."""

    name: str
    begin: Callable[[], Child]
    child: Child | None = None
    clock: Callable[[], float] = time.monotonic
    _began: float = 0.0
    _pause: float = FIRST_PAUSE_S
    _due: float | None = field(default=None)

    def start(self) -> None:
        self.child = self.begin()
        self._began = self.clock()

    def tend(self) -> None:
        """Looks after it: notices that it ended, and starts it again once its pause is over."""
        now = self.clock()
        if self._due is None:
            if self.child is not None and self.child.running():
                return
            if now - self._began > STEADY_S:
                self._pause = FIRST_PAUSE_S
            if self.child is not None:
                end_group(self.child.process.pid)  # workers of a server that is gone
            say(f"the {self.name} process ended by itself (see var/log/{self.name}.log); starting it again in "
                f"{self._pause:g} s")  # fmt: skip
            self._due, self._pause = now + self._pause, min(2 * self._pause, LONGEST_PAUSE_S)
        elif now >= self._due:
            self._due = None
            try:
                self.start()
            except Trouble as error:
                say(f"the {self.name} process could not be started: {error}")
                self.child, self._began = None, self.clock()

    def stop(self) -> None:
        if self.child is not None:
            self.child.stop()
