"""Child processes with their pid on record, so that `stop` ends exactly what `start` began."""

from __future__ import annotations

import contextlib
import os
import signal
import subprocess
from dataclasses import dataclass
from pathlib import Path

from .base import LOGS, ROOT, RUN, wait_until


@dataclass
class Child:
    """A process of ours: its own process group, its output in a log, its pid in var/run."""

    name: str
    process: subprocess.Popen[bytes]

    @classmethod
    def start(cls, name: str, command: list[str], env: dict[str, str] | None = None) -> Child:
        with (LOGS / f"{name}.log").open("ab") as log:
            process = subprocess.Popen(
                command, cwd=ROOT, env=env, stdin=subprocess.DEVNULL, stdout=log, stderr=subprocess.STDOUT,
                start_new_session=True,
            )  # fmt: skip
        write_pid(name, process.pid)
        return cls(name, process)

    def running(self) -> bool:
        return self.process.poll() is None

    def stop(self) -> None:
        if self.running():
            self.process.terminate()
            try:
                self.process.wait(30)
            except subprocess.TimeoutExpired:
                self.process.kill()
                self.process.wait(10)
        forget_pid(self.name)


def _pid_file(name: str) -> Path:
    return RUN / f"{name}.pid"


def write_pid(name: str, pid: int) -> None:
    _pid_file(name).write_text(f"{pid} {_started(pid)}")


def forget_pid(name: str) -> None:
    _pid_file(name).unlink(missing_ok=True)


def _started(pid: int) -> str:
    """When a process began, in clock ticks: tells it from a later one with the same number."""
    try:
        return (Path("/proc") / str(pid) / "stat").read_text().rsplit(")", 1)[1].split()[19]
    except (OSError, IndexError):
        return ""


def read_pid(name: str) -> int | None:
    try:
        return int(_pid_file(name).read_text().split()[0])
    except (OSError, ValueError, IndexError):
        return None


def alive(pid: int, name: str) -> bool:
    """True if this very process, on record under `name`, still runs."""
    try:
        recorded = _pid_file(name).read_text().split()
    except OSError:
        return False
    return len(recorded) == 2 and recorded[0] == str(pid) and recorded[1] == _started(pid) != ""


def kill_child(name: str) -> bool:
    """Ends a process on record whose parent is gone. Returns whether there was one."""
    pid = read_pid(name)
    if pid is None or not alive(pid, name):
        forget_pid(name)
        return False
    for sig, seconds in ((signal.SIGTERM, 30.0), (signal.SIGKILL, 5.0)):
        with contextlib.suppress(ProcessLookupError):
            os.kill(pid, sig)
        if wait_until(lambda: not alive(pid, name), seconds):
            break
    forget_pid(name)
    return True
